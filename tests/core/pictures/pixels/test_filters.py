"""Filters do what their names say, and nothing at strength 0."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from scipy.ndimage import rotate

from demo.scenery import landscape, logbook_page
from lighten.model.treatments import Filter, FilterKind
from lighten.pictures.pixels.filters import apply_filters, skew_degrees

PAGE = logbook_page(620, 880, 5)
PHOTO = landscape(160, 120, 3)


def filtered(pixels: np.ndarray, kind: FilterKind, strength: float = 0.5) -> np.ndarray:
    return apply_filters(pixels, (Filter(kind=kind, strength=strength),))


class Filters(unittest.TestCase):
    @given(st.sampled_from(FilterKind), st.floats(0, 1), st.booleans())
    def test_filters_keep_size_and_depth(
        self, kind: FilterKind, strength: float, is_grey: bool
    ) -> None:
        pixels = PHOTO[..., 1] if is_grey else PHOTO
        after = filtered(np.ascontiguousarray(pixels), kind, strength)
        self.assertEqual((after.shape, after.dtype), (pixels.shape, np.uint8))

    def test_tone_filters_do_nothing_at_no_strength(self) -> None:
        for kind in (FilterKind.BRIGHTEN, FilterKind.DARKEN, FilterKind.CONTRAST):
            np.testing.assert_array_equal(filtered(PHOTO, kind, 0), PHOTO)

    def test_lighten_and_darken_keep_black_and_white(self) -> None:
        ends = np.array([[0, 255]], np.uint8)
        for kind in (FilterKind.BRIGHTEN, FilterKind.DARKEN):
            np.testing.assert_array_equal(filtered(ends, kind, 1), ends)
        self.assertGreater(filtered(PHOTO, FilterKind.BRIGHTEN).mean(), PHOTO.mean())
        self.assertLess(filtered(PHOTO, FilterKind.DARKEN).mean(), PHOTO.mean())

    def test_sharpen_makes_edges_steeper(self) -> None:
        steps = lambda pixels: np.abs(np.diff(pixels.astype(int), axis=1)).mean()  # noqa: E731
        self.assertGreater(steps(filtered(PHOTO, FilterKind.SHARPEN)), steps(PHOTO))

    def test_paper_becomes_white_and_ink_stays_dark(self) -> None:
        page = (PAGE.astype(float) * 0.9).astype(np.uint8)
        after = filtered(page, FilterKind.WHITEN_PAPER)
        self.assertGreater(np.median(after), 250)
        self.assertLess(after.min(), page.min() + 20)

    def test_specks_go_and_strokes_stay(self) -> None:
        page = np.full((80, 80), 230, np.uint8)
        page[40, 10:70] = 20  # a stroke one pixel wide
        page[39:41, 10:70] = 20
        specked = page.copy()
        for place in ((10, 10), (20, 60), (65, 30)):
            specked[place] = 0
        after = filtered(specked, FilterKind.REMOVE_SPECKS, 0.4)
        self.assertTrue((after[[10, 20, 65], [10, 60, 30]] > 200).all())
        self.assertTrue((after[39:41, 14:66] < 60).all())

    def test_filters_are_applied_in_their_order(self) -> None:
        kinds = (Filter(kind=FilterKind.CONTRAST, strength=1), Filter(kind=FilterKind.BRIGHTEN))
        one, other = apply_filters(PHOTO, kinds), apply_filters(PHOTO, kinds[::-1])
        self.assertFalse(np.array_equal(one, other))


class Straightening(unittest.TestCase):
    def turned(self, degrees: float) -> np.ndarray:
        grey = np.asarray(Image.fromarray(PAGE).convert("L"))
        return np.asarray(rotate(grey, degrees, reshape=False, cval=240, order=1), np.uint8)

    def test_straightening_finds_the_turn_that_scipy_made(self) -> None:
        for degrees in (-2.0, 0.7, 3.1):
            found = skew_degrees(self.turned(degrees))
            self.assertAlmostEqual(abs(found), abs(degrees), delta=0.15)

    def test_straightening_leaves_little_turn(self) -> None:
        straight = filtered(self.turned(2.0), FilterKind.STRAIGHTEN)
        self.assertLess(abs(skew_degrees(straight)), 0.2)

    def test_a_photo_without_lines_is_not_turned(self) -> None:
        blank = np.full((200, 200), 200, np.uint8)
        np.testing.assert_array_equal(filtered(blank, FilterKind.STRAIGHTEN), blank)
