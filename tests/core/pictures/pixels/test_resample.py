"""Fewer pixels, against Pillow's Lanczos window and what a mean must be."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from skimage import data

from lighten.pictures.pixels.resample import resample, resample_opaque, resample_seen

_PHOTO = np.ascontiguousarray(data.astronaut()[:256, :320])
_SIZES = st.tuples(st.integers(1, 40), st.integers(1, 40))


class Resampled(unittest.TestCase):
    def test_looks_as_pillow_makes_it(self) -> None:
        """Two makers of the same window, which round at other places: 1 of 255 in the mean."""
        for size in ((160, 128), (107, 80), (64, 51)):
            with self.subTest(size=size):
                ours = resample(_PHOTO, size).astype(float)
                theirs = Image.fromarray(_PHOTO).resize(size, Image.Resampling.LANCZOS)
                difference = np.abs(ours - np.asarray(theirs, float))
                self.assertLess(difference.mean(), 1.0)

    def test_resampled_of_16_bits_keeps_all_of_them(self) -> None:
        deep = _PHOTO.astype(np.uint16) * 257
        small = resample(deep, (160, 128))
        self.assertEqual(small.dtype, np.uint16)
        off = np.abs(small / 257 - resample(_PHOTO, (160, 128)))
        self.assertLess(off.mean(), 1.0)

    @settings(max_examples=40, deadline=None)
    @given(_SIZES, st.integers(0, 255), st.sampled_from([(30, 50), (30, 50, 3)]))
    def test_resampled_has_the_size_that_was_asked_for_and_keeps_an_even_colour(
        self, size: tuple[int, int], level: int, shape: tuple[int, ...]
    ) -> None:
        small = resample(np.full(shape, level, np.uint8), size)
        self.assertEqual(small.shape, (size[1], size[0], *shape[2:]))
        self.assertLessEqual(np.abs(small.astype(int) - level).max(), 1)

    def test_resampled_at_its_own_size_is_the_same(self) -> None:
        self.assertIs(resample(_PHOTO, (320, 256)), _PHOTO)


class SeeThrough(unittest.TestCase):
    def test_invisible_pixels_give_their_neighbours_no_colour(self) -> None:
        """Red beside see-through green: at half the pixels, nothing that is seen is greenish."""
        pixels = np.zeros((40, 40, 3), np.uint8)
        pixels[:, :19], pixels[:, 19:] = (255, 0, 0), (0, 255, 0)
        opacity = np.zeros((40, 40), np.uint8)
        opacity[:, :19] = 255
        colours, opaque = resample_opaque(pixels, opacity, (20, 20))
        seen = opaque > 8
        self.assertTrue(seen.any())
        self.assertLess(colours[seen][:, 1].max(), 24)
        visible = opacity > 0
        colours, share = resample_seen(pixels, visible, (20, 20))
        self.assertEqual(colours[share > 8][:, 1].max(), 0)

    def test_grey_stays_grey(self) -> None:
        grey = np.full((20, 30), 90, np.uint8)
        colours, opaque = resample_opaque(grey, np.full_like(grey, 255), (15, 10))
        self.assertEqual((colours.shape, opaque.shape), ((10, 15), (10, 15)))
        self.assertTrue((colours == 90).all() and (opaque == 255).all())

    def test_see_through_of_nothing_visible_is_white(self) -> None:
        pixels = np.zeros((8, 8), np.uint8)
        colours, share = resample_seen(pixels, np.zeros((8, 8), bool), (4, 4))
        self.assertTrue((colours == 255).all() and not share.any())
