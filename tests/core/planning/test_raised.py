"""Estimates without trials of their own: a promised score, and full colours."""

import unittest

from skimage import data

from lighten import Source, estimate, make_copy, plan, preset_named, run_trials, weigh
from lighten.model.trials import Trial
from lighten.pictures.recoding.raise_quality_to_score import foresee_raised
from lighten.planning.coding_model import FULL_CHROMA_SHARE
from lighten.planning.curves import curves_of
from tests.builders import FolderCase, PdfBuilder, Show


class Raised(unittest.TestCase):
    def test_nothing_is_raised_where_the_score_is_met(self) -> None:
        found = foresee_raised(
            lambda _width, _quality: 80.0, width_px=200, whole_px=900, quality=60, least_score=70
        )
        self.assertEqual(found, (200, 60))

    def test_quality_comes_first_then_pixels(self) -> None:
        found = foresee_raised(
            lambda width, quality: quality / 2 + width / 10,
            width_px=200,
            whole_px=900,
            quality=60,
            least_score=57,
        )
        self.assertEqual(found, (200, 78))
        finer = foresee_raised(
            lambda width, quality: quality / 10 + width / 10,
            width_px=200,
            whole_px=900,
            quality=60,
            least_score=45,
        )
        self.assertEqual(finer, (400, 72))

    def test_all_pixels_are_the_end(self) -> None:
        found = foresee_raised(
            lambda _width, _quality: 0.0, width_px=900, whole_px=900, quality=60, least_score=50
        )
        self.assertEqual(found, (900, 78))


class FullColours(FolderCase):
    def test_halved_colours_are_left_above_quality_85(self) -> None:
        trials = [
            Trial(
                key=f"{width} {quality}", size_bytes=size, width_px=width, quality=quality, score=50
            )
            for width, quality, size in (
                (100, 45, 1000),
                (100, 85, 2000),
                (200, 45, 3000),
                (200, 85, 6000),
            )
        ]
        curves = curves_of(trials)
        assert curves is not None
        self.assertEqual(curves.full_chroma(85), 1.0)
        self.assertEqual(curves.full_chroma(88), FULL_CHROMA_SHARE)
        top = curves_of(
            [*trials, Trial(key="", size_bytes=12000, width_px=200, quality=95, score=90)]
        )
        assert top is not None
        self.assertEqual(top.full_chroma(95), 1.0)
        self.assertTrue(1 < top.full_chroma(88) < FULL_CHROMA_SHARE)

    def test_a_finer_preset_is_foretold_from_trials_of_a_coarser_one(self) -> None:
        builder = PdfBuilder().flate("A", data.coffee()).flate("B", data.astronaut())
        builder.page(Show("A", (200, 0, 0, 133, 0, 0)), Show("B", (200, 0, 0, 200, 0, 200)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        sheet = weigh(source)
        tried = plan(sheet, preset_named("Reading desk"))
        *_, (_, trials) = run_trials(source, sheet, tried, self.folder)
        for name in ("Print room", "Feather"):
            chosen = plan(sheet, preset_named(name))
            likely = estimate(sheet, chosen, trials)
            copy = make_copy(source, sheet, chosen, self.folder / f"{name}.pdf")
            self.assertAlmostEqual(likely.size_bytes / copy.bytes_after, 1, delta=0.15, msg=name)
