"""The weight sheet of a workbook."""

import posixpath
from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import partial
from itertools import islice

import numpy as np

from lighten.containers.opc.document import kind_of_member, other_parts
from lighten.containers.weigh_package import Within, weigh_package
from lighten.containers.xml_weights import weight_within
from lighten.formats.xlsx.cells.table import read_rows
from lighten.formats.xlsx.cells.trim import Trimming
from lighten.formats.xlsx.cells.write import NewNumbers, write_rows
from lighten.formats.xlsx.kinds import XLSX_EXTRAS
from lighten.formats.xlsx.names import drop_names
from lighten.formats.xlsx.open_file import Workbook, open_workbook
from lighten.formats.xlsx.sheets import Sheet, open_stream
from lighten.formats.xlsx.shell import without_idle_rules
from lighten.formats.xlsx.strings import new_numbers
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.sheet_facts import SheetFacts
from lighten.model.source import Progress, Source, share_of
from lighten.model.weights import Part, WeightSheet

__all__ = ["weigh_xlsx"]

# Nothing says how large a picture is shown: a window's worth of cells.
_WINDOW_PT = (960.0, 540.0)
# Of the time that weighing takes.
_OPENED = 0.5
_MOST_SAMPLES = 4
# Near enough to compare, at six times the speed of the tightest.
_SAMPLE_LEVEL = 6
_TITLES = (
    ("main+xml", PartKind.STYLES, "List of sheets and names"),
    ("sharedStrings+xml", PartKind.CELLS, "Text that cells share"),
    ("styles+xml", PartKind.STYLES, "Styles"),
    ("theme", PartKind.STYLES, "Theme"),
    ("externalLink+xml", PartKind.CELLS, "Values from another workbook"),
    ("pivotCacheDefinition+xml", PartKind.CELLS, "Fields of pivot tables"),
    ("pivotTable+xml", PartKind.CELLS, "Pivot table"),
    ("spreadsheetml.table+xml", PartKind.CELLS, "Table"),
    ("comment", PartKind.TEXT, "Comments"),
    ("chart", PartKind.TEXT, "Chart"),
    ("drawing", PartKind.TEXT, "Drawing"),
    ("vbaProject", PartKind.EMBEDDED, "Macros"),
)


def weigh_xlsx(source: Source, progress: Progress) -> WeightSheet:
    """Every member a part, extras within members apart, adding up to the file.

    Raises: UnreadableFileError, PasswordNeededError, LimitExceededError, UnsupportedFileError.
    """
    document = open_workbook(source, share_of(progress, 0, _OPENED, "looking through sheets"))
    return weigh_package(
        document,
        format_name="xlsx",
        extras=XLSX_EXTRAS,
        unsized_pt=_WINDOW_PT,
        within=lambda: _weights_within(document),
        other_parts=lambda within: _other_parts(document, within),
        progress=share_of(progress, _OPENED, 1),
    )


def _weights_within(document: Workbook) -> Within:
    if not document.is_sound:
        return {}
    archive = document.package.archive
    within = {sheet.member: _within_sheet(document, sheet) for sheet in document.sheets}
    if document.styles is not None:
        left, _ = document.styles.rewritten(document.used_styles, document.names_kept)
        member = archive.members[document.styles_member]
        weight = weight_within(member, document.styles.content, left)
        within[document.styles_member] = {ExtraKind.UNUSED_CELL_STYLES: weight}
    if document.strings is not None and len(document.strings):
        numbers = new_numbers(document.strings, document.used_strings)
        share = 1 - (int(numbers.max(initial=-1)) + 1) / len(document.strings)
        weight = int(len(archive.members[document.strings_member].packed) * share)
        within[document.strings_member] = {ExtraKind.CELL_SPELLING: weight}
    return {
        name: {extra: weight for extra, weight in weights.items() if weight}
        for name, weights in within.items()
    }


