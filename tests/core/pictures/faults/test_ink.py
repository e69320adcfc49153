"""Ink that was lost or added, pixel by pixel."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from lighten.pictures.faults.ink import REACH_PX, ink_faults, suspects
from lighten.pictures.faults.softness import sharpness_kept
from lighten.pictures.faults.strokes import stroke_bands

_SIDE = 120


def page(*strokes: tuple[int, int]) -> np.ndarray:
    """Paper with upright strokes of three pixels' width at (row, column), as a scan has them."""
    plane = np.full((_SIDE, _SIDE), 235, np.float32)
    for row, column in strokes:
        plane[row : row + 24, column : column + 3] = 30
    return ndimage.gaussian_filter(plane, 0.7).astype(np.float32)


_STROKES = ((20, 30), (20, 60), (60, 45))


class Ink(unittest.TestCase):
    def test_ink_of_the_same_page_nothing_is_lost_and_nothing_added(self) -> None:
        lost, added = ink_faults(page(*_STROKES), page(*_STROKES))
        self.assertLess(max(lost.max(), added.max()), 0.05)

    def test_a_stroke_that_is_gone_is_lost_ink_and_one_that_came_is_added(self) -> None:
        whole, without = page(*_STROKES), page(*_STROKES[:2])
        lost, added = ink_faults(whole, without)
        self.assertGreater(lost[60:84, 45:48].max(), 1)
        self.assertLess(added.max(), 1)
        _, added = ink_faults(without, whole)
        self.assertGreater(added[60:84, 45:48].max(), 1)

    def test_ink_far_from_the_fault_is_not_reported(self) -> None:
        lost, _ = ink_faults(page(*_STROKES), page(*_STROKES[:2]))
        self.assertLess(lost[: 60 - REACH_PX].max(), 0.2)

    def test_grain_as_coding_leaves_it_is_no_fault(self) -> None:
        grain = np.random.default_rng(4).normal(0, 2, (_SIDE, _SIDE)).astype(np.float32)
        lost, added = ink_faults(page(*_STROKES), page(*_STROKES) + grain)
        self.assertLess(max(lost.max(), added.max()), 1)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 2**32 - 1), st.floats(0.5, 40), st.sampled_from([0.8, 1.0]))
    def test_ink_where_nothing_is_suspected_nothing_is_found(
        self, seed: int, spread: float, least: float
    ) -> None:
        copy = page(*_STROKES) + np.random.default_rng(seed).normal(
            0, spread, (_SIDE, _SIDE)
        ).astype(np.float32)
        lost, added = ink_faults(page(*_STROKES), copy)
        found = np.maximum(lost, added) > least
        self.assertFalse((found & ~suspects(page(*_STROKES), copy, least)).any())


class Sharpness(unittest.TestCase):
    def test_sharpness_is_kept_whole_by_the_same_and_less_the_softer_a_copy_is(self) -> None:
        original = page(*((row, column) for row in (10, 50, 90) for column in range(8, 110, 12)))
        shares = [
            sharpness_kept(original, ndimage.gaussian_filter(original, sigma).astype(np.float32))
            for sigma in (0.01, 0.6, 1.0, 1.6)
        ]
        known = [share for share in shares if share is not None]
        self.assertEqual(len(known), 4)
        self.assertAlmostEqual(known[0], 1, delta=0.01)
        self.assertEqual(known, sorted(known, reverse=True))

    def test_sharpness_of_an_even_page_is_undefined(self) -> None:
        self.assertIsNone(sharpness_kept(page(), page()))


class Strokes(unittest.TestCase):
    def test_bands_hold_strokes_of_either_side_and_not_the_even_rest(self) -> None:
        tile = 20
        bands = list(stroke_bands(page((20, 30)), page((80, 90)), tile))
        inside = np.zeros((_SIDE, _SIDE), bool)
        for top, low, left, right in bands:
            inside[top:low, left:right] = True
        self.assertTrue(inside[20:44, 30:33].all() and inside[80:104, 90:93].all())
        self.assertFalse(inside[:, :20].any())

    def test_strokes_there_are_none_on_an_even_page(self) -> None:
        self.assertEqual(list(stroke_bands(page(), page(), 20)), [])
