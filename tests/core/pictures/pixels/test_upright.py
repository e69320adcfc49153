"""Pixels turned as a camera told, against Pillow, which had no part in it."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image, ImageOps

from lighten.pictures.pixels.upright import upright

_ORIENTATION = 0x0112
_SIDES = st.tuples(st.integers(1, 9), st.integers(1, 9))


class Upright(unittest.TestCase):
    def test_upright_is_what_pillow_shows_for_every_orientation(self) -> None:
        """TIFF 6.0, section 8; Exif 2.32, table 4."""
        pixels = np.arange(2 * 3 * 3, dtype=np.uint8).reshape(2, 3, 3)
        for orientation in range(1, 9):
            with self.subTest(orientation=orientation):
                stored = Image.fromarray(pixels)
                stored.getexif()[_ORIENTATION] = orientation
                shown = ImageOps.exif_transpose(stored)
                assert shown is not None
                np.testing.assert_array_equal(upright(pixels, orientation), np.asarray(shown))

    @given(pixels=_SIDES.flatmap(lambda sides: arrays(np.uint8, sides)), told=st.integers(-3, 300))
    def test_upright_keeps_every_pixel(self, pixels: np.ndarray, told: int) -> None:
        turned = upright(pixels, told)
        self.assertEqual(sorted(turned.flat), sorted(pixels.flat))
        self.assertEqual(
            turned.shape == pixels.shape[::-1],
            told in (5, 6, 7, 8) or (pixels.shape[0] == pixels.shape[1]),
        )

    def test_an_undefined_orientation_changes_nothing(self) -> None:
        pixels = np.arange(6, dtype=np.uint8).reshape(2, 3)
        for told in (0, 9, -1):
            np.testing.assert_array_equal(upright(pixels, told), pixels)
