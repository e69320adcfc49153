"""A workbook through a reader that had no part in writing it: every cell, and all around them.

Source: ECMA-376 part 1, clause 18.
"""

import hashlib
import re
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cached_property, partial, reduce
from operator import add
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.containers.opc.reading import OpcReading, link_of
from lighten.containers.zip_reading import name_of, open_zip
from lighten.formats.xlsx.cells.plain_xml import as_plain
from lighten.formats.xlsx.cells.sheet_stream import SheetStream
from lighten.formats.xlsx.digests import element_digest, parse_shell
from lighten.formats.xlsx.read_cells import CellSums, Looks, sum_cells
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source
from lighten.parallel import Workers, open_workers

__all__ = ["XlsxReading", "read_xlsx"]

_CHUNK_BYTES, _HEAD_BYTES = 4_000_000, 4096
_COLUMNS = 16_384
_PLAIN = re.compile(rb"\s*(?:<\?xml[^>]*\?>)?\s*<(?:worksheet|xm:macrosheet|sst)[ >]")
_NAMES_OF_SUMS = (
    "sheets' cells",
    "blank formats",
    "fills past the data",
    "formats past the data",
    "rows",
)
_AROUND = {
    "mergeCells": "merged cells",
    "dataValidations": "validations",
    "conditionalFormatting": "conditional formats",
    "hyperlinks": "links",
    "cols": "columns",
    "sheetProtection": "protection",
    "autoFilter": "filters",
}
# A formula, the number of one that cells share, and what looks into another workbook.
_FORMULA = re.compile(rb"<f(?=[ />])([^>]*?)(?:/>|>([^<]*)</f>)")
_SHARED_NUMBER = re.compile(rb' si="(\d+)"')
_LINKED = re.compile(rb"(?:^|[^\w\]])\[[0-9]+\][^\[\]<!]*!")
# How far the sheet claims to go says nothing of what it holds.
_UNTOLD = ("dimension", "sheetData")


