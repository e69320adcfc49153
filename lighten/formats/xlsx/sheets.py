"""The sheets of a workbook, each looked through once.

Source: ECMA-376 part 1, 18.2.19 (the list of sheets), 18.3.1.13 and 18.3.1.17 (columns).
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import reduce
from operator import or_
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.containers.opc import OpcPackage, relation_of
from lighten.containers.xml_parts import parse_xml
from lighten.formats.xlsx.cells.plain_xml import as_plain
from lighten.formats.xlsx.cells.row_usage import RowUsage, scan_rows
from lighten.formats.xlsx.cells.sheet_stream import SheetStream
from lighten.formats.xlsx.cells.table import NotPlainError
from lighten.formats.xlsx.cells.tokens import COLUMNS
from lighten.model.errors import UnreadableFileError
from lighten.model.sheet_facts import SheetFacts
from lighten.model.source import Progress, no_progress, share_of
from lighten.parallel import Workers

__all__ = ["Sheet", "listed_sheets", "open_stream", "read_sheets"]

_CELL_TYPES = ("worksheet+xml", "macrosheet+xml", "intlmacrosheet+xml")
_PLAIN_HEAD = re.compile(rb"^(?:\xef\xbb\xbf)?(?:<\?xml[^>]*\?>)?\s*<worksheet[ >]")
_OTHER_ENCODING = re.compile(
    rb"^(?:\xef\xbb\xbf)?<\?xml[^>]*encoding=[\"'](?!utf-8|us-ascii)", re.I
)
_DIMENSION = re.compile(rb'<dimension ref="(?:\$?[A-Z]+\$?\d+:)?\$?([A-Z]+\$?\d+)"')
_OUT_OF_ORDER = "kept: its cells are not in order, or not as the standard has them"


@dataclass(frozen=True, slots=True)
class Sheet:
    """member, title: where it stands, and what readers call it. found: None if left alone.

    shell: all but its rows. is_plain: of the form that the compiled loops know.
    column_styles: what cells of each column, counted from 0, look like that are not there.
    """

    member: str
    title: str
    facts: SheetFacts
    found: RowUsage | None
    shell: bytes
    is_plain: bool
    column_styles: NDArray[np.int32]


def read_sheets(
    package: OpcPackage, workers: Workers, progress: Progress = no_progress
) -> tuple[Sheet, ...]:
    """Return the sheets in the order of the workbook; sheets that it does not list come last.

    Raises: UnreadableFileError, LimitExceededError.
    """
    listed = {target: (name, is_hidden) for name, is_hidden, target in listed_sheets(package)}
    members = [
        name for name in package.archive.members if package.content_type(name).endswith(_CELL_TYPES)
    ]
    order = {name: number for number, name in enumerate(listed)}
    sheets: list[Sheet] = []
    total = max(1, sum(package.archive.members[name].size_bytes for name in members))
    done = 0
    for name in sorted(members, key=lambda name: order.get(name, len(order))):
        size = package.archive.members[name].size_bytes
        own = share_of(progress, done / total, (done + size) / total)
        sheets.append(_read(package, name, listed.get(name, (name, True)), workers, own))
        done += size
    return tuple(sheets)


def open_stream(package: OpcPackage, member: str, *, is_plain: bool) -> SheetStream:
    """The sheet as a stream, in the plain form."""
    shown_as = f"{package.archive.shown_as}: {member} in it"
    chunks = package.archive.chunks(member)
    return SheetStream(chunks if is_plain else as_plain(chunks, shown_as), shown_as)


def listed_sheets(package: OpcPackage) -> Iterator[tuple[str, bool, str]]:
    """Return title, visibility and member of each sheet."""
    links = package.names_of(package.main)
    for sheet in package.root(package.main).iterfind("{*}sheets/{*}sheet"):
        relation = relation_of(sheet)
        if relation in links:
            is_hidden = sheet.get("state", "visible") != "visible"
            yield sheet.get("name", ""), is_hidden, links[relation].target


def _read(
    package: OpcPackage, member: str, listed: tuple[str, bool], workers: Workers, progress: Progress
) -> Sheet:
    title, is_hidden = listed
    found: RowUsage | None = None
    # What only looked plain is read once more, as what does not.
    for is_plain in (True, False) if _looks_plain(package, member) else (False,):
        stream = open_stream(package, member, is_plain=is_plain)
        try:
            pieces = _described(stream.rows(), package.archive.members[member].size_bytes, progress)
            found = reduce(or_, workers.in_threads(scan_rows, pieces), RowUsage())
            break
        except NotPlainError:
            continue
    rows = found or RowUsage()
    claimed = _DIMENSION.search(stream.head)
    return Sheet(
        member=member,
        title=title,
        facts=SheetFacts(
            claimed=claimed[1].replace(b"$", b"").decode() if claimed else "",
            last_row=rows.content.row,
            last_column=rows.content.column,
            any_row=rows.anything.row,
            any_column=rows.anything.column,
            cells=rows.cells,
            blanks=rows.blanks,
            is_hidden=is_hidden,
            untouchable="" if found else _OUT_OF_ORDER,
        ),
        found=found,
        shell=stream.head + stream.tail,
        is_plain=is_plain,
        column_styles=_column_styles(stream.head),
    )


def _described(pieces: Iterator[bytes], size_bytes: int, progress: Progress) -> Iterator[bytes]:
    """The pieces, and how far they are through."""
    done = 0
    for piece in pieces:
        yield piece
        done += len(piece)
        progress(min(1.0, done / max(1, size_bytes)))


def _looks_plain(package: OpcPackage, member: str) -> bool:
    head = next(package.archive.chunks(member), b"")[:4096]
    return bool(_PLAIN_HEAD.match(head)) and not _OTHER_ENCODING.match(head)


def _column_styles(head: bytes) -> NDArray[np.int32]:
    styles = np.zeros(COLUMNS, np.int32)
    begin = head.find(b"<cols")
    if begin < 0:
        return styles
    end = head.find(b"</cols>", begin)
    try:
        columns: Any = parse_xml(head[begin : end + 7] if end > 0 else b"<cols/>", "columns", "")
        for column in columns.iterchildren("*"):
            first, last = int(column.get("min", "1")), int(column.get("max", "1"))
            styles[max(0, first - 1) : last] = int(column.get("style", "0"))
    except (ValueError, UnreadableFileError):
        return styles
    return styles
