"""Two planes brought together, against scipy's and known shifts."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage
from skimage import data

from lighten.pictures.faults.align import aligned, as_light, as_sharp, sharpness_share

_PHOTO = np.ascontiguousarray(data.camera()[100:260, 150:330], np.float32)
# Nothing is known of what lies beyond the edge.
_WITHIN = (slice(12, -12), slice(12, -12))


def moved(plane: np.ndarray, down: float, across: float) -> np.ndarray:
    return ndimage.shift(plane, (down, across), order=3, mode="nearest").astype(np.float32)


def off(first: np.ndarray, second: np.ndarray) -> float:
    return float(np.abs(first[_WITHIN] - second[_WITHIN]).mean())


class Aligned(unittest.TestCase):
    @settings(max_examples=15, deadline=None)
    @given(st.floats(-1.5, 1.5), st.floats(-1.5, 1.5))
    def test_aligned_lies_where_the_copy_does(self, down: float, across: float) -> None:
        copy = moved(_PHOTO, down, across)
        before, after = off(_PHOTO, copy), off(aligned(_PHOTO, copy), copy)
        if max(abs(down), abs(across)) > 0.5:
            self.assertLess(after, before / 2)
        else:
            self.assertLessEqual(after, before + 0.01)

    def test_aligned_regions_are_left_unchanged(self) -> None:
        self.assertIs(aligned(_PHOTO, _PHOTO), _PHOTO)
        self.assertIs(aligned(_PHOTO, moved(_PHOTO, 0.05, 0)), _PHOTO)

    def test_another_picture_is_not_moved_far(self) -> None:
        other = np.ascontiguousarray(data.coins()[:160, :180], np.float32)
        self.assertLess(off(aligned(_PHOTO, other), _PHOTO), off(other, _PHOTO))

    def test_an_even_region_has_no_shift(self) -> None:
        even = np.full((40, 40), 200, np.float32)
        self.assertIs(aligned(even, even - 3), even)


class Light(unittest.TestCase):
    def test_paper_that_became_lighter_is_no_difference(self) -> None:
        page = np.full((120, 120), 220, np.float32)
        page[30:90:9, 20:100] = 40
        copy = page + 8
        light = as_light(page, copy, 40)
        paper = page == 220
        self.assertLess(np.abs(light - copy)[paper].mean(), 1.5)

    def test_paper_of_the_same_tone_stays(self) -> None:
        page = np.full((90, 90), 235, np.float32)
        np.testing.assert_allclose(as_light(page, page, 30), page, atol=0.3)


class Sharp(unittest.TestCase):
    def test_the_share_of_sharp_edges_separates_softer_from_sharper(self) -> None:
        soft = ndimage.gaussian_filter(_PHOTO, 0.8).astype(np.float32)
        self.assertLess(sharpness_share(_PHOTO, soft), -0.05)
        self.assertAlmostEqual(sharpness_share(_PHOTO, _PHOTO), 0, delta=0.01)
        crisp = _PHOTO + 0.5 * (_PHOTO - ndimage.gaussian_filter(_PHOTO, 1.0))
        self.assertGreater(sharpness_share(_PHOTO, crisp.astype(np.float32)), 0.2)

    def test_sharp_as_sharp_as_the_copy_is_nearer_to_it(self) -> None:
        soft = ndimage.gaussian_filter(_PHOTO, 0.6).astype(np.float32)
        like = as_sharp(_PHOTO, sharpness_share(_PHOTO, soft))
        self.assertLess(off(like, soft), off(_PHOTO, soft))