class XlsxReading(OpcReading):
    """Its promises are the cells of each sheet, and what rules and shows beside them."""

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        features: dict[str, list[str]] = {"sheets": [], "sheets' cells": []}
        with open_workers() as workers:
            for title, state, member in self.sheets():
                features["sheets"].append(f"{title} {state}".strip())
                if member in self.members:
                    self._look_through(title, member, features, workers)
        for kind, entries in (
            ("names", self._names(is_linked=False)),
            ("names to other workbooks", self._names(is_linked=True)),
            ("tables", self._digests("xl/tables/")),
            ("pivot tables", self._digests("xl/pivotTables/")),
            ("pivot records", self._hashes("xl/pivotCache/pivotCacheRecords")),
            ("charts", self._digests("xl/charts/")),
            ("drawings", self._digests("xl/drawings/", without=("srcRect",))),
            ("comments", self._digests("xl/comments", "xl/threadedComments/")),
            ("values from other workbooks", self._hashes("xl/externalLinks/external")),
            ("embedded files", self._hashes("xl/embeddings/", "xl/vbaProject.bin")),
        ):
            features.setdefault(kind, []).extend(entries)
        features["broken references"] = list(self.dangling())
        features["pictures in use"] = list(self.pictures_in_use())
        return {kind: tuple(entries) for kind, entries in features.items()}

    def sheets(self) -> Iterator[tuple[str, str, str]]:
        """Return title, visibility and member of each sheet."""
        links = self.relations(self.main)
        for sheet in self.tree(self.main).iterfind("{*}sheets/{*}sheet"):
            target = links.get(link_of(sheet), ("", ""))[1]
            yield sheet.get("name", ""), sheet.get("state", ""), target

    def _look_through(
        self, title: str, member: str, features: dict[str, list[str]], workers: Workers
    ) -> None:
        sums: CellSums | None = None
        # What only looked plain is read once more, as what does not.
        for is_plain in (True, False) if self._looks_plain(member) else (False,):
            try:
                sums, shell = self._sums(member, is_plain, workers)
                break
            except ValueError:
                continue
        if sums is None:
            digest = hashlib.sha256(self.content(member)).hexdigest()
            features["sheets' cells"].append(f"{title}: as stored {digest}")
            return
        if self._links:
            features.setdefault("formulas to other workbooks", []).extend(
                f"{title}: {mark}" for mark in self._linked_formulas(member, is_plain)
            )
        for kind, total, count in zip(_NAMES_OF_SUMS, sums.sums, sums.counts, strict=True):
            if count:
                features.setdefault(kind, []).append(f"{title}: {count} {int(total):x}")
        for element in parse_shell(shell, f"{self._name}: {member}"):
            name = name_of(element)
            if name in _UNTOLD or not name:
                continue
            kind = _AROUND.get(name, "settings of sheets")
            is_list = name in ("mergeCells", "dataValidations", "conditionalFormatting")
            children = list(element) if is_list else [element]
            name = f"{name} {element.get('sqref', '')}".strip()
            entries = features.setdefault(kind, [])
            if name == "cols":
                entries += [f"{title}: {entry}" for entry in self._column_entries(element)]
            else:
                entries += [f"{title}: {name} {element_digest(child)}" for child in children]

    def _sums(self, member: str, is_plain: bool, workers: Workers) -> tuple[CellSums, bytes]:
        """Return the sums of a sheet, and its XML without rows. Raises: ValueError."""
        stream = self._stream(member, is_plain)
        strings = self._strings
        # Columns are declared before the rows begin.
        unlinked = self._unlinked(member, is_plain)
        rows = map(unlinked, stream.rows())
        first = next(rows, None)
        looks = self._looks_of(stream.head)
        if first is None:
            return CellSums(), stream.head

        def pieces() -> Iterator[bytes]:
            yield first
            yield from rows

        def summed(given: Iterator[bytes], extent: tuple[int, int] | None) -> CellSums:
            work = partial(sum_cells, looks=looks, strings=strings, extent=extent)
            return reduce(add, workers.in_threads(work, given), CellSums())

        total = summed(pieces(), None)
        if total.counts[1]:
            again = self._stream(member, is_plain)
            total = summed(map(unlinked, again.rows()), (total.last_row, total.last_column))
        return total, stream.head + stream.tail

    def _stream(self, member: str, is_plain: bool) -> SheetStream:
        shown_as = f"{self._name}: {member}"
        chunks = self._chunks(member)
        return SheetStream(chunks if is_plain else as_plain(chunks, shown_as), shown_as)

    @cached_property
    def _links(self) -> bool:
        """Return whether a formula refers to other workbooks."""
        return any(name.startswith("xl/externalLinks/") for name in self.members)

    def _unlinked(self, member: str, is_plain: bool) -> Callable[[bytes], bytes]:
        """Remove formulas that refer to other workbooks, which are compared by themselves."""
        if not self._links:
            return bytes
        linked = self._linked_numbers(member, is_plain)
        return partial(_FORMULA.sub, lambda one: b"" if _is_linked(one, linked) else one[0])

    def _linked_numbers(self, member: str, is_plain: bool) -> frozenset[bytes]:
        """Return the numbers of shared formulas that refer to other workbooks."""
        return frozenset(
            number[1]
            for piece in self._stream(member, is_plain).rows()
            for one in _FORMULA.finditer(piece)
            if one[2] and _LINKED.search(one[2]) and (number := _SHARED_NUMBER.search(one[1]))
        )

    def _linked_formulas(self, member: str, is_plain: bool) -> Iterator[str]:
        linked = self._linked_numbers(member, is_plain)
        for piece in self._stream(member, is_plain).rows():
            for one in _FORMULA.finditer(piece):
                if _is_linked(one, linked):
                    yield hashlib.md5(one[0], usedforsecurity=False).hexdigest()

    def _chunks(self, member: str) -> Iterator[bytes]:
        try:
            with self._file.open(member) as file:
                while chunk := file.read(_CHUNK_BYTES):
                    yield chunk
        except (zipfile.BadZipFile, ValueError, OSError, EOFError) as error:
            raise UnreadableFileError(f"{self._name}: {member} cannot be read.") from error

    def _looks_plain(self, member: str) -> bool:
        head = next(self._chunks(member), b"")[:_HEAD_BYTES]
        return bool(_PLAIN.match(head.removeprefix(b"\xef\xbb\xbf"))) and b"<!" not in head

    # What cells look like, and the text that they share.

    @cached_property
    def _strings(self) -> NDArray[np.uint64]:
        """A mark for each string."""
        member = next(
            (target for kind, target in self.relations(self.main).values() if "sharedS" in kind),
            "",
        )
        if member not in self.members:
            return np.zeros(0, np.uint64)
        chunks = self._chunks(member)
        if not self._looks_plain(member):
            chunks = as_plain(chunks, f"{self._name}: {member}")
        marks = bytearray()
        left = b""
        for chunk in chunks:
            *entries, left = re.sub(rb"<si\s*/>", b"<si></si>", left + chunk).split(b"</si>")
            for entry in entries:
                text = entry.partition(b"<si>")[2]
                marks += hashlib.md5(text, usedforsecurity=False).digest()[:8]
        return np.frombuffer(bytes(marks), np.uint64)

    @cached_property
    def _cell_looks(self) -> tuple[NDArray[np.uint64], NDArray[np.uint8]]:
        """Return a hash of each style, and whether a blank cell shows it."""
        member = next(
            (target for kind, target in self.relations(self.main).values() if kind == "styles"),
            "",
        )
        if member not in self.members:
            return np.zeros(1, np.uint64), np.zeros(1, np.uint8)
        root = self.tree(member)
        lists = {
            name: [element_digest(one) for one in root.iterfind(f"{{*}}{name}/*")]
            for name in ("fonts", "fills", "borders")
        }
        seen = {
            "fills": [
                _attribute_below(one, "patternType", "x") != "none"
                for one in root.iterfind("{*}fills/*")
            ],
            "borders": [
                any(side.get("style", "none") != "none" for side in one)
                for one in root.iterfind("{*}borders/*")
            ],
        }
        codes = {
            one.get("numFmtId"): one.get("formatCode") for one in root.iterfind("{*}numFmts/*")
        }
        names = {one.get("xfId", "0"): one.get("name") for one in root.iterfind("{*}cellStyles/*")}
        marks: list[int] = []
        shown: list[bool] = []
        for own in root.iterfind("{*}cellXfs/*"):
            numbers = {name: int(own.get(f"{name[:-1]}Id", "0")) for name in lists}
            items = [_item(lists[name], number, "?") for name, number in numbers.items()]
            rest = {
                key: value
                for key, value in own.attrib.items()
                if key not in ("fontId", "fillId", "borderId", "numFmtId", "xfId")
            }
            code = own.get("numFmtId", "0")
            within = [element_digest(child) for child in own]
            look = f"{items} {sorted(rest.items())} {codes.get(code, code)} {within} "
            look += str(names.get(own.get("xfId", "0")))
            marks.append(int.from_bytes(hashlib.md5(look.encode()).digest()[:8], "little"))
            shown.append(any(_item(seen[name], numbers[name], True) for name in seen))
        return np.array(marks or [0], np.uint64), np.array(shown or [False], np.uint8)

    def _looks_of(self, head: bytes) -> Looks:
        marks, seen = self._cell_looks
        columns = np.full(_COLUMNS, marks[0], np.uint64)
        for tag in re.findall(rb"<col [^>]*>", head):
            attributes = dict(re.findall(rb'(\w+)="([^"]*)"', tag))
            style = int(attributes.get(b"style", b"0"))
            if style >= len(marks):
                raise ValueError("a column with a style that is not there")
            columns[int(attributes[b"min"]) - 1 : int(attributes[b"max"])] = marks[style]
        return Looks(cells=marks, columns=columns, seen=seen)

    def _column_entries(self, columns: Any) -> Iterator[str]:
        marks, _ = self._cell_looks
        for column in columns:
            rest = sorted((key, value) for key, value in column.attrib.items() if key != "style")
            style = int(column.get("style", "0"))
            yield f"{rest} {int(marks[style]) if style < len(marks) else style:x}"

    # What stands beside the sheets.

    def _names(self, *, is_linked: bool) -> Iterator[str]:
        """Yield each defined name by its sheet and name, with its formula.

        is_linked: those that look into other workbooks, or the others.
        """
        for name in self.tree(self.main).iter("{*}definedName"):
            if bool(_LINKED.search((name.text or "").encode())) is not is_linked:
                continue
            attributes = dict(name.attrib)
            own = f"name:{attributes.get('localSheetId', '')}:{attributes.get('name', '')}".replace(
                " ", "_"
            )
            yield f"{own} {sorted(attributes.items())} {name.text}"

    def _digests(self, *starts: str, without: tuple[str, ...] = ()) -> Iterator[str]:
        for member in sorted(self.members):
            if member.startswith(starts) and member.endswith(".xml"):
                yield f"{member} {element_digest(self.tree(member), without)}"

    def _hashes(self, *starts: str) -> Iterator[str]:
        for member in sorted(self.members):
            if member.startswith(starts) and "_rels/" not in member:
                yield f"{member} {hashlib.sha256(self.content(member)).hexdigest()}"


@contextmanager
def read_xlsx(source: Source) -> Iterator[XlsxReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield XlsxReading(file, source.name)


def _is_linked(formula: re.Match[bytes], linked: frozenset[bytes]) -> bool:
    number = _SHARED_NUMBER.search(formula[1])
    is_shared = number is not None and number[1] in linked
    return is_shared or bool(formula[2] and _LINKED.search(formula[2]))


def _attribute_below(element: Any, name: str, default: str) -> str:
    return next((one.get(name, "none") for one in element), default)


def _item(values: list[Any], number: int, default: Any) -> Any:
    return values[number] if number < len(values) else default
