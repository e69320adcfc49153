"""The resolution written into a picture file, as Pillow reads it."""

import io
import unittest

import numpy as np
from PIL import Image

from lighten.pictures.files import with_resolution
from tests.builders import landscape
from tests.core.formats.picture.samples import photo_bytes


class Told(unittest.TestCase):
    def test_a_jpeg_without_a_resolution_gets_one(self) -> None:
        for kind in ("JPEG", "PNG"):
            with self.subTest(kind):
                plain = photo_bytes(kind, landscape(60, 40, 1))
                told = Image.open(io.BytesIO(with_resolution(plain, 300)))
                for dots in told.info["dpi"]:
                    self.assertAlmostEqual(dots, 300, delta=0.01)
                before = np.asarray(Image.open(io.BytesIO(plain)))
                np.testing.assert_array_equal(np.asarray(told), before)

    def test_a_jpeg_without_any_header(self) -> None:
        plain = photo_bytes("JPEG", landscape(60, 40, 1))
        length = int.from_bytes(plain[4:6], "big")
        bare = plain[:2] + plain[4 + length :]
        told = Image.open(io.BytesIO(with_resolution(bare, 150)))
        self.assertEqual(told.info["dpi"], (150, 150))
        told.load()

    def test_a_recorded_resolution_and_other_files_stay_unchanged(self) -> None:
        fine = photo_bytes("JPEG", landscape(60, 40, 1), dpi=(600, 600))
        for content in (fine, b"", b"no picture", fine[:30]):
            self.assertEqual(with_resolution(content, 300), content)
