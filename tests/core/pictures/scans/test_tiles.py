"""Squares and the rectangles that hold them."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lighten.pictures.scans.tiles import dilated, rectangles


def marks(rows: list[list[bool]]) -> np.ndarray:
    return np.array(rows, np.bool_)


class Rectangles(unittest.TestCase):
    @given(st.lists(st.lists(st.booleans(), min_size=7, max_size=7), min_size=1, max_size=9))
    def test_rectangles_hold_every_marked_square(self, rows: list[list[bool]]) -> None:
        marked = marks(rows)
        held = np.zeros_like(marked)
        for left, top, right, low in rectangles(marked):
            held[top:low, left:right] = True
        self.assertFalse((marked & ~held).any())
        if not marked.any():
            self.assertFalse(held.any())

    def test_rectangles_around_a_block_is_one(self) -> None:
        marked = np.zeros((6, 8), np.bool_)
        marked[1:4, 2:7] = True
        self.assertEqual(rectangles(marked), ((2, 1, 7, 4),))

    def test_far_apart_are_two(self) -> None:
        marked = np.zeros((20, 20), np.bool_)
        marked[0, 0] = marked[19, 19] = True
        self.assertEqual(len(rectangles(marked)), 2)


class Grown(unittest.TestCase):
    def test_grown_reaches_all_sides_and_shrinks_back(self) -> None:
        marked = np.zeros((7, 7), np.bool_)
        marked[3, 3] = True
        larger = dilated(marked, 1)
        self.assertEqual(int(larger.sum()), 9)
        np.testing.assert_array_equal(dilated(larger, -1), marked)
