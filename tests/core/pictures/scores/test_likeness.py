"""The quick likeness against scikit-image's SSIM (Wang et al. 2004) on its own sample photos."""

import io
import unittest

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from skimage import data
from skimage.metrics import structural_similarity

from lighten.pictures.scores.likeness import likeness
from tests.builders import as_jpeg


def recoded(pixels: NDArray[np.uint8], quality: int) -> NDArray[np.uint8]:
    with Image.open(io.BytesIO(as_jpeg(pixels, quality))) as image:
        return np.asarray(image)


class Likeness(unittest.TestCase):
    def test_score_is_one_for_equal_pictures(self) -> None:
        self.assertEqual(likeness(data.astronaut(), data.astronaut()), 1.0)

    def test_score_is_near_the_published_measure(self) -> None:
        for name in ("astronaut", "coffee", "chelsea"):
            pixels = getattr(data, name)()
            grey = np.asarray(Image.fromarray(pixels).convert("L"))
            for quality in (30, 60, 85):
                with self.subTest(name=name, quality=quality):
                    other = recoded(grey, quality)
                    theirs = structural_similarity(grey, other, data_range=255, win_size=7)
                    self.assertAlmostEqual(likeness(grey, other), theirs, delta=0.03)

    def test_score_falls_with_quality(self) -> None:
        pixels = data.coffee()
        scores = [likeness(pixels, recoded(pixels, quality)) for quality in (20, 50, 80, 95)]
        self.assertEqual(scores, sorted(scores))

    def test_score_notices_swapped_colours_of_equal_luma(self) -> None:
        pixels = data.astronaut()
        swapped = np.ascontiguousarray(pixels[..., ::-1])
        self.assertLess(likeness(pixels, swapped), 0.75)

    def test_score_refuses_different_sizes(self) -> None:
        with self.assertRaises(ValueError):
            likeness(np.zeros((8, 8), np.uint8), np.zeros((8, 9), np.uint8))
