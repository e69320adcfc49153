"""Lines drawn between trials, against pictures really coded."""

import unittest

import numpy as np
from PIL import Image
from skimage import data

from lighten.codecs.jpeg import Chroma, decode_jpeg, encode_jpeg
from lighten.model.trials import Trial
from lighten.pictures.pixels.resample import resample
from lighten.pictures.scores.visible_loss import Judge
from lighten.planning.curves import HIGH_QUALITY, LOW_QUALITY, TOP_QUALITY, curves_of


def coded_at(pixels: np.ndarray, width_px: int, quality: int) -> Trial:
    """The picture at that width, judged at 400 pixels across."""
    shown = (400, 400)
    small = resample(pixels, (width_px, width_px))
    jpeg = encode_jpeg(small, quality=quality, chroma=Chroma.HALVED)
    enlarged = Image.fromarray(decode_jpeg(jpeg)).resize(shown, Image.Resampling.BICUBIC)
    before = Image.fromarray(pixels).resize(shown, Image.Resampling.BICUBIC)
    score = Judge([np.asarray(before)]).score([np.asarray(enlarged)])
    return Trial(
        key=f"{width_px} {quality}",
        size_bytes=len(jpeg),
        width_px=width_px,
        quality=quality,
        score=score,
    )


class Curves(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        # Photos that scikit-image carries.
        cls.photos = [data.astronaut()[:500, :500], data.coffee()[:400, :400]]

    def test_curves_estimate_codings_between_the_trials(self) -> None:
        for pixels in self.photos:
            corners = [coded_at(pixels, w, q) for w in (160, 380) for q in (45, 85)]
            curves = curves_of(corners)
            assert curves is not None
            for width_px, quality in ((200, 60), (280, 75), (330, 50)):
                with self.subTest(width=width_px, quality=quality):
                    true, drawn = coded_at(pixels, width_px, quality), curves.at(width_px, quality)
                    assert true.score is not None
                    self.assertAlmostEqual(drawn.size_bytes / true.size_bytes, 1, delta=0.12)
                    self.assertAlmostEqual(drawn.score, true.score, delta=4)

    def test_curves_go_through_the_trials_themselves(self) -> None:
        corners = [coded_at(self.photos[0], w, q) for w in (160, 380) for q in (45, 85)]
        curves = curves_of(corners)
        assert curves is not None
        for corner in corners:
            assert corner.quality is not None and corner.score is not None
            point = curves.at(corner.width_px, corner.quality)
            self.assertAlmostEqual(point.size_bytes, corner.size_bytes, delta=1)
            self.assertAlmostEqual(point.score, corner.score, places=3)

    def test_quality_cannot_restore_what_fewer_pixels_lost(self) -> None:
        corners = [coded_at(self.photos[1], w, q) for w in (100, 380) for q in (45, 85)]
        curves = curves_of(corners)
        assert curves is not None
        true = coded_at(self.photos[1], 100, 96).score
        assert true is not None
        self.assertLess(curves.at(100, 96).score, true + 8)

    def test_curves_go_through_the_trials_beyond_the_corners(self) -> None:
        """Grain, at all its pixels and at the top quality, weighs more than any line foretells."""
        grain = np.random.default_rng(1).normal(self.photos[0], 12).clip(0, 255).astype(np.uint8)
        corners = [coded_at(grain, w, q) for w in (120, 240) for q in (45, 85)]
        beyond = [coded_at(grain, 240, TOP_QUALITY), coded_at(grain, 500, HIGH_QUALITY)]
        plain, curves = curves_of(corners), curves_of([*corners, *beyond])
        assert plain is not None and curves is not None
        for trial in [*corners, *beyond]:
            assert trial.quality is not None and trial.score is not None
            point = curves.at(trial.width_px, trial.quality)
            self.assertAlmostEqual(point.size_bytes, trial.size_bytes, delta=1)
            self.assertAlmostEqual(point.score, trial.score, places=3)
        true = coded_at(grain, 400, 90).size_bytes
        drawn, foretold = curves.at(400, 90).size_bytes, plain.at(400, 90).size_bytes
        self.assertLess(abs(drawn - true), abs(foretold - true))
        sizes, scores = curves.grid([100, 200, 400, 500], [60, 85, 90, 96])
        for row, width in enumerate((100, 200, 400, 500)):
            for column, quality in enumerate((60, 85, 90, 96)):
                point = curves.at(width, quality)
                self.assertAlmostEqual(sizes[row, column] / point.size_bytes, 1, places=9)
                self.assertAlmostEqual(scores[row, column], point.score, places=6)

    def test_the_grid_says_what_single_points_say(self) -> None:
        corners = [coded_at(self.photos[0], w, q) for w in (160, 380) for q in (45, 85)]
        curves = curves_of(corners)
        assert curves is not None
        widths, qualities = [120, 250, 500], [LOW_QUALITY, 70, HIGH_QUALITY, 96]
        sizes, scores = curves.grid(widths, qualities)
        for row, width in enumerate(widths):
            for column, quality in enumerate(qualities):
                point = curves.at(width, quality)
                self.assertAlmostEqual(sizes[row, column], point.size_bytes, places=6)
                self.assertAlmostEqual(scores[row, column], point.score, places=6)

    def test_curves_too_few_trials_make_none(self) -> None:
        self.assertIsNone(curves_of([coded_at(self.photos[0], 160, 45)]))
