"""Detection of pictures on a page, which stay pictures."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import box_means
from lighten.pictures.scans.tiles import dilated

__all__ = ["ZONE_MM", "picture_zones"]

Floats = NDArray[np.float32]
Marks = NDArray[np.bool_]

ZONE_MM = 2.0
_MM_PER_INCH = 25.4
# What is smaller is no picture (FINDINGS, "Scans"); gaps and spots up to that are closed.
_LEAST_MM, _GAP_ZONES = 10.0, 2
# The edge of a stroke rises over three pixels or so, by that share of its contrast in one.
_CRISP, _MOST_SOFT = 0.2, 0.55
# Squares with fewer edges, or less bare ground, are no evidence.
_LEAST_EDGES, _LEAST_BARE = 0.04, 0.1
# Tones that are neither paper nor near a stroke; strokes that change more often than letters do,
# as dots of a halftone, in changes a millimetre.
_TONE_STEP, _MOST_TONES, _MOST_CHANGES = 16, 0.3, 4.5
# What is that much darker than most of the page's paper is no paper if it is uneven: within a
# square more than by its grain, or from square to square (old papers 2.9 at most, pictures 4.3).
_PAPER_PERCENTILE, _DARKER, _UNEVEN, _GRAINS, _ROUGH = 85.0, 25.0, 4.0, 1.6, 3.6


def picture_zones(
    light: Floats, paper: Floats, ink: Marks, sides: tuple[int, int], ppi: float
) -> Marks:
    """Return squares of `ZONE_MM` that belong to a photo or halftone.

    light, paper, ink: (height, width) at `ppi`. sides: how many of their pixels a square has, and
    one pixel of what was scanned, so that edges are as many times wider.
    """
    side = sides[0]
    rows, columns = -(-light.shape[0] // side), -(-light.shape[1] // side)
    soft, tones, changes, ground, spread = (np.zeros((rows, columns), np.float32) for _ in range(5))
    _measure(light, paper, ink, sides, (soft, tones, changes, ground, spread))
    page = np.percentile(ground, _PAPER_PERCENTILE)
    is_paper = ground > page - _DARKER
    grain = float(np.median(spread[is_paper])) if is_paper.any() else 0.0
    seeds = (soft > _MOST_SOFT) | (tones > _MOST_TONES) | (changes > _MOST_CHANGES * ZONE_MM)
    rough = np.abs(ground - box_means(ground, 3))
    least = round(_LEAST_MM / (side / ppi * _MM_PER_INCH))
    out = np.zeros_like(seeds)
    for group in _large_groups(_closed(seeds), least):
        out[group] = True
    for group in _large_groups(_closed(~is_paper), least):
        is_uneven = spread[group].mean() > max(_UNEVEN, _GRAINS * grain)
        if is_uneven or rough[group].mean() > _ROUGH:
            out[group] = True
    # Its edge lies within the squares around it.
    return dilated(out, 1)


def _closed(marks: Marks) -> Marks:
    """Close gaps, then remove thin connections and isolated squares."""
    reach = _GAP_ZONES
    closed = dilated(dilated(np.pad(marks, reach), reach), -reach)[reach:-reach, reach:-reach]
    return dilated(dilated(closed, -1), 1)


def _large_groups(
    marks: Marks, least: int
) -> Iterator[tuple[NDArray[np.int64], NDArray[np.int64]]]:
    """Return rows and columns of connected groups above a size."""
    waiting = marks.copy()
    for start in np.argwhere(marks).tolist():
        if not waiting[start[0], start[1]]:
            continue
        group, stack = [], [(start[0], start[1])]
        waiting[start[0], start[1]] = False
        while stack:
            row, column = stack.pop()
            group.append((row, column))
            for near in (
                (row + 1, column),
                (row - 1, column),
                (row, column + 1),
                (row, column - 1),
            ):
                inside = 0 <= near[0] < marks.shape[0] and 0 <= near[1] < marks.shape[1]
                if inside and waiting[near]:
                    waiting[near] = False
                    stack.append(near)
        rows, columns = np.array(group).T
        if min(np.ptp(rows), np.ptp(columns)) + 1 >= least:
            yield rows, columns


@compiled
def _measure(  # noqa: PLR0912 - one pass over the pixels, which are many
    light: Floats,
    paper: Floats,
    ink: Marks,
    sides: tuple[int, int],
    out: tuple[Floats, Floats, Floats, Floats, Floats],
) -> None:  # pragma: no cover - compiled
    """Return, for each square: the share of soft edges, the share of pixels with tones, the mean
    number of changes between ink and paper along a row, and mean and spread of what is not ink.
    """
    soft, tones, changes, ground, spread = out
    height, width = light.shape
    side, step = sides
    for row in range(soft.shape[0]):
        top, low = max(step, row * side), min(height - step, (row + 1) * side)
        for column in range(soft.shape[1]):
            left, right = max(step, column * side), min(width - step, (column + 1) * side)
            edges = softs = toned = turns = bare = 0
            total, squares = 0.0, 0.0
            for y in range(top, low):
                for x in range(left, right):
                    if ink[y, x] != ink[y, x - 1]:
                        turns += 1
                    here = light[y, x]
                    if not ink[y, x]:
                        if ink[y, x - step] or ink[y, x + step]:
                            continue
                        if ink[y - step, x] or ink[y + step, x]:
                            continue
                        bare += 1
                        total += here
                        squares += here * here
                        if abs(paper[y, x] - here) > _TONE_STEP:
                            toned += 1
                        continue
                    if ink[y, x - 1] and ink[y, x + 1] and ink[y - 1, x] and ink[y + 1, x]:
                        continue
                    edges += 1
                    rise = max(
                        abs(light[y, x + step] - light[y, x - step]),
                        abs(light[y + step, x] - light[y - step, x]),
                    )
                    darkest = here
                    for away in range(-2, 3):
                        near_y = min(height - 1, max(0, y + away))
                        near_x = min(width - 1, max(0, x + away))
                        darkest = min(darkest, light[near_y, x], light[y, near_x])
                    if rise * 0.5 < _CRISP * (paper[y, x] - darkest):
                        softs += 1
            area = max(1, (low - top) * (right - left))
            if edges > _LEAST_EDGES * area:
                soft[row, column] = softs / edges
            tones[row, column] = toned / area
            changes[row, column] = turns / max(1, low - top)
            mean = total / max(1, bare)
            ground[row, column] = mean if bare > _LEAST_BARE * area else paper[top, left]
            if bare > _LEAST_BARE * area:
                spread[row, column] = np.sqrt(max(0.0, squares / bare - mean * mean))
