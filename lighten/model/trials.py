"""Trials of a document: its pictures coded quickly, before a plan is carried out."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

from lighten.model.kinds import PartKind, PictureCoding
from lighten.model.plans import Action, Decision, Plan
from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.model.weights import WeightSheet

__all__ = ["Trial", "Trials", "decision_key", "is_layers", "is_plain", "non_picture_key"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """One picture coded by one decision.

    key: of the decision. size_bytes: what the part will weigh.
    width_px: of the picture as coded; quality: as asked, None for an exact coding.
    is_plain: fewer pixels and a quality are all it asks for, so that something follows for others.
    score: how it looks at the size it is shown at, by SSIMULACRA2; None if nobody can say.
    is_final: coded as the copy will have it, and not quickly. words_px: the fewest pixels across
    that keep the picture's words readable; 0 where it has none, or another trial says so.
    """

    key: str
    size_bytes: int
    width_px: int
    quality: int | None = None
    is_plain: bool = True
    score: float | None = None
    is_final: bool = False
    words_px: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Trials:
    """All trials of one document.

    pictures: by part id. non_picture_bytes: what everything but pictures weighs in the copy, by
    `non_picture_key` of the plan.
    """

    pictures: Mapping[str, tuple[Trial, ...]] = field(default_factory=dict)
    non_picture_bytes: Mapping[str, int] = field(default_factory=dict)

    def of(self, decision: Decision) -> Trial | None:
        """The best trial of just this decision."""
        key, best = decision_key(decision), None
        for trial in self.pictures.get(decision.part_id, ()):
            if trial.key == key and (best is None or trial.is_final):
                best = trial
        return best

    def known_words(self) -> dict[str, int]:
        """Return, for each picture tried so far, the fewest pixels that its words need."""
        return {part_id: self.words_px(part_id) for part_id in self.pictures}

    def words_px(self, part_id: str) -> int:
        """Return the fewest pixels across that keep a picture's words readable; 0 for no words."""
        return max((trial.words_px for trial in self.pictures.get(part_id, ())), default=0)

    def with_pictures(self, more: Mapping[str, tuple[Trial, ...]]) -> "Trials":
        """Return the trials with more; a later trial of the same decision replaces an earlier one.

        What was coded for good does not displace its draft, which the curves go through.
        """
        pictures = dict(self.pictures)
        for part_id, trials in more.items():
            keys = {(trial.key, trial.is_final) for trial in trials}
            earlier = (
                trial
                for trial in pictures.get(part_id, ())
                if (trial.key, trial.is_final) not in keys
            )
            pictures[part_id] = (*earlier, *trials)
        return replace(self, pictures=pictures)

    def with_non_picture_bytes(self, key: str, size_bytes: int) -> "Trials":
        return replace(self, non_picture_bytes={**self.non_picture_bytes, key: size_bytes})


def decision_key(decision: Decision) -> str:
    """Return a key that is equal for decisions with equal results; "" where nothing is coded."""
    treatment = decision.picture
    if treatment is None:
        return ""
    place = f"{decision.target_px} {decision.cut} {decision.replacement or ''}"
    return hashlib.sha256(f"{place} {_treatment_key(treatment)}".encode()).hexdigest()[:16]


@lru_cache(maxsize=4096)
def _treatment_key(treatment: PictureTreatment) -> str:
    """Return the settings that affect pixels or their coding."""
    is_bitonal = treatment.colour is ColourChange.BITONAL
    return repr(
        (
            str(treatment.coding),
            treatment.quality,
            treatment.floor,
            treatment.keeps_words,
            str(treatment.colour),
            (str(treatment.bitonal_method), treatment.threshold) if is_bitonal else (),
            tuple((str(filter_.kind), filter_.strength) for filter_ in treatment.filters),
        )
    )


def is_layers(decision: Decision) -> bool:
    """Return whether a page becomes layers, for which there are no quick drafts."""
    treatment = decision.picture
    return treatment is not None and treatment.coding is PictureCoding.LAYERS


def is_plain(decision: Decision) -> bool:
    """Return whether a decision asks for fewer pixels and a quality only."""
    treatment = decision.picture
    return (
        treatment is not None
        and treatment.coding in (PictureCoding.AUTOMATIC, PictureCoding.JPEG)
        and treatment.colour in (ColourChange.KEEP, ColourChange.EXACT_PALETTE)
        and not treatment.filters
        and decision.cut is None
        and decision.replacement is None
    )


def non_picture_key(sheet: WeightSheet, plan: Plan) -> str:
    """Return a key that is equal for plans that differ only in the treatment of pictures."""
    decisions = plan.by_part()
    dropped = sorted(part.id for part in sheet.parts if decisions[part.id].action is Action.DROP)
    recoded = sorted(
        part.id
        for part in sheet.parts
        if part.kind is not PartKind.PICTURE and decisions[part.id].action is Action.RECODE
    )
    settings = (repr(plan.fonts), repr(plan.drawing), plan.is_linearized, dropped, recoded)
    return hashlib.sha256(repr(settings).encode()).hexdigest()[:16]
