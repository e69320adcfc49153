"""Differences of colour, against the published pairs and a library."""

import unittest

import numpy as np
from skimage import color

from lighten.pictures.faults.tint import ciede2000, lab_of, tile_colours, tint_name

# Sharma, Wu, Dalal (2005), table 1: pairs that are easily got wrong, and their differences.
PUBLISHED = (
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 3.1571, -77.2803), (50.0, 0.0, -82.7485), 2.8615),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.5, 0.0), (50.0, 0.0, -2.5), 4.3065),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((50.0, 2.5, 0.0), (61.0, -5.0, 29.0), 22.8977),
    ((50.0, 2.5, 0.0), (50.0, 3.2592, 0.3350), 1.0000),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
)


class Difference(unittest.TestCase):
    def test_difference_is_as_published(self) -> None:
        for one, other, difference in PUBLISHED:
            with self.subTest(one=one, other=other):
                found = ciede2000(np.array(one), np.array(other))
                self.assertAlmostEqual(float(found), difference, places=4)

    def test_difference_of_any_two_colours_is_what_scikit_image_says(self) -> None:
        pixels = np.random.default_rng(1).integers(0, 256, (2, 40, 40, 3), np.uint8)
        one, other = lab_of(pixels[0]), lab_of(pixels[1])
        theirs = color.deltaE_ciede2000(color.rgb2lab(pixels[0]), color.rgb2lab(pixels[1]))
        np.testing.assert_allclose(ciede2000(one, other), theirs, atol=0.02)


class Tiles(unittest.TestCase):
    def test_tiles_of_grey_and_colour_are_means(self) -> None:
        plane = np.zeros((20, 30), np.uint8)
        plane[:, 15:] = 200
        grey, colour = tile_colours(plane, 1, 2), tile_colours(np.dstack([plane] * 3), 1, 2)
        np.testing.assert_allclose(grey, colour)
        self.assertAlmostEqual(float(grey[0, 0, 0]), 0, places=3)

    def test_a_shift_has_a_name(self) -> None:
        shifts = {"lighter": (5, 1, 0), "darker": (-5, 1, 0), "warmer": (1, 2, 4)}
        for name, shift in (shifts | {"cooler": (0, 1, -4), "greener": (1, -4, 2)}).items():
            self.assertEqual(tint_name(np.array(shift, float)), name)
