"""Usage of the rows of a sheet: their extent, styles and strings."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lighten.formats.xlsx.cells.table import Cell, NotPlainError, Row, read_rows
from lighten.formats.xlsx.cells.trim import NOWHERE, Extent

__all__ = ["MOST_STYLES", "RowUsage", "scan_rows"]

# More than any program writes: 64,000 (common practice, no source).
MOST_STYLES = 65_536
MOST_STRINGS = 20_000_000


@dataclass(frozen=True, slots=True)
class RowUsage:
    """Usage of some rows. content, anything: extents of cells with content, and of all cells.

    styles, strings: True for each that is in use, by its number, up to the last of these.
    """

    rows: int = 0
    cells: int = 0
    blanks: int = 0
    content: Extent = NOWHERE
    anything: Extent = NOWHERE
    styles: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(0, np.bool_))
    strings: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(0, np.bool_))

    def __or__(self, other: "RowUsage") -> "RowUsage":
        """Return the usage of both."""
        return RowUsage(
            rows=self.rows + other.rows,
            cells=self.cells + other.cells,
            blanks=self.blanks + other.blanks,
            content=self.content | other.content,
            anything=self.anything | other.anything,
            styles=_either(self.styles, other.styles),
            strings=_either(self.strings, other.strings),
        )


def scan_rows(piece: bytes) -> RowUsage:
    """Scan rows for the styles and strings in use. Raises: NotPlainError, also for numbers of
    styles and strings that do not exist.
    """
    table = read_rows(piece)
    rows, cells, blank = table.rows, table.cells, table.is_blank
    strings = table.values_of(table.shared_strings)
    styles = np.concatenate([cells[:, Cell.STYLE], np.maximum(rows[:, Row.STYLE], 0)])
    is_odd = styles.max(initial=0) >= MOST_STYLES
    if is_odd or strings.min(initial=0) < 0 or strings.max(initial=0) >= MOST_STRINGS:
        raise NotPlainError
    numbers, columns = table.row_numbers, cells[:, Cell.COLUMN]
    return RowUsage(
        rows=len(rows),
        cells=len(cells) - int(blank.sum()),
        blanks=int(blank.sum()),
        content=Extent(*(int(side[~blank].max(initial=0)) for side in (numbers, columns))),
        anything=Extent(int(rows[:, Row.NUMBER].max(initial=0)), int(columns.max(initial=0))),
        styles=_marks(styles),
        strings=_marks(strings),
    )


def _marks(numbers: NDArray[np.int32]) -> NDArray[np.bool_]:
    marks = np.zeros(int(numbers.max(initial=-1)) + 1, np.bool_)
    marks[numbers] = True
    return marks


def _either(one: NDArray[np.bool_], other: NDArray[np.bool_]) -> NDArray[np.bool_]:
    longer, shorter = (one, other) if len(one) >= len(other) else (other, one)
    both = longer.copy()
    both[: len(shorter)] |= shorter
    return both
