"""Rows of a sheet as a table: where each row and cell stands in the bytes, and what it is.

Source: ECMA-376 part 1, 18.3.1.73 (rows), 18.3.1.4 (cells), 18.18.11 (their types).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper
from lighten.formats.xlsx.cells.tokens import (
    ROWS,
    after_spaces,
    attribute_at,
    column_of,
    next_tag,
    number_of,
)

__all__ = ["Cell", "CellTable", "NotPlainError", "Row", "Type", "is_hint", "read_rows"]

Bytes = NDArray[np.uint8]
Table = NDArray[np.int32]


class NotPlainError(Exception):
    """The rows are not in the plain form, or not in order."""


class Row:
    """Columns of the table of rows.

    STYLE: -1 where it has none of its own. BEGIN, END: of its attributes. FIRST, COUNT: of its
    cells. IS_PLAIN: it has no height, outline or the like.
    """

    NUMBER, STYLE, BEGIN, END, FIRST, COUNT, IS_PLAIN = range(7)


class Cell:
    """Columns of the table of cells.

    ROW: its place in the table of rows. BEGIN, END: of its attributes. INNER, INNER_END: of all
    within it. VALUE, VALUE_END: of the text of its value, -1 for none. IS_PLAIN: it has no
    attributes but its place, style and type. FORMULA: it has one.
    """

    ROW, COLUMN, STYLE, TYPE, BEGIN, END, INNER, INNER_END, VALUE, VALUE_END = range(10)
    IS_PLAIN, FORMULA = 10, 11


class Type:
    """Type of a cell's value."""

    NUMBER, SHARED, OTHER = range(3)


@dataclass(frozen=True, slots=True)
class CellTable:
    """src: the bytes of whole rows. rows, cells: a line each, as `Row` and `Cell` have columns."""

    src: Bytes
    rows: Table
    cells: Table

    @property
    def is_blank(self) -> NDArray[np.bool_]:
        """Return, for each cell, whether it is empty."""
        blank: NDArray[np.bool_] = self.cells[:, Cell.INNER] == self.cells[:, Cell.INNER_END]
        return blank

    @property
    def row_numbers(self) -> Table:
        """Return the row number of each cell."""
        numbers: Table = self.rows[self.cells[:, Cell.ROW], Row.NUMBER]
        return numbers

    @property
    def shared_strings(self) -> Table:
        """Return the lines of the table of cells that show a shared string."""
        is_shared = self.cells[:, Cell.TYPE] == Type.SHARED
        return np.flatnonzero(is_shared & (self.cells[:, Cell.VALUE] >= 0)).astype(np.int32)

    def values_of(self, lines: Table) -> Table:
        """Return the whole numbers in the cells; -1 for other values."""
        out = np.empty(len(lines), np.int32)
        _whole_numbers(self.src, self.cells, lines, out)
        return out


def read_rows(piece: bytes) -> CellTable:
    """The rows of a piece. Raises: NotPlainError."""
    src = np.frombuffer(piece, np.uint8)
    rows = np.zeros((piece.count(b"<row"), 7), np.int32)
    cells = np.zeros((piece.count(b"<c"), 12), np.int32)
    counts = np.zeros(3, np.int64)
    _read(src, rows, cells, counts)
    if not counts[2]:
        raise NotPlainError
    return CellTable(src, rows[: counts[0]], cells[: counts[1]])


@compiled
def _read(
    src: Bytes, rows: Table, cells: Table, counts: NDArray[np.int64]
) -> None:  # pragma: no cover - compiled
    """Read rows. counts: rows, cells, and 1 where all of it was plain."""
    at = after_spaces(src, 0)
    before = 0
    while at < len(src):
        at = _read_row(src, at, rows, cells, counts)
        if at < 0:
            return
        number = rows[counts[0] - 1, 0]
        if number <= before or number > ROWS:
            return
        before = number
        at = after_spaces(src, at)
    counts[2] = 1


