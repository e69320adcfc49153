"""Rows written again, in fewer bytes and with the same meaning.

Attributes that say what is so anyway go; what differs from cell to cell comes last, so that more
before it is alike. Source: ECMA-376 part 1, 18.3.1.4 and 18.3.1.73.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper
from lighten.formats.xlsx.cells.table import CellTable, is_hint
from lighten.formats.xlsx.cells.tokens import attribute_at, number_of
from lighten.formats.xlsx.cells.trim import Trimming, kept_lines

__all__ = ["NewNumbers", "shortest", "write_rows"]

Bytes = NDArray[np.uint8]
Table = NDArray[np.int32]
# A byte that XML cannot hold, before numbers whose shortest spelling is still to be found.
_MARK = b"\x01"
_MOST_GROWTH = 12


@dataclass(frozen=True, slots=True)
class NewNumbers:
    """The new number of each style and each shared string, by the old one.

    is_compact: places of cells are left out where they follow from the cell before.
    """

    styles: Table
    strings: Table
    is_compact: bool = False


def write_rows(table: CellTable, numbers: NewNumbers, trimming: Trimming) -> bytes:
    """Write the rows, without those that `trimming` drops.

    Raises: IndexError for styles or strings that are not there.
    """
    keeps = kept_lines(table, trimming)
    room = np.empty(len(table.src) + _MOST_GROWTH * len(table.cells) + 64, np.uint8)
    state = np.zeros(2, np.int64)
    kept = keeps[0].astype(np.uint8), keeps[1].astype(np.uint8)
    maps = numbers.styles, numbers.strings
    _write(table.src, (table.rows, table.cells), kept, maps, int(numbers.is_compact), room, state)
    if state[1]:
        raise IndexError("a style or string that is not there")
    return _shortened(room[: state[0]].tobytes())


def _shortened(marked: bytes) -> bytes:
    """Write all numbers behind a mark in their shortest form, and remove the marks."""
    first, *pieces = marked.split(_MARK)
    out = [first]
    for piece in pieces:
        end = piece.index(b"<")
        out.append(shortest(piece[:end]))
        out.append(piece[end:])
    return b"".join(out)


def shortest(text: bytes) -> bytes:
    """The shortest spelling that reads back to the same double; the text where it is no number.

    text: of digits, signs, points and E. Source: IEEE 754-2019, 5.12.2; Python's `repr` of a float
    is the shortest in digits.
    """
    try:
        digits = repr(float(text)).encode()
    except ValueError:
        return text
    if b"e" in digits or digits.startswith((b"0.0", b"-0.0")):
        digits = _with_power(digits)
    elif digits.endswith(b".0"):
        digits = digits[:-2]
    # Numbers beyond the largest double are written as text.
    return digits if len(digits) < len(text) and not digits.endswith(b"f") else text


def _with_power(number: bytes) -> bytes:
    """Return a number in the shorter of plain and exponent form."""
    digits, _, power = number.partition(b"e")
    if power:
        return digits.removesuffix(b".0") + b"E" + str(int(power)).encode()
    sign, digits = (b"-", number[1:]) if number.startswith(b"-") else (b"", number)
    left = digits.removeprefix(b"0.").lstrip(b"0")
    spelt = sign + left + b"E-" + str(len(digits) - 2).encode()
    return min(number.removesuffix(b".0"), spelt, key=len) if left else number.removesuffix(b".0")


@compiled
def _write(
    src: Bytes,
    tables: tuple[Table, Table],
    keeps: tuple[Bytes, Bytes],
    maps: tuple[Table, Table],
    is_compact: int,
    out: Bytes,
    state: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    """Write rows. state: number of bytes, and 1 where an index is out of range."""
    rows, cells = tables
    to = 0
    for line in range(len(rows)):
        if keeps[0][line] == 0:
            continue
        row = rows[line]
        # "<row"
        out[to], out[to + 1], out[to + 2], out[to + 3] = 60, 114, 111, 119
        to = _write_row_attributes(src, row, maps[0], out, to + 4, state)
        begin = to
        out[to] = 62
        to += 1
        before = 0
        for place in range(row[4], row[4] + row[5]):
            if keeps[1][place]:
                cell = cells[place]
                writes_position = is_compact == 0 or cell[1] != before + 1
                to = _write_cell(src, cell, maps, writes_position, out, to, state)
                before = cell[1]
        if to == begin + 1:
            out[begin], out[begin + 1] = 47, 62
            to = begin + 2
        else:
            # "</row>"
            out[to], out[to + 1], out[to + 2] = 60, 47, 114
            out[to + 3], out[to + 4], out[to + 5] = 111, 119, 62
            to += 6
    state[0] = to


@jit_helper
def _copy(src: Bytes, begin: int, end: int, out: Bytes, to: int) -> int:  # pragma: no cover
    for place in range(begin, end):
        out[to + place - begin] = src[place]
    return to + end - begin


@jit_helper
def _put_number(number: int, out: Bytes, to: int) -> int:  # pragma: no cover - compiled
    digits = 1
    power = 10
    while power <= number:
        power *= 10
        digits += 1
    for place in range(digits):
        out[to + digits - 1 - place] = 48 + number % 10
        number //= 10
    return to + digits


@jit_helper
def _put_attribute(name: int, number: int, out: Bytes, to: int) -> int:  # pragma: no cover
    """A blank, and an attribute with a name of one letter."""
    out[to], out[to + 1], out[to + 2], out[to + 3] = 32, name, 61, 34
    to = _put_number(number, out, to + 4)
    out[to] = 34
    return to + 1


@jit_helper
def _write_row_attributes(
    src: Bytes, row: Table, styles: Table, out: Bytes, to: int, state: NDArray[np.int64]
) -> int:  # pragma: no cover - compiled
    begin, end, value, after = attribute_at(src, row[2])
    while begin >= 0 and begin != end:
        name = src[begin] if end - begin == 1 else 0
        if name == 115:
            style = number_of(src, value, after)
            if style < 0 or style >= len(styles):
                state[1] = 1
                return to
            to = _put_attribute(115, styles[style], out, to)
        elif name != 114 and not is_hint(src, begin, end):
            out[to] = 32
            to = _copy(src, begin, after + 1, out, to + 1)
        begin, end, value, after = attribute_at(src, after + 1)
    return int(_put_attribute(114, row[0], out, to))


@jit_helper
def _write_cell(
    src: Bytes,
    cell: Table,
    maps: tuple[Table, Table],
    writes_position: bool,
    out: Bytes,
    to: int,
    state: NDArray[np.int64],
) -> int:  # pragma: no cover - compiled
    # "<c"
    out[to], out[to + 1] = 60, 99
    to += 2
    if cell[2] >= len(maps[0]):
        state[1] = 1
        return to
    if maps[0][cell[2]] != 0:
        to = _put_attribute(115, maps[0][cell[2]], out, to)
    place, place_end = -1, -1
    begin, end, _, after = attribute_at(src, cell[4])
    while begin >= 0 and begin != end:
        name = src[begin] if end - begin == 1 else 0
        if name == 114:
            place, place_end = begin, after + 1
        elif name != 115 and not (name == 116 and cell[3] == 0):
            out[to] = 32
            to = _copy(src, begin, after + 1, out, to + 1)
        begin, end, _, after = attribute_at(src, after + 1)
    if writes_position and place >= 0:
        out[to] = 32
        to = _copy(src, place, place_end, out, to + 1)
    if cell[6] == cell[7]:
        # "/>"
        out[to], out[to + 1] = 47, 62
        return to + 2
    out[to] = 62
    to += 1
    if cell[8] < 0:
        to = _copy(src, cell[6], cell[7], out, to)
    else:
        to = _copy(src, cell[6], cell[8], out, to)
        if cell[3] == 1:
            index = number_of(src, cell[8], cell[9])
            if index < 0 or index >= len(maps[1]) or maps[1][index] < 0:
                state[1] = 1
                return to
            to = _put_number(maps[1][index], out, to)
        else:
            if cell[3] == 0 and _may_be_shorter(src, cell[8], cell[9]):
                out[to] = 1
                to += 1
            to = _copy(src, cell[8], cell[9], out, to)
        to = _copy(src, cell[9], cell[7], out, to)
    # "</c>"
    out[to], out[to + 1], out[to + 2], out[to + 3] = 60, 47, 99, 62
    return to + 4


@jit_helper
def _may_be_shorter(src: Bytes, begin: int, end: int) -> bool:  # pragma: no cover - compiled
    """Return whether it has more digits than a double needs, an exponent, or zeros next to its
    point.
    """
    has_point, has_power = False, False
    for place in range(begin, end):
        letter = src[place]
        if letter == 46:
            has_point = True
        elif letter == 69 or letter == 101:
            has_power = True
        elif letter != 45 and letter != 43 and (letter < 48 or letter > 57):
            return False
    if has_power or end - begin > 16:
        return True
    return has_point and (bool(src[end - 1] == 48) or bool(src[begin + 2] == 48))
