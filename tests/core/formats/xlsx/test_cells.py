"""Rows taken apart, trimmed, written and summed up, over whatever hypothesis thinks of.

Sources: ECMA-376 part 1, 18.3.1.4 and 18.3.1.73; IEEE 754-2019, 5.12.2 (a double is told by 17
digits, and by the shortest that reads back to it), held by Python's own `float` and `repr`.
"""

import struct
import unittest

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from lighten.formats.xlsx.cells.plain_xml import as_plain
from lighten.formats.xlsx.cells.sheet_stream import SheetStream
from lighten.formats.xlsx.cells.table import Cell, NotPlainError, Row, read_rows
from lighten.formats.xlsx.cells.trim import Extent, Trimming
from lighten.formats.xlsx.cells.write import NewNumbers, shortest, write_rows
from lighten.formats.xlsx.read_cells import CellSums, Looks, sum_cells
from lighten.model.sheet_facts import column_letters

_STYLES, _STRINGS = 4, 6
_SHOWS = np.array([False, False, True, False])
_NUMBERS = st.one_of(
    st.floats(allow_nan=False, allow_infinity=False).map(lambda value: f"{value:.17g}"),
    st.integers(-(10**18), 10**18).map(str),
    st.sampled_from(["0.10000000000000001", "1.50", "1E-05", "-0", "0.00025", "12345678901234567"]),
)
_CELLS = st.one_of(
    st.just(""),
    _NUMBERS.map(lambda text: f"<v>{text}</v>"),
    st.integers(0, _STRINGS - 1).map(lambda number: f"SHARED<v>{number}</v>"),
    _NUMBERS.map(lambda text: f"<f>A1*{text.lstrip('-')}</f><v>{text}</v>"),
    st.sampled_from(["INLINE<is><t>net &lt; 3</t></is>", "ERROR<v>#DIV/0!</v>"]),
)
_TYPES = {"SHARED": ' t="s"', "INLINE": ' t="inlineStr"', "ERROR": ' t="e"'}


def _cell(place: str, style: int, content: str) -> str:
    kind = next((name for name in _TYPES if content.startswith(name)), "")
    inner = content.removeprefix(kind)
    told = f'<c r="{place}"' + (f' s="{style}"' if style else "") + _TYPES.get(kind, "")
    return f"{told}>{inner}</c>" if inner else f"{told}/>"


@st.composite
def rows(draw: st.DrawFn) -> bytes:
    """Some rows with some cells, in order, with gaps."""
    out = []
    for number in sorted(draw(st.sets(st.integers(1, 40), max_size=6))):
        columns = sorted(draw(st.sets(st.integers(1, 30), max_size=6)))
        own = draw(
            st.sampled_from(
                [
                    "",
                    ' s="1" customFormat="1"',
                    ' ht="30" customHeight="1"',
                    ' s="2"',
                    ' spans="1:9"',
                ]
            )
        )
        cells = "".join(
            _cell(f"{column_letters(column)}{number}", draw(st.integers(0, 3)), draw(_CELLS))
            for column in columns
        )
        out.append(f'<row r="{number}"{own}>{cells}</row>')
    return "".join(out).encode()


def _looks(columns: list[int]) -> Looks:
    marks = np.arange(_STYLES, dtype=np.uint64) * 977 + 5
    return Looks(cells=marks, columns=marks[np.array(columns)], seen=_SHOWS.astype(np.uint8))


def _summed(piece: bytes, looks: Looks, extent: tuple[int, int] | None = None) -> CellSums:
    return sum_cells(piece, looks, np.arange(_STRINGS, dtype=np.uint64) * 31, extent)


