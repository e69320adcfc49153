"""The gentlest plan for a limit, against every plan there is, and as properties."""

import itertools
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from lighten.model.fit_rules import FitRules
from lighten.model.kinds import ExtraKind, PartKind, PictureClass
from lighten.model.plans import Action, PartException
from lighten.model.trials import Trial, Trials, decision_key
from lighten.model.weights import Part, PictureFacts, Placement, WeightSheet
from lighten.planning.curves import curves_of
from lighten.planning.fit.fit import Fit, fit, fit_together, share_limit
from lighten.planning.sample_decisions import decisions_to_try

_REST = 10_000
_LOSS_EXPONENT = 2.5


def a_sheet(weights: list[int], picture_class: PictureClass = PictureClass.PHOTO) -> WeightSheet:
    """Pictures of 1600 x 1200 pixels shown 4 in wide (400 ppi), a tenth of the bytes no picture."""
    parts = [
        Part(
            id=f"picture:{number}-0",
            kind=PartKind.PICTURE,
            size_bytes=weight,
            name=f"Picture {number}",
            picture=PictureFacts(
                width_px=1600,
                height_px=1200,
                coding="DCT",
                colour="DeviceRGB",
                bits=8,
                picture_class=picture_class,
                placements=(Placement(page=1, width_pt=288, height_pt=216, box=(0, 0, 288, 216)),),
            ),
        )
        for number, weight in enumerate(weights, start=1)
    ]
    parts.append(
        Part(
            id="extra:metadata",
            kind=PartKind.EXTRA,
            size_bytes=5000,
            name="Descriptions",
            extra=ExtraKind.METADATA,
        )
    )
    parts.append(Part(id="structure", kind=PartKind.STRUCTURE, size_bytes=_REST, name="Structure"))
    total = sum(part.size_bytes for part in parts)
    return WeightSheet(
        format="pdf", media_type="application/pdf", size_bytes=total, pages=1, parts=tuple(parts)
    )


def trials_of(sheet: WeightSheet, hardness: list[float]) -> Trials:
    """Corners as coding would find them: `hardness` 1 loses as a middling photo does."""
    found = {}
    for (part_id, decisions), hard in zip(
        sorted(decisions_to_try(sheet).items()), hardness, strict=True
    ):
        weight = sheet.part(part_id).size_bytes
        found[part_id] = tuple(
            Trial(
                key=decision_key(decision),
                size_bytes=round(weight * share * (decision.target_px[0] / 1600) ** 1.5),
                width_px=decision.target_px[0],
                quality=decision.picture.quality,
                score=100 - hard * loss * (1600 / decision.target_px[0]) ** 0.8,
            )
            for decision in decisions
            if decision.target_px and decision.picture and decision.picture.quality
            for share, loss in [(0.1, 12) if decision.picture.quality == 45 else (0.3, 6)]
        )
    return Trials(pictures=found)


def loss_of(found: Fit) -> float:
    scores = (one.score for one in found.chosen)
    return sum(max(0.5, 100 - score) ** _LOSS_EXPONENT if score < 100 else 0.0 for score in scores)


class ExhaustiveOptimum(unittest.TestCase):
    def test_no_other_choice_of_size_and_quality_loses_much_less(self) -> None:
        sheet = a_sheet([400_000, 300_000])
        trials = trials_of(sheet, [1.0, 1.6])
        limit = 200_000
        found = fit(sheet, trials, limit)
        self.assertTrue(found.is_met)
        options = []
        for part_id in ("picture:1-0", "picture:2-0"):
            curves = curves_of(trials.pictures[part_id])
            assert curves is not None
            widths, qualities = list(range(300, 1601, 20)), list(range(38, 97))
            sizes, scores = curves.grid(widths, qualities)
            options.append(
                [
                    (float(size), max(0.5, 100 - float(score)) ** _LOSS_EXPONENT)
                    for size, score in zip(sizes.ravel(), scores.ravel(), strict=True)
                    if score >= FitRules().floor
                ][::7]
            )
        room = limit - (found.size_bytes - sum(one.size_bytes for one in found.chosen))
        best = min(
            one[1] + other[1]
            for one, other in itertools.product(*options)
            if one[0] + other[0] <= room
        )
        self.assertLess(loss_of(found), best * 1.15)


