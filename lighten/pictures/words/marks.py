"""Marks on a ground: connected pixels that are darker, or lighter, than what is around them."""

from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled

__all__ = ["Mark", "find_marks", "following"]

Floats = NDArray[np.float32]
Marks = NDArray[np.int32]

# Ink differs from the mean around it by that much light, of 255, or that share of the spread there.
_LEAST_STEP, _SHARE_OF_SPREAD = 12.0, 0.5
_AROUND_PX = 25
# Tables larger than that are of texture, not of letters.
_MOST_MARKS = 60_000


class Mark(IntEnum):
    """Columns of the table that `find_marks` returns; the box in pixels, its ends exclusive."""

    LEFT = 0
    TOP = 1
    RIGHT = 2
    LOW = 3
    AREA = 4  # in pixels
    DEPTH = 5  # the mean difference from what is around it, in 1/16 of a level


def find_marks(light: Floats) -> tuple[Marks, Marks]:
    """Return the dark and the light marks of a plane, each (marks, 6) int32, see `Mark`.

    light: (height, width) float32, 0 to 255.
    """
    depth, step = np.empty_like(light), np.empty_like(light)
    _deepen(light, _AROUND_PX // 2, np.zeros((2, light.shape[1])), depth, step)
    labels, parents = np.empty(light.shape, np.int32), np.empty(light.size // 2 + 2, np.int32)
    found = []
    for sign in (1.0, -1.0):
        table = np.zeros((_MOST_MARKS, len(Mark)), np.int32)
        count = np.zeros(1, np.int64)
        labels[:] = 0
        _label(depth, step, sign, (labels, parents), table, count)
        found.append(table[: count[0]])
    return found[0], found[1]


def following(marks: Marks, *, most_gap: float, most_unlike: float) -> NDArray[np.int64]:
    """Return, for each mark, the one that follows it in a row; -1 for none.

    marks: sorted by their left ends. most_gap: to the next, by the larger height. most_unlike: the
    heights of the two, one by the other.
    """
    next_of = np.full(len(marks), -1, np.int64)
    if len(marks):
        _follow(np.ascontiguousarray(marks), float(most_gap), float(most_unlike), next_of)
    return next_of


@compiled
def _follow(
    marks: Marks, most_gap: float, most_unlike: float, next_of: NDArray[np.int64]
) -> None:  # pragma: no cover - compiled
    count = marks.shape[0]
    for one in range(count):
        top, right, low = marks[one, 1], marks[one, 2], marks[one, 3]
        height = low - top
        end = right + most_gap * most_unlike * max(height, 8)
        other = one + 1
        while other < count and marks[other, 0] <= end:
            other_height = marks[other, 3] - marks[other, 1]
            small, large = min(height, other_height), max(height, other_height)
            overlap = min(low, marks[other, 3]) - max(top, marks[other, 1])
            if (
                2 * overlap >= small
                and large <= most_unlike * small
                and marks[other, 0] - right <= most_gap * large
                and marks[other, 0] > marks[one, 0]
            ):
                next_of[one] = other
                break
            other += 1


@compiled
def _deepen(
    light: Floats, radius: int, sums: NDArray[np.float64], depth: Floats, step: Floats
) -> None:  # pragma: no cover - compiled
    """Write how much darker each pixel is than the mean around it, and how much makes it ink.

    radius: of the square around. sums: zeros, (2, width), of light and its squares by column.
    """
    height, width = light.shape
    side = 2 * radius + 1
    share = 1.0 / (side * side)
    for y in range(-radius, radius + 1):
        row = min(height - 1, max(0, y))
        for x in range(width):
            value = light[row, x]
            sums[0, x] += value
            sums[1, x] += value * value
    for y in range(height):
        if y:
            entering, leaving = min(height - 1, y + radius), max(0, y - radius - 1)
            for x in range(width):
                new, old = light[entering, x], light[leaving, x]
                sums[0, x] += new - old
                sums[1, x] += new * new - old * old
        total, squares = 0.0, 0.0
        for x in range(-radius, radius + 1):
            column = min(width - 1, max(0, x))
            total += sums[0, column]
            squares += sums[1, column]
        for x in range(width):
            if x:
                right, left = min(width - 1, x + radius), max(0, x - radius - 1)
                total += sums[0, right] - sums[0, left]
                squares += sums[1, right] - sums[1, left]
            mean = total * share
            spread = np.sqrt(max(0.0, squares * share - mean * mean))
            depth[y, x] = mean - light[y, x]
            step[y, x] = max(_LEAST_STEP, _SHARE_OF_SPREAD * spread)


@compiled
def _label(
    depth: Floats,
    step: Floats,
    sign: float,
    work: tuple[Marks, Marks],
    table: Marks,
    count: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    """Join neighbours, corners too, in two passes; then gather each mark's box and area.

    sign: 1 for dark marks, -1 for light ones. work: labels, all 0, and room for what each label
    belongs to.
    """
    labels, parents = work
    height, width = depth.shape
    last = 0
    for y in range(height):
        for x in range(width):
            if sign * depth[y, x] <= step[y, x]:
                continue
            found = 0
            for place in range(4):
                # To the upper left, above, to the upper right, and to the left.
                near_y = y - 1 if place < 3 else y
                near_x = x - 1 + place if place < 3 else x - 1
                if near_y < 0 or near_x < 0 or near_x >= width:
                    continue
                near = labels[near_y, near_x]
                if near == 0:
                    continue
                while parents[near] != near:
                    near = parents[near]
                if found == 0:
                    found = near
                elif near != found:
                    if near < found:
                        parents[found] = near
                        found = near
                    else:
                        parents[near] = found
            if found == 0:
                if last + 2 >= parents.size:
                    return
                last += 1
                parents[last] = last
                found = last
            labels[y, x] = found
    # Numbers without gaps, in the order of their first pixels: of roots below zero.
    used = 0
    for label in range(1, last + 1):
        if parents[label] == label:
            used += 1
            parents[label] = -used
        else:
            root = parents[label]
            while root > 0:
                root = parents[root]
            parents[label] = root
    if used > table.shape[0]:
        return
    for mark in range(used):
        table[mark, 0] = width
        table[mark, 1] = height
    for y in range(height):
        for x in range(width):
            label = labels[y, x]
            if label == 0:
                continue
            mark = -parents[label] - 1
            table[mark, 0] = min(table[mark, 0], x)
            table[mark, 1] = min(table[mark, 1], y)
            table[mark, 2] = max(table[mark, 2], x + 1)
            table[mark, 3] = max(table[mark, 3], y + 1)
            table[mark, 4] += 1
            table[mark, 5] += int(sign * depth[y, x] * 16)
    for mark in range(used):
        table[mark, 5] //= table[mark, 4]
    count[0] = used
