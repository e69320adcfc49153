"""Cells of a sheet as sums that are equal where the cells are, read by rules of their own.

Each cell with content counts by its place, look, kind, value and formula; numbers by the double
that they are. Blank cells count where they look otherwise than the sheet does without them. How a
cell is spelt, and in which order cells stand, makes no difference.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper

__all__ = ["CellSums", "Looks", "sum_cells"]

Bytes = NDArray[np.uint8]
Marks = NDArray[np.uint64]
_LONGEST_NUMBER = 32
_MULTIPLIER = np.uint64(0x9E3779B97F4A7C15)


@dataclass(frozen=True, slots=True)
class Looks:
    """cells: a mark for each style; columns: for what is blank in each column, counted from 0.

    seen: for each style, whether a blank cell shows it.
    """

    cells: Marks
    columns: Marks
    seen: NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class CellSums:
    """sums, counts: of content, blanks within it, past it and seen, past it and unseen; of rows.

    last_row, last_column: of content.
    """

    sums: Marks = field(default_factory=lambda: np.zeros(5, np.uint64))
    counts: NDArray[np.int64] = field(default_factory=lambda: np.zeros(5, np.int64))
    last_row: int = 0
    last_column: int = 0

    def __add__(self, other: "CellSums") -> "CellSums":
        """Return the sums of both."""
        return CellSums(
            self.sums + other.sums,
            self.counts + other.counts,
            max(self.last_row, other.last_row),
            max(self.last_column, other.last_column),
        )


def sum_cells(
    piece: bytes, looks: Looks, strings: Marks, extent: tuple[int, int] | None
) -> CellSums:
    """Sum whole rows. extent: last row and column of content, or None to find them.

    Raises: ValueError for what is not in the plain form, or leads to what is not there.
    """
    # Comments, and text that is marked as such, would be taken for what cells hold.
    if b"<!" in piece or b"<?" in piece:
        raise ValueError("more than elements and text")
    src = np.frombuffer(piece, np.uint8)
    numbers = np.zeros((piece.count(b"<v"), _LONGEST_NUMBER), np.uint8)
    partial = np.zeros(len(numbers), np.uint64)
    state = np.zeros(10, np.int64)
    state[8:] = extent or (1 << 30, 1 << 30)
    sums = np.zeros(5, np.uint64)
    marks = looks.cells, looks.columns, strings
    _sum(src, marks, looks.seen, (numbers, partial), sums, state)
    if state[7]:
        raise ValueError("cells that cannot be read")
    texts = numbers[: state[6]].view(f"S{_LONGEST_NUMBER}").reshape(-1)
    values = texts.astype(np.float64).view(np.uint64)
    mixed = (partial[: state[6]] ^ values) * _MULTIPLIER
    sums[:1] += (mixed ^ (mixed >> np.uint64(29))).sum(dtype=np.uint64, keepdims=True)
    return CellSums(sums, state[:5], int(state[5]) >> 16, int(state[5]) & 0xFFFF)


@jit_helper
def _mix(mark: int, value: int) -> int:  # pragma: no cover - compiled
    mixed = (np.uint64(mark) ^ np.uint64(value)) * np.uint64(0x9E3779B97F4A7C15)
    return mixed ^ (mixed >> np.uint64(29))  # type: ignore[return-value] # as the loop has it


@jit_helper
def _mark_of(src: Bytes, begin: int, end: int, mark: int) -> int:  # pragma: no cover - compiled
    for place in range(begin, end):
        mark = _mix(mark, src[place])
    return mark


@jit_helper
def _value_of(src: Bytes, begin: int, end: int, name: int) -> tuple[int, int]:  # pragma: no cover
    """Return the position of the value of an attribute of one letter in a tag; -1 for none."""
    for place in range(begin, end - 3):
        is_name = src[place] == name and src[place - 1] <= 32
        if is_name and src[place + 1] == 61 and src[place + 2] == 34:
            close = place + 3
            while close < end and src[close] != 34:
                close += 1
            return place + 3, close
    return -1, -1


@jit_helper
def _digits(src: Bytes, begin: int, end: int) -> int:  # pragma: no cover - compiled
    number = 0
    for place in range(begin, end):
        if src[place] < 48 or src[place] > 57 or number > 100_000_000:
            return -1
        number = number * 10 + int(src[place]) - 48
    return number if end > begin else -1


@jit_helper
def _column(src: Bytes, begin: int, end: int) -> int:  # pragma: no cover - compiled
    number = 0
    for place in range(begin, end):
        if src[place] < 65 or src[place] > 90:
            break
        number = number * 26 + int(src[place]) - 64
    return number


@jit_helper
def _tag_end(src: Bytes, at: int) -> int:  # pragma: no cover - compiled
    """The ">" of a tag; no value of an attribute is passed over that has one."""
    is_quoted = False
    while at < len(src):
        if src[at] == 34:
            is_quoted = not is_quoted
        elif src[at] == 62 and not is_quoted:
            return at
        at += 1
    return -1


@jit_helper
def _others_of(src: Bytes, begin: int, end: int, row: bool) -> int:  # pragma: no cover - compiled
    """Return a hash of all other attributes of a tag; 0 if there are none."""
    total = np.uint64(0)
    at = begin
    while at < end:
        while at < end and (src[at] <= 32 or src[at] == 47):
            at += 1
        start = at
        while at < end and src[at] != 61:
            at += 1
        name_end = at
        at += 2
        while at < end and src[at] != 34:
            at += 1
        at += 1
        if name_end >= end:
            break
        length = name_end - start
        is_known = length == 1 and (src[start] == 114 or src[start] == 115 or src[start] == 116)
        is_spans = length == 5 and src[start] == 115 and src[start + 4] == 115
        is_descent = length == 15 and src[start + 8] == 68
        is_format = length == 12 and src[start] == 99 and src[start + 6] == 70
        if not (is_known or (row and (is_spans or is_descent or is_format))):
            total += np.uint64(_mark_of(src, start, min(at, end), np.uint64(1)))
    return total  # type: ignore[return-value] # as the loop has it


@compiled
def _sum(
    src: Bytes,
    marks: tuple[Marks, Marks, Marks],
    seen: Bytes,
    numbers: tuple[Bytes, Marks],
    sums: Marks,
    state: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    """Sum rows. state: counts as in `CellSums`; 5: last row and column of content; 6: count of
    numbers;

    7: 1 for what cannot be read; 8, 9: last row and column of content, to know what is past it.
    """
    looks, columns, strings = marks
    row, column, row_style = 0, 0, -1
    last_row, last_column = 0, 0
    state[7] = 1
    at = 0
    while at + 1 < len(src):
        if src[at] != 60:
            at += 1
            continue
        end = _tag_end(src, at)
        if end < 0 or src[at + 1] == 33 or src[at + 1] == 63:
            return
        if src[at + 1] == 114:
            begin, close = _value_of(src, at + 4, end, 114)
            row = _digits(src, begin, close)
            if row < 1:
                return
            column, row_style = 0, -1
            begin, close = _value_of(src, at + 4, end, 115)
            if begin >= 0 and _is_own(src, at + 4, end):
                row_style = _digits(src, begin, close)
                if row_style < 0 or row_style >= len(looks):
                    return
            mark = _others_of(src, at + 4, end, True)
            if mark != 0:
                sums[4] += np.uint64(_mix(mark, row))
                state[4] += 1
            if row_style >= 0:
                sums[4] += np.uint64(_mix(looks[row_style], row))
                state[4] += 1
        elif src[at + 1] == 99:
            begin, close = _value_of(src, at + 2, end, 114)
            column = _column(src, begin, close) if begin >= 0 else column + 1
            begin, close = _value_of(src, at + 2, end, 115)
            style = _digits(src, begin, close) if begin >= 0 else 0
            if column < 1 or column > len(columns) or style < 0 or style >= len(looks):
                return
            mark = _mix(
                _mix(looks[style], row * 32768 + column), _others_of(src, at + 2, end, False)
            )
            if src[end - 1] == 47 or (
                end + 2 < len(src) and src[end + 1] == 60 and src[end + 2] == 47
            ):
                default = looks[row_style] if row_style >= 0 else columns[column - 1]
                if looks[style] != default:
                    kind = 1
                    if row > state[8] or column > state[9]:
                        kind = 2 if seen[style] else 3
                    sums[kind] += np.uint64(mark)
                    state[kind] += 1
                at = end + 1
                continue
            begin, close = _value_of(src, at + 2, end, 116)
            is_number = begin < 0 or (close - begin == 1 and src[begin] == 110)
            is_shared = close - begin == 1 and src[begin] == 115
            if not is_number:
                mark = _mark_of(src, begin, close, mark)
            last_row, last_column = max(last_row, row), max(last_column, column)
            state[0] += 1
            value, value_end = -1, -1
            inner = end + 1
            at = inner
            while not (
                src[at] == 60 and src[at + 1] == 47 and src[at + 2] == 99 and src[at + 3] == 62
            ):
                if src[at] == 60 and src[at + 1] == 118 and src[at + 2] == 62:
                    value = at + 3
                if src[at] == 60 and src[at + 1] == 47 and src[at + 2] == 118:
                    value_end = at
                at += 1
                if at + 4 >= len(src):
                    return
            if is_shared and value < 0 and at > inner:
                return
            if value < 0 or value_end < value:
                sums[0] += np.uint64(_mark_of(src, inner, at, mark))
            else:
                mark = _mark_of(src, inner, value, mark)
                mark = _mark_of(src, value_end, at, mark)
                if is_shared or is_number:
                    # White space around numbers means nothing (XML Schema part 2, 4.3.6).
                    while value < value_end and src[value] <= 32:
                        value += 1
                    while value < value_end and src[value_end - 1] <= 32:
                        value_end -= 1
                if is_shared:
                    index = _digits(src, value, value_end)
                    if index < 0 or index >= len(strings):
                        return
                    sums[0] += np.uint64(_mix(mark, strings[index]))
                elif is_number and 0 < value_end - value < 32:
                    line = numbers[0][state[6]]
                    for place in range(value, value_end):
                        # Values that are not numbers are compared by their letters.
                        is_odd = src[place] > 57 and src[place] != 69 and src[place] != 101
                        if is_odd or src[place] < 43 or src[place] == 44 or src[place] == 47:
                            return
                        line[place - value] = src[place]
                    numbers[1][state[6]] = mark
                    state[6] += 1
                else:
                    sums[0] += np.uint64(_mark_of(src, value, value_end, mark))
            at += 4
            continue
        at = end + 1
    state[5] = last_row * 65536 + last_column
    state[7] = 0


@jit_helper
def _is_own(src: Bytes, begin: int, end: int) -> bool:  # pragma: no cover - compiled
    """A row whose style is its own: customFormat is 1 or true."""
    for place in range(begin, end - 14):
        if src[place] == 99 and src[place + 6] == 70 and src[place + 12] == 61:
            return bool(src[place + 14] == 49) or bool(src[place + 14] == 116)
    return False
