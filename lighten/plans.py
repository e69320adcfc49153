"""The decision for each part, and what came of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

__all__ = ["Action", "Copy", "Decision", "Outcome", "Plan"]


class Action(StrEnum):
    """What a plan does with a part."""

    KEEP = "keep"
    PACK = "pack"  # the same content, packed tighter
    RECODE = "recode"  # the same pixels, coded anew
    RESAMPLE = "resample"  # fewer pixels
    DROP = "drop"


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """What happens to one part, and why.

    target_px: width and height to resample to; set for RESAMPLE only.
    quality: of JPEG; None where only lossless coding is allowed.
    floor: least likeness of the coded picture, 0 to 1.
    """

    part_id: str
    action: Action
    reason: str
    target_px: tuple[int, int] | None = None
    quality: int | None = None
    floor: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What is done to one document, decided before a byte is written.

    size_bytes: of the original it was made for, so that it is not carried out on another.
    may_end_signature: a person said that a signature may end.
    """

    preset: str
    size_bytes: int
    decisions: tuple[Decision, ...]
    may_end_signature: bool = False

    def by_part(self) -> Mapping[str, Decision]:
        return {decision.part_id: decision for decision in self.decisions}


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What was really done to one part.

    likeness: of a treated picture to its original at the displayed size, 0 to 1; else None.
    """

    part_id: str
    action: Action
    reason: str
    bytes_before: int
    bytes_after: int
    likeness: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Copy:
    """The result of a plan. `path` is None where no copy was lighter; `reasons` say why."""

    original: Path
    path: Path | None
    bytes_before: int
    bytes_after: int
    outcomes: tuple[Outcome, ...]
    reasons: tuple[str, ...] = field(default=())
