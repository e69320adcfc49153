"""Pictures by what is most at stake in them under a plan, as far as trials show."""

from dataclasses import dataclass

from lighten.model.plans import Action, Plan
from lighten.model.trials import Trials
from lighten.model.weights import WeightSheet
from lighten.planning.curves import curves_of

__all__ = ["Stake", "stakes_of"]

_CODED = frozenset({Action.RECODE, Action.RESAMPLE, Action.REPLACE})


@dataclass(frozen=True, slots=True, kw_only=True)
class Stake:
    """Stake of one picture under a plan.

    score: predicted (SSIMULACRA2); None where no trial says it. has_words: it shows words that
    need more pixels than the plan asks for.
    """

    part_id: str
    score: float | None
    has_words: bool


def stakes_of(sheet: WeightSheet, plan: Plan, trials: Trials) -> list[Stake]:
    """Return the pictures that a plan codes anew: words first, then the lowest scores.

    Pictures without a predicted score come last, the heaviest first.
    """
    decisions = plan.by_part()
    found = []
    for part in sheet.parts:
        decision = decisions[part.id]
        if part.picture is None or decision.action not in _CODED or decision.picture is None:
            continue
        width_px = (decision.target_px or (part.picture.width_px,))[0]
        words_px = trials.words_px(part.id)
        has_words = words_px > width_px
        if has_words and decision.picture.keeps_words:
            width_px = min(words_px, part.picture.width_px)
        trial = trials.of(decision)
        score = trial.score if trial is not None else None
        curves = curves_of(trials.pictures.get(part.id, ())) if score is None else None
        if curves is not None and decision.picture.quality is not None:
            score = curves.at(width_px, decision.picture.quality).score
        stake = Stake(part_id=part.id, score=score, has_words=has_words)
        found.append((stake, part.size_bytes))
    found.sort(
        key=lambda one: (
            not one[0].has_words,
            one[0].score is None,
            one[0].score or 0.0,
            -one[1],
        )
    )
    return [stake for stake, _ in found]
