"""The judge against the same metric in a library that is not ours."""

import io
import unittest

import numpy as np
from PIL import Image
from skimage import data

from benchmarks.looks import ssimulacra2
from lighten.pictures.scores.visible_loss import Judge, tiles


class Judged(unittest.TestCase):
    def test_scores_as_the_published_metric_does(self) -> None:
        # SSIMULACRA2 2.1 as the package "ssimulacra2" has it, on scikit-image's photos.
        for name in ("astronaut", "coffee", "chelsea"):
            before = Image.fromarray(getattr(data, name)())
            before.thumbnail((400, 400))
            for quality in (25, 50, 75, 92):
                with self.subTest(photo=name, quality=quality):
                    coded = io.BytesIO()
                    before.save(coded, "JPEG", quality=quality)
                    after = Image.open(coded).convert("RGB")
                    mine = Judge([np.asarray(before)]).score([np.asarray(after)])
                    self.assertAlmostEqual(mine, ssimulacra2(before, after), delta=5)

    def test_the_same_scores_100(self) -> None:
        pixels = data.astronaut()[:200, :200]
        self.assertAlmostEqual(Judge([pixels]).score([pixels]), 100, delta=1)  # float32

    def test_tiles_score_near_the_whole(self) -> None:
        before = data.astronaut()
        coded = io.BytesIO()
        Image.fromarray(before).save(coded, "JPEG", quality=50)
        after = np.asarray(Image.open(coded))
        whole = Judge([before]).score([after])
        places = tiles((512, 512))
        pieces = [[one[t:b, le:r] for le, t, r, b in places] for one in (before, after)]
        self.assertAlmostEqual(Judge(pieces[0]).score(pieces[1]), whole, delta=6)

    def test_pieces_of_other_sizes_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            Judge([np.zeros((40, 40), np.uint8)]).score([np.zeros((40, 41), np.uint8)])

    def test_a_lost_colour_costs_much(self) -> None:
        before = data.coffee()[:256, :256]
        grey = np.repeat(np.asarray(Image.fromarray(before).convert("L"))[..., None], 3, axis=2)
        self.assertLess(Judge([before]).score([grey]), 30)
