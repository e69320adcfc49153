"""Faults of a copy of a picture."""

from dataclasses import dataclass
from enum import StrEnum

__all__ = ["Fault", "FaultKind", "Place"]

Place = tuple[int, int, int, int]


class FaultKind(StrEnum):
    """Kind of fault of a copy."""

    LOST_INK = "lost-ink"
    ADDED_INK = "added-ink"
    SOFT = "soft"
    TINT = "tint"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """strength: above 1 it is there; how far beyond what coding does.

    place: left, top, right, bottom in pixels of the copy, about 5 mm; None for the whole.
    words: of a tint, "warmer" and the like.
    """

    kind: FaultKind
    strength: float
    place: Place | None = None
    words: str = ""
