"""Rules of a fit: the lowest score that pictures may have, and further changes."""

from dataclasses import dataclass

from lighten.model.json_converter import present_choice
from lighten.model.kinds import ExtraKind

__all__ = ["BITONAL", "GREY", "INVISIBLE", "FitRules", "Way"]

# From this score of SSIMULACRA2 on, nobody sees a difference (its own scale).
INVISIBLE = 90.0
Way = str
GREY, BITONAL = "grey", "bitonal"


@dataclass(frozen=True, slots=True, kw_only=True)
class FitRules:
    """floor: the least score (SSIMULACRA2, 100 for the same) that any picture may have.

    ways: what else may be done, in that order, where pictures alone cannot meet the limit:
    "grey", "bitonal" (scanned pages), or a kind of extra to leave out.
    """

    floor: float = 55.0
    ways: tuple[Way, ...] = ()

    def __post_init__(self) -> None:
        if not 0 <= self.floor <= INVISIBLE:
            raise ValueError(f"floor is from 0 to {INVISIBLE:.0f}")
        object.__setattr__(self, "ways", tuple(present_choice(way) for way in self.ways))
        for way in self.ways:
            if way not in (GREY, BITONAL) and way not in set(ExtraKind):
                raise ValueError(f'"{way}" is no way to make a document lighter')
