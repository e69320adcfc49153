"""Weight and looks of one picture as functions of its pixels and its quality."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lighten.model.trials import Trial
from lighten.pictures.coding.encode import HALVED_CHROMA_UP_TO
from lighten.planning.coding_model import FULL_CHROMA_SHARE

__all__ = ["HIGH_QUALITY", "LOW_QUALITY", "TOP_QUALITY", "Curves", "Point", "curves_of"]

# Of the trials that the curves are drawn through.
LOW_QUALITY, HIGH_QUALITY, TOP_QUALITY = 45, 85, 95
_LEAST_SCORE, _LEAST_LOSS = -50.0, 0.5
# How far beyond the corners a line drawn through them is believed.
_BEYOND = 0.6
# Where it counts as drawn between them, across sizes and up qualities.
_INSIDE_ACROSS, _INSIDE_UP = (-0.05, 1.05), (-0.25, 1.5)

Floats = NDArray[np.float64]
_Number = TypeVar("_Number", float, Floats)


@dataclass(frozen=True, slots=True)
class Point:
    """Bytes of the part and its score; is_inside: between trials, not beyond them."""

    size_bytes: float
    score: float
    is_inside: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class _Slopes:
    """Slopes of a logarithm beyond the corners: across, and along quality at either size."""

    across: float
    up_small: float
    up_large: float

    def beyond(self, share: _Number, across: _Number, up: _Number) -> _Number:
        """share: how near the larger size, 0 to 1."""
        slope = self.up_small + (self.up_large - self.up_small) * share
        return across * self.across + up * slope


@dataclass(frozen=True, slots=True)
class Curves:
    """Four trials at two sizes and two qualities, or two at one size.

    corners: (at the smaller size: low, high quality), (at the larger size: low, high quality).
    whole: at all its pixels and the high quality; finer: at the larger size and the top quality;
    where there are such.
    """

    widths_px: tuple[int, int]
    corners: tuple[tuple[Trial, Trial], tuple[Trial, Trial]]
    whole: Trial | None = None
    finer: Trial | None = None

    def at(self, width_px: int, quality: int) -> Point:
        across, up, looks = self._across(width_px), _UP[quality], _UP_OF_LOOKS[quality]
        is_inside = (
            _INSIDE_ACROSS[0] <= across <= max(_INSIDE_ACROSS[1], self._farthest)
            and _INSIDE_UP[0] <= up <= _INSIDE_UP[1]
        )
        across = max(-_BEYOND, across)
        near = min(across, self._bend_across)
        (sizes, losses), (size_slopes, loss_slopes) = self._logs, self._slopes
        size = _blend(sizes, near, min(up, self._bend_up))
        loss = _blend(losses, near, min(looks, self._bend_up))
        share = max(0.0, min(1.0, near))
        size += size_slopes.beyond(share, across - near, max(0.0, up - self._bend_up))
        loss += loss_slopes.beyond(share, across - near, max(0.0, looks - self._bend_up))
        return Point(math.exp(size), max(_LEAST_SCORE, 100.0 - math.exp(loss)), is_inside)

    def grid(self, widths_px: Sequence[int], qualities: Sequence[int]) -> tuple[Floats, Floats]:
        """Bytes and scores, each (widths, qualities)."""
        across = np.maximum(-_BEYOND, np.array([[self._across(width)] for width in widths_px]))
        up = np.array([[_UP[quality] for quality in qualities]])
        looks = np.array([[_UP_OF_LOOKS[quality] for quality in qualities]])
        near = np.minimum(across, self._bend_across)
        (sizes, losses), (size_slopes, loss_slopes) = self._logs, self._slopes
        size = _blend(sizes, near, np.minimum(up, self._bend_up))
        loss = _blend(losses, near, np.minimum(looks, self._bend_up))
        share = np.clip(near, 0.0, 1.0)
        ups, more_looks = np.maximum(0.0, up - self._bend_up), looks - self._bend_up
        size = size + size_slopes.beyond(share, across - near, ups)
        loss = loss + loss_slopes.beyond(share, across - near, np.maximum(0.0, more_looks))
        return np.exp(size), np.maximum(100.0 - np.exp(loss), _LEAST_SCORE)

    @property
    def _farthest(self) -> float:
        return self._across(self.whole.width_px) if self.whole else 1.0

    @property
    def _bend_across(self) -> float:
        """Return the abscissas where lines change direction, or end."""
        return 1.0 if self.whole else 1 + _BEYOND

    @property
    def _bend_up(self) -> float:
        return 1.0 if self.finer else math.inf

    @property
    def _slopes(self) -> tuple["_Slopes", "_Slopes"]:
        """Return the slopes of weights and of losses beyond the bends.

        Grain that a resampled picture has lost weighs much in a whole one, and at a high quality.
        """
        sizes, losses = self._logs
        far = self._across(self.whole.width_px) - 1 if self.whole else 1.0
        size, loss = _logs_of(self.whole) if self.whole else (sizes[1][1], losses[1][1])
        across = ((size - sizes[1][1]) / far, (loss - losses[1][1]) / far)
        # What fewer pixels have lost no quality brings back: there the line goes on as it went.
        lows = (sizes[0][1] - sizes[0][0], losses[0][1] - losses[0][0])
        ups = lows
        if self.finer is not None and self.finer.quality is not None:
            size, loss = _logs_of(self.finer)
            quality = self.finer.quality
            ups = (
                (size - sizes[1][1]) / (_UP[quality] - 1),
                (loss - losses[1][1]) / (_UP_OF_LOOKS[quality] - 1),
            )
        return (
            _Slopes(across=across[0], up_small=lows[0], up_large=ups[0]),
            _Slopes(across=across[1], up_small=lows[1], up_large=ups[1]),
        )

    @property
    def _logs(self) -> tuple[list[list[float]], list[list[float]]]:
        """Return the logarithms of weights, and of the differences to a score of 100.

        Both go straight by the logarithms of width and of JPEG's step (five pictures, nine
        finenesses from 75 to 300 ppi, six qualities).
        """
        return (
            [[math.log(max(1, trial.size_bytes)) for trial in pair] for pair in self.corners],
            [
                [math.log(max(_LEAST_LOSS, 100.0 - (trial.score or 0.0))) for trial in pair]
                for pair in self.corners
            ],
        )

    def full_chroma(self, quality: int) -> float:
        """Return by how much colours at all pixels add to the weight at a quality.

        The low and high corners have halved colours, the one at the top quality has all; between,
        the line through both misses less of the step the higher the quality is.
        """
        if quality <= HALVED_CHROMA_UP_TO:
            return 1.0
        missed = 1.0
        if self.finer is not None and self.finer.quality is not None:
            missed = 1 - (_UP[quality] - 1) / (_UP[self.finer.quality] - 1)
        return float(FULL_CHROMA_SHARE ** max(0.0, missed))

    @staticmethod
    def step(quality: int) -> float:
        """Return the position of a quality: 0 at the low one of the trials, 1 at the high one."""
        return _UP[quality]

    def _across(self, width_px: int) -> float:
        """Return 0 at the smaller size and 1 at the larger one, by the logarithm of the width."""
        small, large = self.widths_px
        return math.log(width_px / small) / math.log(large / small) if large > small else 1.0


def curves_of(trials: Sequence[Trial]) -> Curves | None:
    """Return curves through the corner trials; None if there are too few."""
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
        whole=max(
            (
                trial
                for (width, quality), trial in plain.items()
                if width > large and quality == HIGH_QUALITY
            ),
            key=lambda trial: trial.width_px,
            default=None,
        ),
        finer=plain.get((large, TOP_QUALITY)),
    )


def _log_step(quality: int) -> float:
    """Return the logarithm of JPEG's quantisation scale at a quality."""
    quality = max(1, min(99, quality))
    return math.log(5000 / quality if quality < 50 else 200 - 2 * quality)


_LOW_STEP, _HIGH_STEP = _log_step(LOW_QUALITY), _log_step(HIGH_QUALITY)
# For each quality: 0 at the low one of the trials, 1 at the high one, by the logarithm of its step.
_UP = [(_LOW_STEP - _log_step(quality)) / (_LOW_STEP - _HIGH_STEP) for quality in range(101)]
# Looks gain less from there on: what fewer pixels have lost no quality brings back.
_LESS_ABOVE = 0.7
_UP_OF_LOOKS = [up if up <= 1 else 1 + _LESS_ABOVE * (up - 1) for up in _UP]


def _blend(values: list[list[float]], across: _Number, up: _Number) -> _Number:
    small, large = (pair[0] + (pair[1] - pair[0]) * up for pair in values)
    return small + (large - small) * across


def _logs_of(trial: Trial) -> tuple[float, float]:
    return (
        math.log(max(1, trial.size_bytes)),
        math.log(max(_LEAST_LOSS, 100.0 - (trial.score or 0.0))),
    )
