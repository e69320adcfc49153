"""Rows and cells that show nothing, so that a sheet looks the same without them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.formats.xlsx.cells.table import Cell, CellTable, Row
from lighten.formats.xlsx.cells.tokens import COLUMNS

__all__ = ["NOWHERE", "Extent", "Trimming", "kept_lines"]


@dataclass(frozen=True, slots=True)
class Extent:
    """Last row and column, counted from 1; 0 where there is none."""

    row: int = 0
    column: int = 0

    def __or__(self, other: "Extent") -> "Extent":
        return Extent(max(self.row, other.row), max(self.column, other.column))


NOWHERE = Extent()


@dataclass(frozen=True, slots=True)
class Trimming:
    """Rows and cells that may be removed.

    column_styles: of each column, counted from 0, the style that its cells have by themselves.
    shows: by style, whether it shows where a cell is blank: a fill, a line.
    content: how far content goes. past, fills: formats that show nothing, and those that show a
    fill or lines, go beyond it, by choice.
    """

    column_styles: NDArray[np.int32]
    shows: NDArray[np.bool_]
    content: Extent
    past: bool = False
    fills: bool = False


def kept_lines(table: CellTable, trimming: Trimming) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Return the kept rows and cells of the table.

    A blank cell goes that looks as its row, or else its column, makes it look without it.
    """
    rows, cells = table.rows, table.cells
    own = rows[:, Row.STYLE][cells[:, Cell.ROW]]
    of_column = trimming.column_styles[np.minimum(cells[:, Cell.COLUMN] - 1, COLUMNS - 1)]
    without = np.where(own >= 0, own, of_column)
    may_go = table.is_blank & (cells[:, Cell.IS_PLAIN] == 1)
    idle = may_go & (cells[:, Cell.STYLE] == without)
    if trimming.past or trimming.fills:
        content = trimming.content
        is_past = (table.row_numbers > content.row) | (cells[:, Cell.COLUMN] > content.column)
        is_seen = trimming.shows[cells[:, Cell.STYLE]]
        is_chosen = np.where(is_seen, trimming.fills, trimming.past)
        # Where its row or column shows something, a cell hides it.
        idle |= may_go & is_past & ~trimming.shows[without] & is_chosen
    keeps_cell = ~idle
    keeps_row = np.zeros(len(rows), np.bool_)
    keeps_row[cells[keeps_cell, Cell.ROW]] = True
    keeps_row |= (rows[:, Row.IS_PLAIN] == 0) | (rows[:, Row.STYLE] >= 0)
    if trimming.past:
        empty = np.ones(len(rows), np.bool_)
        empty[cells[keeps_cell, Cell.ROW]] = False
        # Where a column shows something, a row that shows nothing hides it.
        is_seen = trimming.shows[np.maximum(rows[:, Row.STYLE], 0)]
        is_idle = ~is_seen & (not trimming.shows[trimming.column_styles].any())
        is_past = rows[:, Row.NUMBER] > trimming.content.row
        keeps_row &= ~(empty & is_past & is_idle & (rows[:, Row.IS_PLAIN] == 1))
    return keeps_row, keeps_cell