@jit_helper
def _read_row(
    src: Bytes, at: int, rows: Table, cells: Table, counts: NDArray[np.int64]
) -> int:  # pragma: no cover - compiled
    """The place after the row that begins at `at`; -1 if it is not plain."""
    is_row = at + 5 < len(src) and src[at] == 60 and src[at + 1] == 114 and src[at + 3] == 119
    if not is_row or counts[0] >= len(rows):
        return -1
    row = rows[counts[0]]
    counts[0] += 1
    row[1], row[2], row[4], row[6] = -1, at + 4, counts[1], 1
    style, has_own = -1, False
    begin, end, value, after = attribute_at(src, at + 4)
    while begin >= 0 and begin != end:
        if end - begin == 1 and src[begin] == 114:
            row[0] = number_of(src, value, after)
        elif end - begin == 1 and src[begin] == 115:
            style = number_of(src, value, after)
        elif _is_custom_format(src, begin, end):
            has_own = src[value] == 49 or src[value] == 116
        elif not is_hint(src, begin, end):
            row[6] = 0
        row[3] = after + 1
        begin, end, value, after = attribute_at(src, after + 1)
    if begin < 0:
        return -1
    if has_own:
        row[1] = style
    if src[begin] == 47:
        return int(begin) + 2
    at = after_spaces(src, begin + 1)
    column = 0
    while at + 5 < len(src) and src[at] == 60 and src[at + 1] == 99:
        at = _read_cell(src, at + 2, column, cells, counts)
        if at < 0:
            return -1
        cell = cells[counts[1] - 1]
        cell[0], column = counts[0] - 1, cell[1]
        row[5] += 1
        at = after_spaces(src, at)
    is_end = at + 5 < len(src) and src[at + 1] == 47 and src[at + 2] == 114 and src[at + 5] == 62
    return int(at) + 6 if is_end else -1


@jit_helper
def _is_custom_format(src: Bytes, begin: int, end: int) -> bool:  # pragma: no cover - compiled
    """Return whether the row has a style of its own."""
    return end - begin == 12 and bool(src[begin] == 99) and bool(src[begin + 6] == 70)


@jit_helper
def is_hint(src: Bytes, begin: int, end: int) -> bool:  # pragma: no cover - compiled
    """An attribute of a row that only helps to read it faster: spans, or where its base lies."""
    if end - begin == 5:
        return bool(src[begin] == 115) and bool(src[begin + 1] == 112)
    return end - begin == 15 and bool(src[begin + 5] == 58) and bool(src[begin + 6] == 100)


@jit_helper
def _read_cell(
    src: Bytes, at: int, before: int, cells: Table, counts: NDArray[np.int64]
) -> int:  # pragma: no cover - compiled
    """The place after the cell whose attributes begin at `at`; -1 if it is not plain."""
    if counts[1] >= len(cells) or (src[at] != 32 and src[at] != 62 and src[at] != 47):
        return -1
    cell = cells[counts[1]]
    counts[1] += 1
    cell[1], cell[4], cell[5], cell[8], cell[9], cell[10] = before + 1, at, at, -1, -1, 1
    begin, end, value, after = attribute_at(src, at)
    while begin >= 0 and begin != end:
        name = src[begin] if end - begin == 1 else 0
        if name == 114:
            cell[1] = column_of(src, value, after)
        elif name == 115:
            cell[2] = number_of(src, value, after)
        elif name == 116:
            cell[3] = _type_of(src, value, after)
        else:
            cell[10] = 0
        cell[5] = after + 1
        begin, end, value, after = attribute_at(src, after + 1)
    if begin < 0 or cell[1] <= before or cell[2] < 0:
        return -1
    cell[6], cell[7] = begin + 1, begin + 1
    if src[begin] == 47:
        return int(begin) + 2
    at = next_tag(src, begin + 1)
    while at >= 0 and at + 3 < len(src):
        if src[at + 1] == 47 and src[at + 2] == 99 and src[at + 3] == 62:
            cell[7] = at
            # A number of a string that is out of place cannot be read again.
            return -1 if cell[3] == 1 and cell[8] < 0 and at > begin + 1 else int(at) + 4
        if src[at + 1] == 118 and src[at + 2] == 62:
            cell[8], cell[9] = at + 3, next_tag(src, at + 3)
        elif src[at + 1] == 102 and src[at + 2] < 97:
            cell[11] = 1
        at = next_tag(src, at + 1)
    return -1


@jit_helper
def _type_of(src: Bytes, begin: int, end: int) -> int:  # pragma: no cover - compiled
    if end - begin == 1 and src[begin] == 110:
        return 0
    return 1 if end - begin == 1 and src[begin] == 115 else 2


@compiled
def _whole_numbers(
    src: Bytes, cells: Table, lines: Table, out: Table
) -> None:  # pragma: no cover - compiled
    for place in range(len(lines)):
        cell = cells[lines[place]]
        out[place] = number_of(src, cell[8], cell[9])
