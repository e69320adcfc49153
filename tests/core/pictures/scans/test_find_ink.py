"""Ink on paper, and the paper between it."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage
from skimage.filters import threshold_otsu

from lighten.pictures.scans.fill import filled, spread
from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light


def page(paper: float, ink: float, grain: float = 0.0) -> np.ndarray:
    plane = np.full((80, 100), paper, np.float32)
    plane[20:60, 30:34] = plane[40:43, 30:80] = ink
    noise = np.random.default_rng(1).normal(0, grain, plane.shape) if grain else 0
    return np.asarray(ndimage.gaussian_filter(plane, 0.6) + noise, np.float32)


def marks(light: np.ndarray, paper: float) -> np.ndarray:
    ground = np.full(light.shape, paper, np.float32)
    return find_ink(light, stroke_light(light), ground, noise_of(light, ground))


class Ink(unittest.TestCase):
    def test_ink_of_clean_print_is_what_otsu_finds(self) -> None:
        """The usual way to part two tones (Otsu, 1979), here by scikit-image."""
        light = page(230, 25)
        otsu = light < threshold_otsu(light)
        self.assertGreater((marks(light, 230) == otsu).mean(), 0.995)

    def test_ink_of_pencil_is_as_wide_as_that_of_print(self) -> None:
        black, pencil = marks(page(230, 25), 230).sum(), marks(page(230, 160), 230).sum()
        self.assertLess(abs(int(black) - int(pencil)), 0.06 * black)

    def test_grain_of_the_paper_is_none(self) -> None:
        even = page(200, 200, grain=6)
        self.assertLess(marks(even, 200).mean(), 0.001)
        self.assertAlmostEqual(noise_of(even, np.full(even.shape, 200, np.float32)), 3, delta=1.5)


class Filled(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 12), st.integers(1, 12), st.floats(0, 255), st.data())
    def test_filled_lies_between_what_is_there(
        self, rows: int, columns: int, level: float, drawn: st.DataObject
    ) -> None:
        there = np.array(
            drawn.draw(st.lists(st.booleans(), min_size=rows * columns, max_size=rows * columns))
        ).reshape(rows, columns)
        shares = there.astype(np.float32)
        sums = (shares * np.float32(level))[..., None]
        means = filled(sums, shares)
        expected = level if there.any() else 255
        np.testing.assert_allclose(means, expected, atol=0.01)

    def test_known_pixels_stay(self) -> None:
        sums = np.random.default_rng(2).uniform(0, 255, (9, 7, 3)).astype(np.float32)
        shares = np.ones((9, 7), np.float32)
        shares[3:5, 2:6] = 0
        sums[3:5, 2:6] = 0
        means = filled(sums, shares)
        known = shares > 0
        np.testing.assert_allclose(means[known], sums[known], rtol=1e-6)
        self.assertTrue((means[~known] > sums[known].min()).all())

    def test_filled_between_middles_of_cells_it_is_scipys(self) -> None:
        cells = np.random.default_rng(3).uniform(0, 255, (5, 6)).astype(np.float32)
        out = np.empty((40, 48), np.float32)
        spread(cells, 8, out)
        at = (np.indices(out.shape) + 0.5) / 8 - 0.5
        theirs = ndimage.map_coordinates(cells, at, order=1, mode="nearest")
        np.testing.assert_allclose(out, theirs, atol=0.01)
