"""Order of pictures by what is at stake: words first, then the lowest predicted scores."""

import unittest
from dataclasses import replace

from lighten import Trials, plan, preset_named, stakes_of
from lighten.model.trials import Trial, decision_key
from lighten.model.weights import WeightSheet
from tests.core.planning.test_planning import sheet_with


def sheet_of_three() -> WeightSheet:
    """The sample's photo three times over, heavier each time."""
    sheet = sheet_with()
    photo = next(part for part in sheet.parts if part.picture)
    photos = tuple(
        replace(photo, id=f"picture:{number}-0", size_bytes=photo.size_bytes * (number + 1))
        for number in range(3)
    )
    return replace(sheet, parts=photos, size_bytes=sum(one.size_bytes for one in photos))


class Stakes(unittest.TestCase):
    def setUp(self) -> None:
        self.sheet = sheet_of_three()
        self.plan = plan(self.sheet, preset_named("post"))

    def tried(self, number: int, score: float, words_px: int = 0) -> dict[str, tuple[Trial, ...]]:
        decision = self.plan.decisions[number]
        assert decision.target_px is not None
        trial = Trial(
            key=decision_key(decision),
            size_bytes=1000,
            width_px=decision.target_px[0],
            score=score,
            words_px=words_px,
        )
        return {decision.part_id: (trial,)}

    def test_words_come_first_then_low_scores_then_what_nobody_tried(self) -> None:
        trials = Trials().with_pictures(self.tried(0, 60.0)).with_pictures(self.tried(1, 90.0, 900))
        found = stakes_of(self.sheet, self.plan, trials)
        self.assertEqual(
            [(one.part_id, one.score, one.has_words) for one in found],
            [
                ("picture:1-0", 90.0, True),
                ("picture:0-0", 60.0, False),
                ("picture:2-0", None, False),
            ],
        )

    def test_untried_pictures_stand_by_their_weight(self) -> None:
        found = stakes_of(self.sheet, self.plan, Trials())
        self.assertEqual(
            [one.part_id for one in found], ["picture:2-0", "picture:1-0", "picture:0-0"]
        )

    def test_pictures_that_stay_have_nothing_at_stake(self) -> None:
        kept = plan(self.sheet, preset_named("as-it-was"))
        self.assertEqual(stakes_of(self.sheet, kept, Trials()), [])