class Properties(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(
        st.lists(st.integers(20_000, 900_000), min_size=1, max_size=6),
        st.lists(st.floats(0.3, 2.5), min_size=6, max_size=6),
        st.floats(0.05, 1.2),
        st.floats(0.05, 1.2),
    )
    def test_a_larger_limit_never_looks_worse(
        self, weights: list[int], hardness: list[float], one: float, other: float
    ) -> None:
        sheet = a_sheet(weights)
        trials = trials_of(sheet, hardness[: len(weights)])
        smaller, larger = sorted((one, other))
        tight = fit(sheet, trials, int(sheet.size_bytes * smaller))
        loose = fit(sheet, trials, int(sheet.size_bytes * larger))
        self.assertLessEqual(loss_of(loose), loss_of(tight) + 1e-6)
        self.assertGreaterEqual(loose.is_met, tight.is_met)

    @settings(max_examples=30, deadline=None)
    @given(
        st.lists(st.integers(20_000, 900_000), min_size=1, max_size=6),
        st.lists(st.floats(0.3, 2.5), min_size=6, max_size=6),
        st.floats(0.05, 1.2),
        st.floats(10, 85),
    )
    def test_properties_it_fits_or_says_what_is_lightest_and_no_picture_falls_below_the_floor(
        self, weights: list[int], hardness: list[float], share: float, floor: float
    ) -> None:
        sheet = a_sheet(weights)
        trials = trials_of(sheet, hardness[: len(weights)])
        limit = int(sheet.size_bytes * share)
        found = fit(sheet, trials, limit, FitRules(floor=floor))
        self.assertEqual(found.is_met, found.lightest_bytes <= limit)
        self.assertLessEqual(found.size_bytes, max(limit, found.lightest_bytes) + 1)
        self.assertGreaterEqual(min(one.score for one in found.chosen), floor - 1e-9)
        self.assertEqual(fit(sheet, trials, limit, FitRules(floor=floor)), found)


class Ways(unittest.TestCase):
    def test_colour_goes_only_where_nothing_else_is_enough(self) -> None:
        sheet = a_sheet([400_000])
        trials = trials_of(sheet, [1.0])
        plain = fit(sheet, trials, 1)
        rules = FitRules(ways=("grey",))
        self.assertEqual(fit(sheet, trials, plain.lightest_bytes, rules).used, ())
        grey = fit(sheet, trials, plain.lightest_bytes - 500, rules)
        self.assertEqual(grey.used, ("grey",))
        self.assertTrue(grey.is_met)
        self.assertEqual(grey.plan.by_part()["picture:1-0"].picture.colour, "grey")  # type: ignore[union-attr]

    def test_ways_are_taken_in_their_order(self) -> None:
        sheet = a_sheet([400_000])
        trials = trials_of(sheet, [1.0])
        lightest = fit(sheet, trials, 1).lightest_bytes
        rules = FitRules(ways=(ExtraKind.METADATA, "grey"))
        found = fit(sheet, trials, lightest - 500, rules)
        self.assertEqual(found.used, (ExtraKind.METADATA,))
        self.assertIs(found.plan.by_part()["extra:metadata"].action, Action.DROP)

    def test_untried_pictures_are_counted(self) -> None:
        sheet = a_sheet([200_000, 200_000])
        tried = trials_of(sheet, [1.0, 1.0])
        self.assertEqual(fit(sheet, tried, 300_000).untried, 0)
        self.assertEqual(fit(sheet, Trials(), 300_000).untried, 2)

    def test_ways_that_are_none_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            FitRules(ways=("magic",))

    def test_exempted_pictures_stay_and_others_give_way(self) -> None:
        sheet = a_sheet([200_000, 200_000])
        trials = trials_of(sheet, [1.0, 1.0])
        spared = {"picture:1-0": PartException(is_exempt=True)}
        found = fit(sheet, trials, 300_000, exceptions=spared)
        self.assertTrue(found.is_met)
        self.assertIs(found.plan.by_part()["picture:1-0"].action, Action.KEEP)
        self.assertEqual([one.part_id for one in found.chosen], ["picture:2-0"])


class Sharing(unittest.TestCase):
    def test_the_harder_document_gets_the_larger_share(self) -> None:
        easy, hard = a_sheet([400_000]), a_sheet([400_000])
        documents = [(easy, trials_of(easy, [0.6]), {}), (hard, trials_of(hard, [1.6]), {})]
        fits = fit_together(documents, 240_000)
        self.assertTrue(all(one.is_met for one in fits))
        self.assertLess(fits[0].size_bytes, fits[1].size_bytes)

    def test_shares_add_up_to_no_more_than_the_limit(self) -> None:
        sheets = [a_sheet([100_000 * number]) for number in (1, 3, 5)]
        documents = [(one, trials_of(one, [1.0]), {}) for one in sheets]
        for limit in (150_000, 400_000, 2_000_000):
            self.assertLessEqual(sum(share_limit(documents, limit)), limit)
