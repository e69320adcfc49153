"""Picture files as blocks, against Pillow, which wrote them and reads what is built of them."""

import io
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from skimage import data

from lighten.pictures.coding.coded import Holder
from lighten.pictures.coding.encode import encode_as_jpeg
from lighten.pictures.coding.encode_exactly import encode_exactly
from lighten.pictures.files import (
    BadPictureError,
    Carried,
    build_picture_file,
    kind_of_picture,
    read_picture_file,
)
from tests.core.formats.picture.samples import camera_exif, photo_bytes, srgb_profile, xmp_packet

_KINDS = ("JPEG", "PNG", "WEBP", "GIF", "BMP")
_SMALL = data.astronaut()[100:190, 180:300]


class Blocks(unittest.TestCase):
    @given(
        kind=st.sampled_from(_KINDS),
        width=st.integers(1, 70),
        height=st.integers(1, 70),
        after=st.binary(max_size=40),
    )
    def test_blocks_add_up_to_the_file_with_any_bytes_after_its_end(
        self, kind: str, width: int, height: int, after: bytes
    ) -> None:
        file = read_picture_file(photo_bytes(kind, _SMALL[:height, :width]) + after)
        self.assertEqual(sum(block.size_bytes for block in file.blocks), len(file.data))
        shape = _SMALL[:height, :width].shape
        self.assertEqual((file.height_px, file.width_px), shape[:2])

    def test_blocks_match_those_that_pillow_reads(self) -> None:
        for kind in _KINDS:
            for mode in ("RGB", "L", "P"):
                if (kind, mode) in {("JPEG", "P"), ("WEBP", "P"), ("WEBP", "L")}:
                    continue
                with self.subTest(kind=kind, mode=mode):
                    content = photo_bytes(kind, _SMALL, mode=mode)
                    file = read_picture_file(content)
                    self.assertEqual(kind_of_picture(content).upper(), kind)
                    with Image.open(io.BytesIO(content)) as image:
                        self.assertEqual((file.width_px, file.height_px), image.size)
                        # Pillow takes a palette of greys in a BMP for grey.
                        is_mapped = image.mode == "P" or (kind, mode) == ("BMP", "L")
                    self.assertEqual(file.has_palette, is_mapped)

    def test_truncated_blocks_are_refused_or_read_as_far_as_they_go(self) -> None:
        for kind in _KINDS:
            content = photo_bytes(kind, _SMALL)
            for share in (0.02, 0.1, 0.5, 0.9):
                with self.subTest(kind=kind, share=share), self.assertRaises(BadPictureError):
                    read_picture_file(content[: int(len(content) * share)])


class Built(unittest.TestCase):
    def test_files_show_the_coded_pixels_and_carry_what_they_are_given(self) -> None:
        carried = Carried(
            exif=camera_exif(), xmp=xmp_packet(), profile=srgb_profile(), dots=(300.0, 300.0)
        )
        exact = encode_exactly(_SMALL, holder=Holder.FILE)
        lossy = encode_as_jpeg(_SMALL, quality=80, floor=0.9, holder=Holder.FILE)
        for coded in (exact, lossy):
            with self.subTest(coding=coded.coding):
                content = build_picture_file(coded, carried)
                with Image.open(io.BytesIO(content)) as image:
                    self.assertEqual(image.info["icc_profile"], srgb_profile())
                    self.assertEqual(image.getexif()[0x013B], "A. Warden")
                    self.assertEqual([round(dot) for dot in image.info["dpi"]], [300, 300])
                    error = np.abs(np.asarray(image.convert("RGB"), int) - _SMALL).mean()
                self.assertLess(error, 0.5 if coded is exact else 6)
                read = read_picture_file(content)
                self.assertEqual(read.profile, srgb_profile())
