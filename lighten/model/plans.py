"""The decision for each part, and what came of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

from lighten.model.kinds import ExtraKind
from lighten.model.treatments import (
    DrawingTreatment,
    FontTreatment,
    PictureTreatment,
    Treatment,
)
from lighten.model.weights import WeightSheet

__all__ = ["Action", "Copy", "Decision", "Outcome", "PartException", "Plan"]


class Action(StrEnum):
    """Action of a plan for a part."""

    KEEP = "keep"
    PACK = "pack"  # the same content, packed tighter
    RECODE = "recode"  # the same pixels, coded anew
    RESAMPLE = "resample"  # fewer pixels
    REPLACE = "replace"  # by a picture the person brought
    DROP = "drop"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartException:
    """One part that is treated otherwise than its kind: just one of these is set.

    is_exempt: it stays as it is. is_left_out: a font that readers do without, a name,
    or an extra, with all others of its kind.
    Of pictures, treatment: its own. replacement: a picture file to show in its place.
    """

    is_exempt: bool = False
    is_left_out: bool = False
    treatment: PictureTreatment | None = None
    replacement: Path | None = None

    def __post_init__(self) -> None:
        choices = (self.is_exempt, self.is_left_out, bool(self.treatment), bool(self.replacement))
        if sum(choices) != 1:
            raise ValueError("an exception exempts, leaves out, treats or replaces")


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Decision about one part, with its reason.

    target_px: width and height to resample to; set for RESAMPLE only.
    picture: coding, quality, colours and filters; set where a picture is coded anew.
    cut: the part of the picture that stays, as shares of its sides; None for all of it.
    replacement: a picture file to put in its place, or None.
    remark: what the outcome is to say besides what came of it.
    """

    part_id: str
    action: Action
    reason: str
    target_px: tuple[int, int] | None = None
    picture: PictureTreatment | None = None
    cut: tuple[float, float, float, float] | None = None
    replacement: Path | None = None
    remark: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Plan for one document, decided before a byte is written.

    size_bytes: of the original it was made for, so that it is not carried out on another.
    fonts, drawing, is_linearized: as the treatment has them, where the document lets them be.
    may_end_signature: a person said that a signature may end.
    embedded: what is done to documents inside the document; None leaves them as they are.
    warnings: what a person should know before the copy is made.
    """

    preset: str
    size_bytes: int
    decisions: tuple[Decision, ...]
    fonts: FontTreatment = field(default_factory=FontTreatment)
    drawing: DrawingTreatment = field(default_factory=DrawingTreatment)
    is_linearized: bool = False
    may_end_signature: bool = False
    embedded: Treatment | None = None
    warnings: tuple[str, ...] = ()

    def by_part(self) -> Mapping[str, Decision]:
        return {decision.part_id: decision for decision in self.decisions}

    def dropped_extras(self, sheet: WeightSheet) -> set[ExtraKind]:
        """Return the kinds of extras that are removed."""
        decisions = self.by_part()
        return {
            part.extra
            for part in sheet.parts
            if part.extra and decisions[part.id].action is Action.DROP
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """Actual result for one part.

    likeness: of a treated picture to its original at the displayed size, 0 to 1; else None.
    changes_looks: colours or filters were asked for, so it is meant to look different.
    loses_colour: that is all that is meant to differ. least_score: what it is to look like at
        least, by SSIMULACRA2. size_px: of a treated picture, as the copy has it.
    is_cut: what was hidden of a picture is gone. is_layered: a page became paper, strokes and
        pictures apart. turned_degrees: with the clock, of what was straightened; what lies on its
        page went along. may_lose_words: a person chose fewer pixels than its small print needs.
    """

    part_id: str
    action: Action
    reason: str
    bytes_before: int
    bytes_after: int
    likeness: float | None = None
    changes_looks: bool = False
    loses_colour: bool = False
    least_score: float = 0.0
    size_px: tuple[int, int] | None = None
    is_cut: bool = False
    is_layered: bool = False
    turned_degrees: float = 0.0
    may_lose_words: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Copy:
    """The result of a plan. `path` is None where no copy was lighter; `reasons` say why.

    media_type: of the copy, which may be another than the original's.
    """

    original: Path
    path: Path | None
    bytes_before: int
    bytes_after: int
    media_type: str
    outcomes: tuple[Outcome, ...]
    reasons: tuple[str, ...] = field(default=())