def _within_sheet(document: Workbook, sheet: Sheet) -> dict[ExtraKind, int]:
    """Estimate extras within a sheet from samples, packed with and without each."""
    member = document.package.archive.members[sheet.member]
    styles = document.styles
    shows = styles.shows if styles else np.zeros(1, np.bool_)
    assert sheet.found is not None
    plain = Trimming(sheet.column_styles, shows, sheet.found.content)
    past = replace(plain, past=True)
    filled = replace(past, fills=True)
    numbers, compact = (
        NewNumbers(
            np.arange(len(shows), dtype=np.int32),
            np.arange(len(document.strings) if document.strings else 0, dtype=np.int32),
            is_compact,
        )
        for is_compact in (False, True)
    )
    rules = _packed_bytes(sheet.shell) - _packed_bytes(without_idle_rules(sheet.shell))
    weights = np.zeros(5)
    for piece in _sample(document, sheet):
        table = read_rows(piece)
        steps = (
            piece,
            write_rows(table, numbers, plain),
            write_rows(table, numbers, past),
            write_rows(table, numbers, filled),
            write_rows(table, compact, filled),
        )
        weights += [_packed_bytes(step) for step in steps]
    if not weights[0]:
        return {ExtraKind.IDLE_RULES: max(0, rules)}
    share = len(member.packed) / weights[0]
    spelling, past_bytes, fills, places = (
        max(0, int(less * share)) for less in weights[:-1] - weights[1:]
    )
    return {
        ExtraKind.CELL_SPELLING: spelling,
        ExtraKind.PAST_FORMATS: past_bytes,
        ExtraKind.PAST_FILLS: fills,
        ExtraKind.CELL_PLACES: places,
        ExtraKind.IDLE_RULES: max(0, rules),
    }


def _packed_bytes(piece: bytes) -> int:
    import deflate

    return len(deflate.deflate_compress(piece, _SAMPLE_LEVEL))


def _sample(document: Workbook, sheet: Sheet) -> Iterator[bytes]:
    """Return evenly spread samples of the rows; all rows of a short sheet."""
    size = document.package.archive.members[sheet.member].size_bytes
    step = max(1, -(-size // (_MOST_SAMPLES * 4_000_000)))
    stream = open_stream(document.package, sheet.member, is_plain=sheet.is_plain)
    return islice(stream.rows(), 0, None, step)


def _other_parts(document: Workbook, within: Within) -> Iterator[Part]:
    """A part for each member that is no picture, no extra and no structure, and for each name."""
    for part in other_parts(document, XLSX_EXTRAS, within, partial(_kind_of, document)):
        if part.id in document.by_member:
            stored = document.package.archive.members[part.id].weight
            sheet = document.by_member[part.id]
            yield replace(part, sheet=_facts(sheet, stored, within.get(part.id, {})))
        elif part.id == document.package.main and document.names:
            names = tuple(_names(document))
            yield from names
            yield replace(part, size_bytes=part.size_bytes - sum(one.size_bytes for one in names))
        else:
            yield part


def _facts(sheet: Sheet, stored_bytes: int, within: Mapping[ExtraKind, int]) -> SheetFacts:
    return replace(
        sheet.facts,
        stored_bytes=stored_bytes,
        spelling_bytes=within.get(ExtraKind.CELL_SPELLING, 0),
        past_bytes=within.get(ExtraKind.PAST_FORMATS, 0),
        fills_bytes=within.get(ExtraKind.PAST_FILLS, 0),
        places_bytes=within.get(ExtraKind.CELL_PLACES, 0),
        rules_bytes=within.get(ExtraKind.IDLE_RULES, 0),
    )


def _names(document: Workbook) -> Iterator[Part]:
    """Yield each defined name with its share of their packed bytes."""
    archive, main = document.package.archive, document.package.main
    content = archive.content(main)
    left = drop_names(content, {name.id for name in document.names})
    weight = weight_within(archive.members[main], content, left)
    written = sum(name.size_bytes for name in document.names)
    for name in document.names:
        yield Part(
            id=name.id,
            kind=PartKind.NAME,
            size_bytes=weight * name.size_bytes // max(1, written),
            name=name.title,
            name_facts=name.facts,
            removed_with=None
            if name.facts.used_by or name.facts.is_sound
            else ExtraKind.STRAY_NAMES,
        )


def _kind_of(document: Workbook, name: str) -> tuple[PartKind, str]:
    """Return the kind of part that a member is, and its name for people."""
    if name in document.by_member:
        return PartKind.CELLS, document.by_member[name].title or posixpath.basename(name)
    return kind_of_member(document.package, name, _TITLES)
