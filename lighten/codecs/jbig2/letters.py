"""Connected pieces of ink in a bitonal picture: its letters and signs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper

__all__ = ["MOST_PX", "WORD_BITS", "Bytes", "Letters", "Numbers", "Shapes", "find_letters"]

Bytes = NDArray[np.uint8]
Numbers = NDArray[np.int32]

# Larger ones are drawing; smaller ones cost less as they are than by their positions.
MOST_PX, _LEAST_PX = 62, 4
_LEAST_INK = 8
WORD_BITS = 64
# Rows that are looked through at once, so that large pictures need little room.
_BAND = 512


@dataclass(frozen=True, slots=True, kw_only=True)
class Shapes:
    """Bitmaps no wider than a word has bits.

    width, height: of each, in pixels. rows: of each its rows from the top, the pixel on the left
    in the lowest bit; where they begin is in `first_row`, with one place more for the end.
    """

    width: Numbers
    height: Numbers
    first_row: Numbers
    rows: NDArray[np.uint64]

    def __len__(self) -> int:
        return len(self.width)


@dataclass(frozen=True, slots=True, kw_only=True)
class Letters:
    """Pieces of ink small enough to be letters, in no order.

    left, top: of each, in pixels. ink: how many are black.
    """

    left: Numbers
    top: Numbers
    ink: Numbers
    shapes: Shapes

    def __len__(self) -> int:
        return len(self.left)


def find_letters(black: NDArray[np.bool_]) -> Letters:
    """Find connected ink in (height, width) pixels, true where black; corners connect as well."""
    row, begin, end = _runs(black)
    parent = np.arange(len(row), dtype=np.int32)
    starts = np.searchsorted(row, np.arange(black.shape[0] + 1)).astype(np.int32)
    _join(starts, begin, end, parent)
    _, inverse = np.unique(parent, return_inverse=True)
    piece = inverse.astype(np.int32)
    count = int(piece.max()) + 1 if len(piece) else 0
    boxes = np.empty((count, 5), np.int32)
    _measure(row, begin, end, piece, boxes)
    left, right, top, bottom, ink = boxes.T
    width, height = right - left, bottom - top
    fits = (np.maximum(width, height) <= MOST_PX) & (ink >= _LEAST_INK)
    fits &= np.maximum(width, height) >= _LEAST_PX
    chosen = np.flatnonzero(fits)
    place = np.full(count, -1, np.int32)
    place[chosen] = np.arange(len(chosen), dtype=np.int32)
    first_row = np.concatenate([[0], np.cumsum(height[chosen])]).astype(np.int32)
    rows = np.zeros(int(first_row[-1]), np.uint64)
    _paint(row, begin, end, piece, place, boxes, first_row, rows)
    return Letters(
        left=np.ascontiguousarray(left[chosen]),
        top=np.ascontiguousarray(top[chosen]),
        ink=np.ascontiguousarray(ink[chosen]),
        shapes=Shapes(width=width[chosen], height=height[chosen], first_row=first_row, rows=rows),
    )


def _runs(black: NDArray[np.bool_]) -> tuple[Numbers, Numbers, Numbers]:
    """Return row, first column, and column after the last of each run of black in a row."""
    bands = [_runs_of_band(black[top : top + _BAND], top) for top in range(0, len(black), _BAND)]
    row, begin, end = (np.concatenate(column) for column in zip(*bands, strict=True))
    return row, begin, end


def _runs_of_band(black: NDArray[np.bool_], top: int) -> tuple[Numbers, Numbers, Numbers]:
    height, width = black.shape
    framed = np.zeros((height, width + 2), np.int8)
    framed[:, 1:-1] = black
    steps = np.diff(framed, axis=1).ravel()
    starts, ends = np.flatnonzero(steps > 0), np.flatnonzero(steps < 0)
    row, begin = np.divmod(starts, width + 1)
    columns = row + top, begin, ends % (width + 1)
    row, begin, end = (column.astype(np.int32) for column in columns)
    return row, begin, end


@jit_helper
def _root(parent: Numbers, n: int) -> int:  # pragma: no cover - compiled
    while parent[n] != n:
        parent[n] = parent[parent[n]]
        n = parent[n]
    return n


@compiled
def _join(
    starts: Numbers, begin: Numbers, end: Numbers, parent: Numbers
) -> None:  # pragma: no cover - compiled
    """Set each run's parent to the first run of its connected piece."""
    for y in range(1, len(starts) - 1):
        above, last_above = starts[y - 1], starts[y]
        for n in range(starts[y], starts[y + 1]):
            while above < last_above and end[above] < begin[n]:
                above += 1
            other = above
            while other < last_above and begin[other] <= end[n]:
                one, two = _root(parent, n), _root(parent, other)
                if one < two:
                    parent[two] = one
                else:
                    parent[one] = two
                other += 1
    for n in range(len(parent)):
        parent[n] = _root(parent, n)


@compiled
def _measure(
    row: Numbers, begin: Numbers, end: Numbers, piece: Numbers, boxes: Numbers
) -> None:  # pragma: no cover - compiled
    """Measure left, right, top, bottom (exclusive ends) and ink of each piece."""
    for n in range(len(boxes)):
        boxes[n, 0] = 1 << 30
        boxes[n, 1] = 0
        boxes[n, 2] = 1 << 30
        boxes[n, 3] = 0
        boxes[n, 4] = 0
    for n in range(len(row)):
        p = piece[n]
        boxes[p, 0] = min(boxes[p, 0], begin[n])
        boxes[p, 1] = max(boxes[p, 1], end[n])
        boxes[p, 2] = min(boxes[p, 2], row[n])
        boxes[p, 3] = max(boxes[p, 3], row[n] + 1)
        boxes[p, 4] += end[n] - begin[n]


@compiled
def _paint(
    row: Numbers,
    begin: Numbers,
    end: Numbers,
    piece: Numbers,
    place: Numbers,
    boxes: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
) -> None:  # pragma: no cover - compiled
    for n in range(len(row)):
        p = piece[n]
        letter = place[p]
        if letter >= 0:
            length = end[n] - begin[n]
            bits = ((np.uint64(1) << np.uint64(length)) - np.uint64(1)) << np.uint64(
                begin[n] - boxes[p, 0]
            )
            rows[first_row[letter] + row[n] - boxes[p, 2]] |= bits