class Cells(unittest.TestCase):
    @given(
        rows(), st.lists(st.integers(0, 3), min_size=30, max_size=30), st.booleans(), st.booleans()
    )
    def test_written_again_hold_the_same(
        self, piece: bytes, styles: list[int], past: bool, is_compact: bool
    ) -> None:
        columns = np.zeros(16_384, np.int32)
        columns[:30] = styles
        looks = _looks([*styles, *[0] * (16_384 - 30)])
        found = _summed(piece, looks)
        extent = (found.last_row, found.last_column)
        before = _summed(piece, looks, extent)
        numbers = NewNumbers(
            np.arange(_STYLES, dtype=np.int32), np.arange(_STRINGS, dtype=np.int32), is_compact
        )
        trimming = Trimming(columns, _SHOWS, Extent(*extent), past)
        written = write_rows(read_rows(piece), numbers, trimming)
        after = _summed(written, looks, extent)
        kept = [True, True, True, not past, not past]
        np.testing.assert_array_equal(before.sums[kept], after.sums[kept])
        np.testing.assert_array_equal(before.counts[kept], after.counts[kept])
        self.assertLessEqual(after.counts[3], before.counts[3])

    @given(rows())
    def test_written_twice_are_the_same_bytes(self, piece: bytes) -> None:
        numbers = NewNumbers(np.arange(4, dtype=np.int32), np.arange(6, dtype=np.int32))
        trimming = Trimming(np.zeros(16_384, np.int32), _SHOWS, Extent(40, 30))
        once = write_rows(read_rows(piece), numbers, trimming)
        self.assertEqual(write_rows(read_rows(once), numbers, trimming), once)
        self.assertLessEqual(len(once), len(piece))

    @given(rows(), st.integers(1, 400))
    def test_cells_come_through_a_stream_and_the_plain_form_unchanged(
        self, piece: bytes, cut: int
    ) -> None:
        whole = b"<worksheet><sheetData>" + piece + b"</sheetData><pageMargins/></worksheet>"
        chunks = [whole[at : at + cut] for at in range(0, len(whole), cut)]
        stream = SheetStream(chunks, "a sheet")
        self.assertEqual(b"".join(stream.rows()), piece)
        self.assertEqual(stream.tail, b"</sheetData><pageMargins/></worksheet>")
        plain = SheetStream(as_plain(chunks, "a sheet"), "a sheet")
        looks = _looks([0] * 16_384)
        sums = _summed(b"".join(plain.rows()), looks).sums
        np.testing.assert_array_equal(sums, _summed(piece, looks).sums)

    def test_places_and_kinds_are_the_standards(self) -> None:
        table = read_rows(
            b'<row r="3" s="2" customFormat="1"><c r="A3"/><c r="XFD3" t="s"><v>4</v></c></row>'
        )
        self.assertEqual(table.rows[0, [Row.NUMBER, Row.STYLE, Row.COUNT]].tolist(), [3, 2, 2])
        self.assertEqual(table.cells[:, Cell.COLUMN].tolist(), [1, 16_384])
        self.assertEqual(table.is_blank.tolist(), [True, False])
        self.assertEqual(table.values_of(table.shared_strings).tolist(), [4])

    def test_cells_outside_the_plain_form_are_reported(self) -> None:
        for odd in (
            b"<row r='1'/>",
            b'<row r="1"><c r="A1"><!-- x --><v>1</v></c></row>',
            b'<row r="1"><c r="A1"><v>1</v></row>',
            b'<row r="2"/><row r="1"/>',
            b'<row r="1"><c r="B1"/><c r="A1"/></row>',
            b'<row r="1048577"/>',
            b'<row r="1"><c r="XFE1"/></row>',
            b'<row r="1" s="-1"',
            b'<x:row r="1"/>',
            b'<row r="1"><c r="A1" t="s"><v xml:space="preserve">1</v></c></row>',
        ):
            with self.subTest(odd), self.assertRaises(NotPlainError):
                read_rows(odd)


class Numbers(unittest.TestCase):
    @given(
        st.floats(allow_nan=False, allow_infinity=False), st.sampled_from([".17g", ".15g", ".20f"])
    )
    def test_shortened_read_back_to_the_same_double(self, value: float, form: str) -> None:
        text = format(value, form).encode()
        assume(len(text) < 60)
        short = shortest(text)
        self.assertLessEqual(len(short), len(text))
        self.assertEqual(struct.pack("<d", float(short)), struct.pack("<d", float(text)))

    def test_numbers_are_spelt_as_readers_expect(self) -> None:
        cases = {
            b"0.10000000000000001": b"0.1",
            b"5.0000000000000001E-4": b"5E-4",
            b"40000": b"40000",
            b"1.0": b"1",
            b"1E+300": b"1E300",
            b"1e999": b"1e999",
        }
        self.assertEqual({text: shortest(text) for text in cases}, cases)

    def test_values_that_are_not_numbers_stay(self) -> None:
        table = read_rows(b'<row r="1"><c r="A1"><v>1_000_000_000_000_000_000</v></c></row>')
        numbers = NewNumbers(np.zeros(1, np.int32), np.zeros(0, np.int32))
        trimming = Trimming(np.zeros(16_384, np.int32), _SHOWS, Extent(1, 1))
        self.assertIn(b"<v>1_000_000_000_000_000_000</v>", write_rows(table, numbers, trimming))
