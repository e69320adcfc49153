"""What stands in the rows of a sheet: how far they go, and which styles and strings they use."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lighten.formats.xlsx.cells.table import Cell, NotPlainError, Row, read_rows
from lighten.formats.xlsx.cells.trim import NOWHERE, Extent

__all__ = ["MOST_STYLES", "RowsFound", "look_through"]

# More than any program writes: 64,000 (common practice, no source).
MOST_STYLES = 65_536
MOST_STRINGS = 20_000_000


@dataclass(frozen=True, slots=True)
class RowsFound:
    """Of some rows. content, anything: how far they go. styles, strings: numbers in use."""

    rows: int = 0
    cells: int = 0
    blanks: int = 0
    content: Extent = NOWHERE
    anything: Extent = NOWHERE
    styles: NDArray[np.int32] = field(default_factory=lambda: np.zeros(0, np.int32))
    strings: NDArray[np.int32] = field(default_factory=lambda: np.zeros(0, np.int32))

    def __or__(self, other: "RowsFound") -> "RowsFound":
        """Of both."""
        return RowsFound(
            rows=self.rows + other.rows,
            cells=self.cells + other.cells,
            blanks=self.blanks + other.blanks,
            content=self.content | other.content,
            anything=self.anything | other.anything,
            styles=np.union1d(self.styles, other.styles),
            strings=np.union1d(self.strings, other.strings),
        )


def look_through(piece: bytes) -> RowsFound:
    """Raises: NotPlainError, also for styles and strings that there can be none of."""
    table = read_rows(piece)
    rows, cells, blank = table.rows, table.cells, table.is_blank
    strings = np.unique(table.values_of(table.shared_strings))
    styles = np.unique(np.concatenate([cells[:, Cell.STYLE], np.maximum(rows[:, Row.STYLE], 0)]))
    is_odd = styles.size and styles[-1] >= MOST_STYLES
    if is_odd or (strings.size and not 0 <= strings[0] <= strings[-1] < MOST_STRINGS):
        raise NotPlainError
    numbers, columns = table.row_numbers, cells[:, Cell.COLUMN]
    return RowsFound(
        rows=len(rows),
        cells=len(cells) - int(blank.sum()),
        blanks=int(blank.sum()),
        content=Extent(*(int(side[~blank].max(initial=0)) for side in (numbers, columns))),
        anything=Extent(int(rows[:, Row.NUMBER].max(initial=0)), int(columns.max(initial=0))),
        styles=styles,
        strings=strings,
    )
