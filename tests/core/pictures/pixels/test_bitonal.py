"""Thresholds and dots against scikit-image and published definitions."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays
from skimage.filters import threshold_otsu, threshold_sauvola

from demo.scenery import landscape, logbook_page
from lighten.model.treatments import BitonalMethod
from lighten.pictures.pixels.bitonal import divide, otsu_threshold, sauvola_threshold

GREYS = arrays.arrays(np.uint8, st.tuples(st.integers(2, 40), st.integers(2, 40)))


class Thresholds(unittest.TestCase):
    page = logbook_page(300, 400, 5)[..., 0]

    def test_otsu_is_what_scikit_image_finds(self) -> None:
        for pixels in (self.page, landscape(300, 200, 1)[..., 1]):
            self.assertEqual(otsu_threshold(pixels), threshold_otsu(pixels))

    def test_sauvola_is_what_scikit_image_finds(self) -> None:
        ours = sauvola_threshold(self.page, window_px=25, k=0.2)
        theirs = threshold_sauvola(self.page, window_size=25, k=0.2, r=128)
        np.testing.assert_allclose(ours, theirs, atol=1e-6)

    @given(GREYS, st.integers(1, 255))
    def test_fixed_is_a_comparison(self, grey: np.ndarray, threshold: int) -> None:
        black = divide(grey, BitonalMethod.FIXED, threshold=threshold)
        np.testing.assert_array_equal(black, grey < threshold)


class Dots(unittest.TestCase):
    def test_diffused_as_floyd_and_steinberg_published(self) -> None:
        """Proc. SID 17(2), 1976: errors go 7, 3, 5, 1 sixteenths to the right and below."""
        grey = np.random.default_rng(3).integers(0, 256, (12, 17)).astype(np.uint8)
        work = grey.astype(np.float64)
        for row in range(12):
            for column in range(17):
                old = work[row, column]
                new = 255.0 if old > 127 else 0.0
                work[row, column] = new
                for down, right, share in ((0, 1, 7), (1, -1, 3), (1, 0, 5), (1, 1, 1)):
                    if row + down < 12 and 0 <= column + right < 17:
                        work[row + down, column + right] += (old - new) * share / 16
        ours = divide(grey, BitonalMethod.DIFFUSED)
        # Whole-number arithmetic of the library rounds a few pixels the other way.
        self.assertGreater((ours == (work == 0)).mean(), 0.85)

    def test_ordered_dither_has_as_many_dots_as_the_grey_asks_for(self) -> None:
        """Bayer's matrix of order 8 tells 64 shares apart (Proc. ICC, 1973)."""
        for grey in (32, 96, 128, 200):
            black = divide(np.full((64, 64), grey, np.uint8), BitonalMethod.ORDERED)
            self.assertAlmostEqual(float(black.mean()), 1 - grey / 255, delta=1 / 32)

    @given(st.integers(0, 255), st.sampled_from([BitonalMethod.DIFFUSED, BitonalMethod.ORDERED]))
    def test_dithers_keep_the_mean_tone(self, grey: int, method: BitonalMethod) -> None:
        black = divide(np.full((48, 48), grey, np.uint8), method)
        self.assertAlmostEqual(float(black.mean()), 1 - grey / 255, delta=0.05)
