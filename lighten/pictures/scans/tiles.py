"""A page cut into squares, and rectangles of them."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

__all__ = ["dilated", "rectangles"]

Marks = NDArray[np.bool_]
# A rectangle around two costs no more than both of them if it has but so many squares more: each
# picture brings some hundred bytes of its own, and edges that others go on beyond.
_SPARE_SQUARES, _SPARE_SHARE = 1, 1.25

Rectangle = tuple[int, int, int, int]


def rectangles(marks: Marks) -> tuple[Rectangle, ...]:
    """Return few rectangles (left, top, right, bottom) that cover all marked squares.

    Some may overlap a little. marks: (rows, columns).
    """
    boxes = list(_runs(marks))
    while (merged := _with_two_merged(boxes)) is not None:
        boxes = merged
    return tuple(sorted(boxes, key=lambda box: (box[1], box[0])))


def dilated(marks: Marks, reach: int) -> Marks:
    """Dilate by squares within `reach` of a marked one; erode if it is negative."""
    if reach < 0:
        return ~dilated(~marks, -reach)
    padded = np.pad(marks, reach)
    rows, columns = marks.shape
    out = np.zeros_like(marks)
    for down in range(2 * reach + 1):
        for across in range(2 * reach + 1):
            out |= padded[down : down + rows, across : across + columns]
    return out


def _runs(marks: Marks) -> Iterator[Rectangle]:
    """Each run of marked squares of a row, with equal ones below it."""
    left_over = marks.copy()
    for row, column in np.argwhere(marks).tolist():
        if not left_over[row, column]:
            continue
        right = column
        while right < marks.shape[1] and left_over[row, right]:
            right += 1
        low = row
        while low < marks.shape[0] and left_over[low, column:right].all():
            low += 1
        left_over[row:low, column:right] = False
        yield column, row, right, low


def _with_two_merged(boxes: list[Rectangle]) -> list[Rectangle] | None:
    """Merge two rectangles that cover little more together; None if there are none."""
    for at, one in enumerate(boxes):
        for other in boxes[at + 1 :]:
            both = (
                min(one[0], other[0]),
                min(one[1], other[1]),
                max(one[2], other[2]),
                max(one[3], other[3]),
            )
            if _is_worth_it(both, one, other):
                return [box for box in boxes if box not in (one, other)] + [both]
    return None


def _is_worth_it(both: Rectangle, one: Rectangle, other: Rectangle) -> bool:
    apart = _area(one) + _area(other)
    return _area(both) <= max(apart + _SPARE_SQUARES, apart * _SPARE_SHARE)


def _area(box: Rectangle) -> int:
    return (box[2] - box[0]) * (box[3] - box[1])
