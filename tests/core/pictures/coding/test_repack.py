"""Tighter packing of the same coefficients and samples, against libjpeg-turbo and Pillow."""

import io
import subprocess
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from skimage import data

from lighten.pictures.coding.repack import repack
from lighten.pictures.coding.stored import StoredCoding, StoredPicture
from tests.builders import Pixels
from tests.core.formats.picture.samples import photo_bytes

_PHOTO = data.astronaut()


def stored(kind: str, content: bytes, pixels: Pixels) -> StoredPicture:
    return StoredPicture(
        data=content,
        weight=len(content),
        coding=StoredCoding.JPEG if kind == "JPEG" else StoredCoding.PNG,
        width_px=pixels.shape[1],
        height_px=pixels.shape[0],
        bits=8,
        colours=1 if pixels.ndim == 2 else 3,
    )


def coefficients(jpeg: bytes) -> bytes:
    """The file with the same coefficients (ITU-T T.81, A.3.4) in the one plain form of jpegtran.

    Baseline, with the tables of annex K.3: equal exactly where all coefficients and tables are.
    """
    return subprocess.run(
        ["jpegtran", "-copy", "none"], input=jpeg, capture_output=True, check=True
    ).stdout


class Coefficients(unittest.TestCase):
    def assert_kept(self, pixels: Pixels, **options: Any) -> None:
        content = photo_bytes("JPEG", pixels, **options)
        packed = repack(stored("JPEG", content, pixels))
        assert packed is not None
        self.assertEqual(coefficients(packed.data), coefficients(content))

    def test_coefficients_stay_in_every_form_that_cameras_write(self) -> None:
        for options in (
            {"quality": 95},
            {"quality": 60, "subsampling": 0},
            {"quality": 80, "subsampling": 1},
            {"quality": 80, "progressive": True},
            {"quality": 90, "restart_marker_rows": 1},
        ):
            with self.subTest(options=options):
                self.assert_kept(_PHOTO, **options)

    @given(width=st.integers(1, 40), height=st.integers(1, 40), quality=st.integers(1, 100))
    def test_coefficients_stay_at_any_size_and_quality(
        self, width: int, height: int, quality: int
    ) -> None:
        self.assert_kept(data.camera()[200 : 200 + height, 200 : 200 + width], quality=quality)

    def test_coefficients_are_packed_tighter(self) -> None:
        content = photo_bytes("JPEG", _PHOTO, quality=90)
        packed = repack(stored("JPEG", content, _PHOTO))
        assert packed is not None
        self.assertLess(packed.weight, 0.97 * len(content))


class Samples(unittest.TestCase):
    def test_samples_stay_in_a_png_of_any_kind(self) -> None:
        deep = (data.camera().astype(np.uint16) * 250 + 7)[:128, :128]
        for image in (
            Image.fromarray(_PHOTO[:128, :128]),
            Image.fromarray(data.camera()[:128, :128]),
            Image.fromarray(deep),
            Image.fromarray(_PHOTO[:128, :128]).quantize(16),
            Image.fromarray(_PHOTO[:128, :128]).convert("RGBA"),
            Image.fromarray(data.camera()[:128, :128]).convert("1"),
        ):
            with self.subTest(mode=image.mode):
                out = io.BytesIO()
                image.save(out, "PNG", compress_level=1)
                packed = repack(stored("PNG", out.getvalue(), np.asarray(image)))
                assert packed is not None
                self.assertLess(packed.weight, len(out.getvalue()))
                after = Image.open(io.BytesIO(packed.data))
                wide = "I" if image.mode.startswith("I") else "RGBA"
                same = np.array_equal(np.asarray(image.convert(wide)), after.convert(wide))
                self.assertTrue(same)

    def test_samples_of_other_codings_have_no_such_way(self) -> None:
        other = replace(stored("PNG", b"", _PHOTO), coding=StoredCoding.CCITT)
        self.assertIsNone(repack(other))

    def test_damaged_samples_are_reported(self) -> None:
        for kind in ("JPEG", "PNG"):
            content = photo_bytes(kind, _PHOTO)[:200]
            with self.assertRaises((ValueError, OSError)):
                repack(stored(kind, content, _PHOTO))
