"""Facts of a workbook's sheets and defined names."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import reduce

from lighten.model.kinds import ExtraKind

__all__ = ["NameFacts", "SheetFacts", "column_letters", "column_number"]

# The last cell of a sheet, as far as any can go.
_PLACE = re.compile(r"([A-Z]{1,3})(\d{1,7})")


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetFacts:
    """Facts of a sheet of a workbook. Rows and columns are counted from 1; 0: none.

    claimed: how far it says that it goes, as "AZ1048576"; last_row, last_column: of content.
    any_row, any_column: of anything, formats included. cells: with content; blanks: without.
    is_hidden: readers do not list it. untouchable: why its cells are left alone, or "".
    stored_bytes: all that it takes; spelling_bytes, past_bytes, fills_bytes, places_bytes,
    rules_bytes: what of that are spelling, formats past the data that show nothing, those that show
    a fill or lines, places of cells, and rules that repeat others.
    """

    claimed: str
    last_row: int
    last_column: int
    any_row: int
    any_column: int
    cells: int
    blanks: int
    is_hidden: bool = False
    untouchable: str = ""
    stored_bytes: int = 0
    spelling_bytes: int = 0
    past_bytes: int = 0
    fills_bytes: int = 0
    places_bytes: int = 0
    rules_bytes: int = 0

    @property
    def claimed_extent(self) -> tuple[int, int]:
        """Return the last row and column, declared or used, whichever is larger."""
        match = _PLACE.fullmatch(self.claimed)
        row, column = (int(match[2]), column_number(match[1])) if match else (0, 0)
        return max(row, self.any_row), max(column, self.any_column)

    @property
    def within(self) -> Mapping[ExtraKind, int]:
        """Return the bytes of extras that are only a part of the member."""
        return {
            ExtraKind.CELL_SPELLING: self.spelling_bytes,
            ExtraKind.PAST_FORMATS: self.past_bytes,
            ExtraKind.PAST_FILLS: self.fills_bytes,
            ExtraKind.CELL_PLACES: self.places_bytes,
            ExtraKind.IDLE_RULES: self.rules_bytes,
        }


def column_letters(column: int) -> str:
    """Return the letters of a column, counted from 1 (ECMA-376 part 1, 18.3.1.4); "" for none."""
    letters = ""
    while column:
        column, rest = divmod(column - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def column_number(letters: str) -> int:
    """The reverse; 0 for no letters."""
    return reduce(lambda number, letter: number * 26 + ord(letter) - 64, letters, 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class NameFacts:
    """A name in a workbook that a person may want to look at, before it stays or goes.

    points_at: as the file has it. used_by: what mentions it, in words for a person; where nothing
    does, nobody misses it. is_hidden: readers do not list it. is_broken: it points at nothing.
    is_sound: it points at cells that are there, so that it is no leftover.
    """

    points_at: str
    used_by: tuple[str, ...]
    is_hidden: bool
    is_broken: bool
    is_sound: bool = False
