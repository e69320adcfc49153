"""What was learned of a document by coding its pictures quickly, before a plan is carried out."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

from lighten.plans import Action, Decision, Plan
from lighten.treatments import ColourChange, PictureCoding, PictureTreatment
from lighten.weights import PartKind, WeightSheet

__all__ = ["Trial", "Trials", "decision_key", "is_plain", "rest_key"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """One picture coded by one decision.

    key: of the decision. size_bytes: what the part will weigh.
    width_px: of the picture as coded; quality: as asked, None for an exact coding.
    is_plain: fewer pixels and a quality are all it asks for, so that something follows for others.
    score: how it looks at the size it is shown at, by SSIMULACRA2; None if nobody can say.
    is_final: coded as the copy will have it, and not quickly.
    """

    key: str
    size_bytes: int
    width_px: int
    quality: int | None = None
    is_plain: bool = True
    score: float | None = None
    is_final: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Trials:
    """All trials of one document.

    pictures: by part id. rests: what everything but pictures weighs in the copy, by `rest_key` of
    the plan.
    """

    pictures: Mapping[str, tuple[Trial, ...]] = field(default_factory=dict)
    rests: Mapping[str, int] = field(default_factory=dict)

    def of(self, decision: Decision) -> Trial | None:
        """The best trial of just this decision."""
        key, found = decision_key(decision), None
        for trial in self.pictures.get(decision.part_id, ()):
            if trial.key == key and (found is None or trial.is_final):
                found = trial
        return found

    def with_pictures(self, more: Mapping[str, tuple[Trial, ...]]) -> "Trials":
        """These and more; of two trials of the same decision the later counts.

        What was coded for good does not displace its draft, which the curves go through.
        """
        pictures = dict(self.pictures)
        for part_id, trials in more.items():
            keys = {(trial.key, trial.is_final) for trial in trials}
            known = pictures.get(part_id, ())
            earlier = (one for one in known if (one.key, one.is_final) not in keys)
            pictures[part_id] = (*earlier, *trials)
        return Trials(pictures=pictures, rests=self.rests)

    def with_rest(self, key: str, size_bytes: int) -> "Trials":
        return Trials(pictures=self.pictures, rests={**self.rests, key: size_bytes})


def decision_key(decision: Decision) -> str:
    """The same for decisions that make the same of a picture; "" where none is coded."""
    wanted = decision.picture
    if wanted is None:
        return ""
    place = f"{decision.target_px} {decision.cut} {decision.replacement or ''}"
    return hashlib.sha256(f"{place} {_asked(wanted)}".encode()).hexdigest()[:16]


@lru_cache(maxsize=4096)
def _asked(wanted: PictureTreatment) -> str:
    """What makes a difference to the pixels or their coding."""
    is_two_tone = wanted.colour is ColourChange.TWO_TONE
    return repr(
        (
            str(wanted.coding),
            wanted.quality,
            wanted.floor,
            str(wanted.colour),
            (str(wanted.two_tone), wanted.threshold) if is_two_tone else (),
            tuple((str(one.kind), one.strength) for one in wanted.filters),
        )
    )


def is_plain(decision: Decision) -> bool:
    """Fewer pixels and a quality are all it asks for."""
    wanted = decision.picture
    return (
        wanted is not None
        and wanted.coding in (PictureCoding.AUTOMATIC, PictureCoding.JPEG)
        and wanted.colour in (ColourChange.KEEP, ColourChange.EXACT_PALETTE)
        and not wanted.filters
        and decision.cut is None
        and decision.replacement is None
    )


def rest_key(sheet: WeightSheet, plan: Plan) -> str:
    """The same for plans that differ only in how pictures are treated."""
    decisions = plan.by_part()
    dropped = sorted(part.id for part in sheet.parts if decisions[part.id].action is Action.DROP)
    recoded = sorted(
        part.id
        for part in sheet.parts
        if part.kind is not PartKind.PICTURE and decisions[part.id].action is Action.RECODE
    )
    asked = (repr(plan.fonts), repr(plan.drawing), plan.is_linearized, dropped, recoded)
    return hashlib.sha256(repr(asked).encode()).hexdigest()[:16]
