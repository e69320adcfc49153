"""Ink that became paper, and paper that became ink."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import blurred, box_means, gaussian, highest, lowest

__all__ = ["REACH_PX", "ink_faults", "suspects"]

Floats = NDArray[np.float32]

# How far away a pixel may lie that counts for another.
REACH_PX = 28
# Windows around each pixel for its contrast, and for its usual difference.
_CONTRAST_PX, _USUAL_PX = 17, 41
_WINDOWS = gaussian(0.8), gaussian(1.3), gaussian(2.2)
# For each fineness: how far strokes may lie beside where they lay, in pixels; what a difference is
# held against, for ink that is lost and for ink that is added: levels, and shares of the contrast
# there, of its steps, of the usual difference, and of how dark it was. Calibrated by a prototype
# on 320 clean copies and 1,000 planted faults (FINDINGS, "Seeing a lost digit").
_TOLERATED = (0.35, 0.15, 0.0)
_LOST = np.array(
    [
        (11.4, 0.025, 0.17, 3.6, 0.0),
        (7.5, 0.02, 0.0, 2.7, 0.05),
        (3.0, 0.02, 0.0, 3.3, 0.02),
    ],
    np.float32,
)
_ADDED = np.array(
    [
        (17.0, 0.02, 0.0, 0.3, 0.36),
        (11.0, 0.02, 0.0, 1.1, 0.21),
        (7.0, 0.02, 0.0, 1.8, 0.125),
    ],
    np.float32,
)


def suspects(original: Floats, copy: Floats, least: float) -> NDArray[np.bool_]:
    """Return all pixels where `ink_faults` might exceed `least`.

    What any difference is held against is never less than its bare levels.
    """
    difference = copy - original
    found = np.zeros(original.shape, np.bool_)
    for window, of_lost, of_added in zip(_WINDOWS, _LOST, _ADDED, strict=True):
        _mark(blurred(difference, window), least * float(min(of_lost[0], of_added[0])), found)
    return found


@compiled
def _mark(
    difference: Floats, levels: float, found: NDArray[np.bool_]
) -> None:  # pragma: no cover - compiled
    height, width = difference.shape
    for y in range(height):
        for x in range(width):
            if abs(difference[y, x]) >= levels:
                found[y, x] = True


def ink_faults(original: Floats, copy: Floats) -> tuple[Floats, Floats]:
    """Return the change of each pixel against that of coding: above 1, ink is lost, or added.

    original, copy: brought together before. Returns two planes (height, width) float32.
    """
    smooth = blurred(original, _WINDOWS[0])
    light, dark = highest(smooth, _CONTRAST_PX), lowest(smooth, _CONTRAST_PX)
    mean = box_means(smooth, _USUAL_PX)
    lost, added = np.zeros_like(original), np.zeros_like(original)
    for number, window in enumerate(_WINDOWS):
        before = smooth if number == 0 else blurred(original, window)
        after = blurred(copy, window)
        bounded = np.empty_like(before)
        _bound(before, after, light, dark, bounded)
        usual = box_means(bounded, _USUAL_PX)
        tolerated = _TOLERATED[number]
        if tolerated:
            spans = (highest(before, 3), lowest(before, 3), highest(after, 3), lowest(after, 3))
        else:
            spans = (before, before, after, after)
        steps = highest(before, 5) - lowest(before, 5) if number == 0 else before
        _hold(
            (before, after),
            (*spans, light, dark, mean, usual, steps),
            tolerated,
            (_LOST[number], _ADDED[number]),
            (lost, added),
        )
    return lost, added


@compiled
def _bound(
    before: Floats, after: Floats, light: Floats, dark: Floats, out: Floats
) -> None:  # pragma: no cover - compiled
    """Return an upper bound of differences."""
    height, width = before.shape
    for y in range(height):
        for x in range(width):
            most = np.float32(0.2) * (light[y, x] - dark[y, x]) + np.float32(6)
            out[y, x] = min(abs(after[y, x] - before[y, x]), most)


@compiled
def _hold(
    both: tuple[Floats, Floats],
    around: tuple[Floats, ...],
    tolerated: float,
    thresholds: tuple[Floats, Floats],
    beyond: tuple[Floats, Floats],
) -> None:  # pragma: no cover - compiled
    """Compare differences with their thresholds; on dark ground, light and dark change places."""
    before, after = both
    highest_before, lowest_before, highest_after, lowest_after = around[:4]
    light, dark, mean, usual, steps = around[4:]
    of_lost, of_added = thresholds
    lost, added = beyond
    height, width = before.shape
    zero, share = np.float32(0), np.float32(tolerated)
    for y in range(height):
        for x in range(width):
            one, tone = before[y, x], after[y, x]
            top, bottom = light[y, x], dark[y, x]
            lighter = tone - one
            to_light = share * min(highest_before[y, x] - one, tone - lowest_after[y, x])
            to_dark = share * min(one - lowest_before[y, x], highest_after[y, x] - tone)
            is_on_light = mean[y, x] + mean[y, x] >= top + bottom
            paler, darker = lighter - to_light, -lighter - to_dark
            less = paler if is_on_light else darker
            more = darker if is_on_light else paler
            depth = max(zero, top - one if is_on_light else one - bottom)
            contrast = top - bottom
            enough = (
                of_lost[0]
                + of_lost[1] * contrast
                + of_lost[2] * steps[y, x]
                + of_lost[3] * usual[y, x]
                + of_lost[4] * depth
            )
            lost[y, x] = max(lost[y, x], less / enough)
            enough = (
                of_added[0]
                + of_added[1] * contrast
                + of_added[3] * usual[y, x]
                + of_added[4] * depth
            )
            added[y, x] = max(added[y, x], more / enough)
