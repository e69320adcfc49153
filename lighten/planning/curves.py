"""How the weight and the looks of one picture follow from its pixels and its quality."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lighten.trials import Trial

__all__ = ["HIGH_QUALITY", "LOW_QUALITY", "Curves", "Point", "curves_of"]

# Of the trials that the curves are drawn through.
LOW_QUALITY, HIGH_QUALITY = 45, 85
_LEAST_SCORE, _LEAST_LOSS = -50.0, 0.5
# How far beyond the corners a line drawn through them is believed.
_BEYOND = 0.6
# Where it counts as drawn between them, across sizes and up qualities.
_INSIDE_ACROSS, _INSIDE_UP = (-0.05, 1.05), (-0.25, 1.5)

Floats = NDArray[np.float64]


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
    corners: tuple[tuple[Trial, Trial], tuple[Trial, Trial]]

    def at(self, width_px: int, quality: int) -> Point:
        across, up = self._across(width_px), _UP[quality]
        is_inside = (
            _INSIDE_ACROSS[0] <= across <= _INSIDE_ACROSS[1]
            and _INSIDE_UP[0] <= up <= _INSIDE_UP[1]
        )
        across = max(-_BEYOND, min(1 + _BEYOND, across))
        sizes, losses = self._logs
        loss = math.exp(_blend(losses, across, _UP_OF_LOOKS[quality]))
        return Point(
            math.exp(_blend(sizes, across, up)), max(_LEAST_SCORE, 100.0 - loss), is_inside
        )

    def grid(self, widths_px: Sequence[int], qualities: Sequence[int]) -> tuple[Floats, Floats]:
        """Bytes and scores, each (widths, qualities)."""
        across = np.array([[self._across(width)] for width in widths_px])
        across = np.clip(across, -_BEYOND, 1 + _BEYOND)
        up = np.array([[_UP[quality] for quality in qualities]])
        up_of_looks = np.array([[_UP_OF_LOOKS[quality] for quality in qualities]])
        sizes, losses = self._logs
        scores = 100.0 - np.exp(_blend(losses, across, up_of_looks))
        return np.exp(_blend(sizes, across, up)), np.maximum(scores, _LEAST_SCORE)

    @property
    def _logs(self) -> tuple[list[list[float]], list[list[float]]]:
        """Of weights, and of what is missing to a score of 100.

        Both go straight by the logarithms of width and of JPEG's step (five pictures, nine
        finenesses from 75 to 300 ppi, six qualities).
        """
        return (
            [[math.log(max(1, one.size_bytes)) for one in pair] for pair in self.corners],
            [
                [math.log(max(_LEAST_LOSS, 100.0 - (one.score or 0.0))) for one in pair]
                for pair in self.corners
            ],
        )

    @staticmethod
    def step(quality: int) -> float:
        """How fine a quality is: 0 at the low one of the trials, 1 at the high one."""
        return _UP[quality]

    def _across(self, width_px: int) -> float:
        """0 at the smaller size, 1 at the larger one, by the logarithm of the width."""
        small, large = self.widths_px
        return math.log(width_px / small) / math.log(large / small) if large > small else 1.0


def curves_of(trials: Sequence[Trial]) -> Curves | None:
    """The curves through the corners among `trials`; None if there are too few."""
    plain = {
        (one.width_px, one.quality): one
        for one in trials
        if one.is_plain and one.score is not None and not one.is_final
    }
    complete = sorted(
        width
        for width, quality in plain
        if quality == LOW_QUALITY and (width, HIGH_QUALITY) in plain
    )
    if not complete:
        return None
    small, large = complete[0], complete[-1]
    return Curves(
        widths_px=(small, large),
        corners=(
            (plain[small, LOW_QUALITY], plain[small, HIGH_QUALITY]),
            (plain[large, LOW_QUALITY], plain[large, HIGH_QUALITY]),
        ),
    )


def _log_step(quality: int) -> float:
    """The logarithm of how coarsely JPEG counts at a quality (the usual scale of its tables)."""
    quality = max(1, min(99, quality))
    return math.log(5000 / quality if quality < 50 else 200 - 2 * quality)


_LOW_STEP, _HIGH_STEP = _log_step(LOW_QUALITY), _log_step(HIGH_QUALITY)
# For each quality: 0 at the low one of the trials, 1 at the high one, by the logarithm of its step.
_UP = [(_LOW_STEP - _log_step(quality)) / (_LOW_STEP - _HIGH_STEP) for quality in range(101)]
# Looks gain less from there on: what fewer pixels have lost no quality brings back.
_LESS_ABOVE = 0.7
_UP_OF_LOOKS = [up if up <= 1 else 1 + _LESS_ABOVE * (up - 1) for up in _UP]

_Number = TypeVar("_Number", float, Floats)


def _blend(values: list[list[float]], across: _Number, up: _Number) -> _Number:
    small, large = (pair[0] + (pair[1] - pair[0]) * up for pair in values)
    return small + (large - small) * across
