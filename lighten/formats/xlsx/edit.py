"""A workbook opened to be changed, and written anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property, partial, reduce
from operator import or_

import numpy as np
from numpy.typing import NDArray

from lighten.containers.changes import MemberStream, Rewrite, chain_rewrites
from lighten.containers.opc.editing import OpcEditing
from lighten.formats.xlsx.cells.table import Cell, Row, read_rows
from lighten.formats.xlsx.cells.trim import NOWHERE, Extent, Trimming, kept_lines
from lighten.formats.xlsx.cells.write import NewNumbers, write_rows
from lighten.formats.xlsx.kinds import KINDS
from lighten.formats.xlsx.links import shared_links, unlink_cells, unlink_workbook
from lighten.formats.xlsx.names import drop_names
from lighten.formats.xlsx.open_file import Workbook, open_workbook, plain_strings
from lighten.formats.xlsx.pivots import refresh_on_opening
from lighten.formats.xlsx.sheets import Sheet, open_stream
from lighten.formats.xlsx.shell import rewrite_shell, without_printer_settings
from lighten.formats.xlsx.strings import new_numbers, write_strings
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Plan
from lighten.model.source import Source
from lighten.model.weights import WeightSheet
from lighten.parallel import open_workers

__all__ = ["SheetWriter", "XlsxEditing", "edit_xlsx"]

_OF_CELLS = frozenset(
    {
        ExtraKind.CELL_SPELLING,
        ExtraKind.CELL_PLACES,
        ExtraKind.PAST_FORMATS,
        ExtraKind.PAST_FILLS,
        ExtraKind.OTHER_WORKBOOKS,
        ExtraKind.IDLE_RULES,
    }
)


@contextmanager
def edit_xlsx(source: Source, sheet: WeightSheet) -> Iterator["XlsxEditing"]:
    """The workbook opened; nothing is written before `save`. Raises: as `open_workbook`."""
    yield XlsxEditing(open_workbook(source), sheet)


@dataclass(frozen=True, slots=True)
class SheetWriter:
    """Writer of the pieces of a sheet, for use in workers.

    links: shared formulas that look into other workbooks, where all such go; else None.
    """

    numbers: NewNumbers
    trimming: Trimming
    links: frozenset[bytes] | None = None

    def __call__(self, piece: tuple[bytes, bytes, bytes]) -> bytes:
        """piece: rows, and what stands before and after them."""
        before, rows, after = piece
        if self.links is not None:
            rows = unlink_cells(rows, self.links)
        return before + write_rows(read_rows(rows), self.numbers, self.trimming) + after


class XlsxEditing(OpcEditing):
    """See `lighten.contract.Editing`."""

    def __init__(self, document: Workbook, sheet: WeightSheet) -> None:
        super().__init__(document, sheet, KINDS)
        self._document, self.package = document, document.package

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        stories: dict[str, Rewrite] = {}
        if self._styles is not None and self._document.styles_member:
            new = self._styles[0]
            stories[self._document.styles_member] = partial(_replace, new=new)
        decisions = plan.by_part()
        gone = frozenset(
            part.id
            for part in self.sheet.parts
            if part.name_facts and decisions[part.id].action is Action.DROP
        )
        main = self.package.main
        if gone:
            stories[main] = partial(drop_names, gone=gone)
        if self._ends_links:
            stories[main] = chain_rewrites(unlink_workbook, stories.get(main))
            # It would lead to cells that no longer calculate.
            self.changes.removed |= self.members_of(ExtraKind.CALCULATION_ORDER)
        if ExtraKind.PIVOT_RECORDS in self.changes.dropped:
            for name in self.archive.members:
                if self.package.content_type(name).endswith("pivotCacheDefinition+xml"):
                    stories[name] = refresh_on_opening
        for member in self.package.relationships.keys() & self.archive.members.keys():
            if gone_ids := self.gone_links(member, "printerSettings"):
                rewrite = partial(without_printer_settings, gone=gone_ids)
                stories[member] = chain_rewrites(rewrite, stories.get(member))
        return stories

    def streams(self, plan: Plan) -> Mapping[str, MemberStream]:
        document, streams = self._document, {}
        if not document.is_sound or not (_OF_CELLS & self.changes.dropped or self._styles):
            return {}
        for sheet in document.sheets:
            streams[sheet.member] = MemberStream(
                pieces=partial(self._pieces, sheet),
                work=self._writer(sheet),
                bytes_about=self.archive.members[sheet.member].size_bytes,
            )
        if document.strings_member and ExtraKind.CELL_SPELLING in self.changes.dropped:
            streams[document.strings_member] = MemberStream(
                pieces=self._strings,
                work=bytes,
                bytes_about=self.archive.members[document.strings_member].size_bytes,
            )
        return streams

    def _pieces(self, sheet: Sheet) -> Iterator[tuple[bytes, bytes, bytes]]:
        writer = self._writer(sheet)
        assert sheet.found is not None
        head, tail = rewrite_shell(
            sheet.shell,
            styles=writer.numbers.styles,
            extent=self._extent_left(sheet, writer.trimming) if sheet.facts.blanks else None,
            gone=self.gone_links(sheet.member),
            drops_idle_rules=ExtraKind.IDLE_RULES in self.changes.dropped,
        )
        stream = open_stream(self.package, sheet.member, is_plain=sheet.is_plain)
        waiting = b""
        for rows in stream.rows():
            if waiting:
                yield head, waiting, b""
                head = b""
            waiting = rows
        yield head, waiting, tail

    def _extent_left(self, sheet: Sheet, trimming: Trimming) -> Extent:
        """Return the extent of the sheet once invisible cells are removed."""
        stream = open_stream(self.package, sheet.member, is_plain=sheet.is_plain)
        with open_workers() as workers:
            kept = workers.in_threads(partial(_extent_kept, trimming=trimming), stream.rows())
            return reduce(or_, kept, NOWHERE)

    def _writer(self, sheet: Sheet) -> SheetWriter:
        document, dropped = self._document, self.changes.dropped
        styles = document.styles
        shows = styles.shows if styles else np.zeros(1, np.bool_)
        assert sheet.found is not None
        return SheetWriter(
            NewNumbers(
                styles=self._styles[1] if self._styles else np.arange(len(shows), dtype=np.int32),
                strings=self._string_numbers,
                is_compact=ExtraKind.CELL_PLACES in dropped,
            ),
            Trimming(
                column_styles=sheet.column_styles,
                shows=shows,
                content=sheet.found.content,
                past=ExtraKind.PAST_FORMATS in dropped,
                fills=ExtraKind.PAST_FILLS in dropped,
            ),
            self._shared_links(sheet) if self._ends_links else None,
        )

    @property
    def _ends_links(self) -> bool:
        is_asked = ExtraKind.OTHER_WORKBOOKS in self.changes.dropped
        return is_asked and bool(self.members_of(ExtraKind.OTHER_WORKBOOKS))

    def _shared_links(self, sheet: Sheet) -> frozenset[bytes]:
        stream = open_stream(self.package, sheet.member, is_plain=sheet.is_plain)
        return shared_links(stream.rows())

    @cached_property
    def _styles(self) -> tuple[bytes, NDArray[np.int32]] | None:
        """Return the new styles and their numbers; None if they stay."""
        document = self._document
        is_asked = ExtraKind.UNUSED_CELL_STYLES in self.changes.dropped
        if not is_asked or document.styles is None or not document.is_sound:
            return None
        return document.styles.rewritten(document.used_styles, document.names_kept)

    @cached_property
    def _string_numbers(self) -> NDArray[np.int32]:
        strings = self._document.strings
        if strings is None:
            return np.zeros(0, np.int32)
        if ExtraKind.CELL_SPELLING not in self.changes.dropped:
            return np.arange(len(strings), dtype=np.int32)
        return new_numbers(strings, self._document.used_strings)

    def _strings(self) -> Iterator[bytes]:
        document = self._document
        chunks = plain_strings(self.package, document.strings_member)
        return write_strings(chunks, self._string_numbers, self.archive.shown_as)


def _extent_kept(piece: bytes, *, trimming: Trimming) -> Extent:
    table = read_rows(piece)
    keeps_row, keeps_cell = kept_lines(table, trimming)
    return Extent(
        int(table.rows[keeps_row, Row.NUMBER].max(initial=0)),
        int(table.cells[keeps_cell, Cell.COLUMN].max(initial=0)),
    )


def _replace(_: bytes, *, new: bytes) -> bytes:
    return new
