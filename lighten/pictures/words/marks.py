"""Marks on a ground: connected pixels that are darker, or lighter, than what is around them."""

from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.planes import box_means

__all__ = ["Mark", "find_marks"]

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


def find_marks(light: Floats, *, is_dark: bool) -> Marks:
    """Return the marks of a plane: (marks, 6) int32, see `Mark`.

    light: (height, width) float32, 0 to 255. is_dark: marks are darker than their ground.
    """
    around = box_means(light, _AROUND_PX)
    spread = np.sqrt(np.maximum(0, box_means(light * light, _AROUND_PX) - around * around))
    step = np.maximum(np.float32(_LEAST_STEP), np.float32(_SHARE_OF_SPREAD) * spread)
    depth = around - light if is_dark else light - around
    labels = np.zeros(light.shape, np.int32)
    parents = np.zeros(light.size // 2 + 2, np.int32)
    table = np.zeros((_MOST_MARKS, len(Mark)), np.int32)
    count = np.zeros(1, np.int64)
    _label(np.ascontiguousarray(depth, np.float32), step, labels, parents, table, count)
    return table[: count[0]]


@compiled
def _label(
    depth: Floats,
    step: Floats,
    labels: Marks,
    parents: Marks,
    table: Marks,
    count: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    """Join neighbours, corners too, in two passes; then gather each mark's box and area."""
    height, width = depth.shape
    last = 0
    for y in range(height):
        for x in range(width):
            if depth[y, x] <= step[y, x]:
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
    # Numbers without gaps, in the order of their first pixels.
    used = 0
    for label in range(1, last + 1):
        if parents[label] == label:
            used += 1
            parents[label] = -used
        else:
            root = parents[label]
            while root > 0 and parents[root] > 0:
                root = parents[root]
            parents[label] = parents[root] if root > 0 else root
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
            table[mark, 5] += int(depth[y, x] * 16)
    for mark in range(used):
        table[mark, 5] //= table[mark, 4]
    count[0] = used
