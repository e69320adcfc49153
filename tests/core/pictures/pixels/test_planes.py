"""Compiled filters, against scipy's."""

import unittest

import numpy as np
from scipy import ndimage

from lighten.pictures.pixels import planes

PLANE = np.random.default_rng(1).integers(0, 256, (90, 70)).astype(np.float32)


class Filters(unittest.TestCase):
    def test_a_gaussian_is_scipys(self) -> None:
        for sigma in (0.5, 1.0, 2.2):
            window = planes.gaussian(sigma)
            theirs = ndimage.gaussian_filter(PLANE, sigma, mode="nearest", radius=len(window) - 1)
            np.testing.assert_allclose(planes.blurred(PLANE, window), theirs, atol=0.01)

    def test_highest_and_lowest_are_scipys(self) -> None:
        for side in (3, 5, 17):
            np.testing.assert_array_equal(
                planes.highest(PLANE, side), ndimage.maximum_filter(PLANE, side, mode="nearest")
            )
            np.testing.assert_array_equal(
                planes.lowest(PLANE, side), ndimage.minimum_filter(PLANE, side, mode="nearest")
            )

    def test_filters_means_of_squares_are_scipys(self) -> None:
        theirs = ndimage.uniform_filter(PLANE, 41, mode="nearest")
        np.testing.assert_allclose(planes.box_means(PLANE, 41), theirs, atol=0.01)

    def test_fewer_pixels_have_the_same_mean(self) -> None:
        plane = PLANE.astype(np.uint8)
        for size in ((45, 35), (31, 19), (90, 70), (1, 1)):
            small = planes.reduced(plane, *size)
            self.assertEqual(small.shape, size)
            self.assertAlmostEqual(float(small.mean()), float(plane.mean()), delta=0.01)

    def test_a_half_is_the_mean_of_four(self) -> None:
        plane = PLANE.astype(np.uint8)
        theirs = plane.reshape(45, 2, 35, 2).mean(axis=(1, 3))
        np.testing.assert_allclose(planes.reduced(plane, 45, 35), theirs, atol=0.01)
