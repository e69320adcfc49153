"""Steps through the XML of rows, for loops that are compiled.

Only the plain form is known that nearly all programs write: names without a prefix, values in
double quotes, no comments, every row with its number. `plain_xml` makes it of others.
Source: ECMA-376 part 1, 18.3.1.4 (cells and their places), 18.3.1.73 (rows).
"""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import jit_helper

__all__ = ["COLUMNS", "ROWS", "after_spaces", "attribute_at", "column_of", "next_tag", "number_of"]

ROWS, COLUMNS = 1_048_576, 16_384
Bytes = NDArray[np.uint8]
_DIGITS = 9


@jit_helper
def after_spaces(src: Bytes, at: int) -> int:  # pragma: no cover - compiled
    """The first place from `at` on that is no white space."""
    while at < len(src) and (src[at] == 32 or 9 <= src[at] <= 13):
        at += 1
    return at


@jit_helper
def attribute_at(src: Bytes, at: int) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """Return begin and end of the next attribute's name and value.

    Both of the name are the place of ">" or "/" where there is none any more. -1: not plain.
    """
    at = after_spaces(src, at)
    begin = at
    while at < len(src) and src[at] > 32 and src[at] != 61 and src[at] != 62 and src[at] != 47:
        at += 1
    if at < len(src) and at == begin and src[at] != 61:
        return at, at, at, at
    end = at
    if at + 1 >= len(src) or src[at] != 61 or src[at + 1] != 34:
        return -1, -1, -1, -1
    at += 2
    value = at
    while at < len(src) and src[at] != 34 and src[at] != 60:
        at += 1
    if at >= len(src) or src[at] == 60:
        return -1, -1, -1, -1
    return begin, end, value, at


@jit_helper
def number_of(src: Bytes, begin: int, end: int) -> int:  # pragma: no cover - compiled
    """Return the number that digits stand for; -1 for anything else."""
    if end <= begin or end - begin > _DIGITS:
        return -1
    number = 0
    for place in range(begin, end):
        digit = int(src[place]) - 48
        if digit < 0 or digit > 9:
            return -1
        number = number * 10 + digit
    return number


@jit_helper
def column_of(src: Bytes, begin: int, end: int) -> int:  # pragma: no cover - compiled
    """Return the column of a reference such as BC17, counted from 1; -1 if malformed."""
    column = 0
    place = begin
    while place < end and 65 <= src[place] <= 90 and column <= COLUMNS:
        column = column * 26 + int(src[place]) - 64
        place += 1
    return column if 0 < column <= COLUMNS and place < end else -1


@jit_helper
def next_tag(src: Bytes, at: int) -> int:  # pragma: no cover - compiled
    """Return the next "<" from `at` on; -1 if there is none or it opens a comment."""
    while at + 1 < len(src):
        if src[at] == 60:
            return -1 if src[at + 1] == 33 or src[at + 1] == 63 else at
        at += 1
    return -1
