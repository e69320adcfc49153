"""Rows of a workbook as python-calamine reads them, of before 2007 or after."""

import re
import zipfile
from collections.abc import Iterator, Mapping
from hashlib import blake2b
from pathlib import Path
from typing import IO, Any

import python_calamine
from lxml import etree

from lighten.formats.xlsx.read import read_xlsx
from lighten.model.errors import UnreadableFileError
from lighten.model.sheet_facts import column_number
from lighten.model.source import Source

__all__ = ["rows_by_sheet"]

# What is worked out anew on every opening, as may be whatever depends on it (ECMA-376 part 1,
# 18.17.7).
_VOLATILE = re.compile(
    rb"[^A-Z0-9.](?:TODAY|NOW|RAND|RANDBETWEEN|OFFSET|INDIRECT|CELL|INFO)\([^<]*</f>"
)
_PLACE = re.compile(r"([A-Z]+)(\d+)")
_CHUNK_BYTES, _OVERLAP_BYTES = 4_000_000, 20_000

_Places = frozenset[tuple[int, int]]


def rows_by_sheet(path: Path, opened: Path) -> Mapping[str, tuple[str, ...]]:
    """Return a hash for each row with values, by sheet. opened: the converted file, for formulas.

    Where a workbook asks for the day or for chance, formulas are left out: their values are of
    another hour. Raises: UnreadableFileError.
    """
    passing = _formulas(opened)
    try:
        book = python_calamine.CalamineWorkbook.from_path(str(path))
        return {
            f"rows of {name} as a second program reads them": tuple(
                _marks(book.get_sheet_by_name(name), passing.get(name, frozenset()))
            )
            for name in book.sheet_names
        }
    except (python_calamine.CalamineError, OSError, ValueError) as error:
        raise UnreadableFileError(f"{path.name}: a second program cannot read it.") from error


def _marks(sheet: Any, passing: _Places) -> Iterator[str]:
    for row, values in enumerate(sheet.to_python(skip_empty_area=False), start=1):
        entries = [
            (column, _plain(value))
            for column, value in enumerate(values, start=1)
            if value not in ("", None) and (row, column) not in passing
        ]
        if entries:
            yield f"{row} {blake2b(repr(entries).encode(), digest_size=8).hexdigest()}"


def _plain(value: object) -> object:
    """Return the number as a new file has it: legacy files keep whole numbers in a type of their
    own.
    """
    return float(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _formulas(opened: Path) -> Mapping[str, _Places]:
    """Return row and column of every formula by sheet, in workbooks with volatile functions."""
    with read_xlsx(Source(path=opened)) as reading, zipfile.ZipFile(opened) as members:
        sheets = [(title, member) for title, _, member in reading.sheets()]
        listed = [(title, member) for title, member in sheets if member in reading.members]
        if not any(_passes(members, member) for _, member in listed):
            return {}
        return {title: frozenset(_places(members, member)) for title, member in listed}


def _passes(members: zipfile.ZipFile, member: str) -> bool:
    with members.open(member) as file:
        return any(_VOLATILE.search(chunk) for chunk in _chunks(file))


def _chunks(file: IO[bytes]) -> Iterator[bytes]:
    before = b""
    while chunk := file.read(_CHUNK_BYTES):
        yield before + chunk
        before = chunk[-_OVERLAP_BYTES:]


def _places(members: zipfile.ZipFile, member: str) -> Iterator[tuple[int, int]]:
    row = column = 0
    has_formula = False
    with members.open(member) as file:
        events = ("start", "end")
        for event, node in etree.iterparse(
            file, events=events, tag=("{*}row", "{*}c", "{*}f"), resolve_entities=False
        ):
            match node.tag.rpartition("}")[2], event:
                case "row", "start":
                    row, column = int(node.get("r") or row + 1), 0
                case "c", "start":
                    column, has_formula = _column(node.get("r"), column), False
                case "f", "end":
                    has_formula = True
                case "c", "end":
                    if has_formula:
                        yield row, column
                case "row", "end":
                    node.clear()


def _column(place: str | None, before: int) -> int:
    match = _PLACE.fullmatch(place or "")
    return column_number(match[1]) if match else before + 1
