"""How the weight and the looks of one picture follow from its pixels and its quality."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lighten.trials import Trial

__all__ = ["Curves", "Point", "curves_of"]

_LEAST_SCORE, _BEST_SCORE = -50.0, 100.0
# How far beyond the corners a line drawn through them is believed.
_BEYOND = 0.6


@dataclass(frozen=True, slots=True)
class Point:
    """Bytes of the part and its score; is_inside: between trials, not beyond them."""

    size_bytes: float
    score: float
    is_inside: bool


@dataclass(frozen=True, slots=True)
class Curves:
    """Four trials at two sizes and two qualities, or two at one size.

    corners: (at the smaller size: low, high quality), (at the larger size: low, high quality).
    """

    widths_px: tuple[int, int]
    steps: tuple[float, float]
    corners: tuple[tuple[Trial, Trial], tuple[Trial, Trial]]

    def at(self, width_px: int, quality: int) -> Point:
        """Weight goes by the logarithms of width and of JPEG's step; so, nearly, does the score."""
        small, large = self.widths_px
        across = math.log(width_px / small) / math.log(large / small) if large > small else 1.0
        low, high = self.steps
        up = (low - _log_step(quality)) / (low - high)
        is_inside = -0.05 <= across <= 1.05 and -0.25 <= up <= 1.5
        across = max(-_BEYOND, min(1 + _BEYOND, across))
        sizes = [[math.log(max(1, one.size_bytes)) for one in pair] for pair in self.corners]
        scores = [[one.score or 0.0 for one in pair] for pair in self.corners]
        return Point(
            math.exp(_blend(sizes, across, up)),
            max(_LEAST_SCORE, min(_BEST_SCORE, _blend(scores, min(1.0, across), up))),
            is_inside,
        )


def curves_of(trials: Sequence[Trial]) -> Curves | None:
    """The curves through the corners among `trials`; None if there are too few."""
    plain = {
        (one.width_px, one.quality): one
        for one in trials
        if one.width_px is not None and one.quality is not None and one.score is not None
    }
    widths = sorted({width for width, _ in plain if width is not None})
    complete = [width for width in widths if sum(one == width for one, _ in plain) >= 2]
    if not complete:
        return None
    small, large = complete[0], complete[-1]
    qualities = sorted(
        {quality for width, quality in plain if width == small and quality is not None}
        & {quality for width, quality in plain if width == large and quality is not None}
    )
    if len(qualities) < 2:
        return None
    low, high = qualities[0], qualities[-1]
    return Curves(
        widths_px=(small, large),
        steps=(_log_step(low), _log_step(high)),
        corners=(
            (plain[small, low], plain[small, high]),
            (plain[large, low], plain[large, high]),
        ),
    )


def _log_step(quality: int) -> float:
    """The logarithm of how coarsely JPEG counts at a quality (the usual scale of its tables)."""
    quality = max(1, min(99, quality))
    return math.log(5000 / quality if quality < 50 else 200 - 2 * quality)


def _blend(values: list[list[float]], across: float, up: float) -> float:
    small, large = (pair[0] + (pair[1] - pair[0]) * up for pair in values)
    return small + (large - small) * across
