"""A sheet without its rows: columns, merged cells, rules and whatever else stands around them.

Source: ECMA-376 part 1, 18.3.1.99 (the order in which it stands).
"""

import re
from collections.abc import Collection
from copy import deepcopy
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.formats.xlsx.cells.trim import Extent
from lighten.model.errors import UnreadableFileError
from lighten.model.sheet_facts import column_letters

__all__ = ["rewrite_shell", "without_idle_rules", "without_printer_settings"]

_ROWS = "{*}sheetData"
_PAGE_SETUP = re.compile(rb"<(?:[\w.-]+:)?pageSetup\s[^>]*>")
_OPENED, _CLOSED = b"<sheetData>", b"</sheetData>"


def rewrite_shell(
    shell: bytes,
    *,
    styles: NDArray[np.int32],
    extent: Extent | None,
    gone: Collection[str],
    drops_idle_rules: bool = False,
) -> tuple[bytes, bytes]:
    """Rewrite the XML before and after the rows, with the tag that opens them.

    styles: new numbers. extent: how far the sheet goes now; None for as it was. gone: ids of
    relationships to what is left out. drops_idle_rules: see `without_idle_rules`. Raises: as
    `parse_xml`; UnreadableFileError.
    """
    root = parse_xml(shell, "a sheet", "")
    for column in root.iterfind("{*}cols/{*}col"):
        style = column.get("style")
        if style is not None and int(style) < len(styles):
            new = int(styles[int(style)])
            if new:
                column.set("style", str(new))
            else:
                del column.attrib["style"]
    dimension = root.find("{*}dimension")
    if dimension is not None and extent is not None:
        dimension.set("ref", _reference(extent))
    for setup in root.iter("{*}pageSetup"):
        for key, value in list(setup.attrib.items()):
            if key.endswith("}id") and value in gone:
                del setup.attrib[key]
    if drops_idle_rules:
        _drop_idle_rules(root)
    rows = root.find(_ROWS)
    if rows is None:
        return write_xml(root), b""
    # Whichever way an empty one is written, this is found again.
    rows.attrib.clear()
    rows.text = "\n"
    before, mark, after = write_xml(root).partition(_OPENED + b"\n" + _CLOSED)
    if not mark:
        raise UnreadableFileError(
            "A sheet of it is not built as those of workbooks are. Open it in the program it came "
            "from and save it again, and try that file."
        )
    return before + _OPENED, _CLOSED + after


def without_printer_settings(content: bytes, *, gone: Collection[str]) -> bytes:
    """Return a sheet of any kind whose page setups no longer hold those ids of relationships.

    The rest of the sheet stays to the byte: rows may be many.
    """
    ids = b"|".join(re.escape(relation.encode()) for relation in sorted(gone))
    held = re.compile(rb"\s+[\w.-]+:id\s*=\s*(?:\"(?:%s)\"|'(?:%s)')" % (ids, ids))
    return _PAGE_SETUP.sub(lambda setup: held.sub(b"", setup[0]), content)


def without_idle_rules(shell: bytes) -> bytes:
    """The sheet without conditional formats for no cells, or that repeat one for the same cells."""
    root = parse_xml(shell, "a sheet", "")
    _drop_idle_rules(root)
    return write_xml(root)


def _drop_idle_rules(root: Any) -> None:
    """Keep, of equal rules for the same cells, the one of highest priority (18.3.1.10)."""
    from lxml import etree

    first: dict[tuple[str, bytes], tuple[int, Any]] = {}
    idle: list[Any] = []
    for formats in root.findall("{*}conditionalFormatting"):
        cells = " ".join(formats.get("sqref", "").split())
        for rule in formats.iterchildren("*"):
            bare = deepcopy(rule)
            text = bare.attrib.pop("priority", "0")
            priority = int(text) if text.isdecimal() else 0
            look = bytes(etree.tostring(bare, method="c14n", with_tail=False))
            before = first.get((cells, look))
            if not cells or (before is not None and before[0] <= priority):
                idle.append(rule)
                continue
            if before is not None:
                idle.append(before[1])
            first[cells, look] = priority, rule
    for rule in idle:
        formats = rule.getparent()
        formats.remove(rule)
        if not len(formats):
            root.remove(formats)


def _reference(extent: Extent) -> str:
    last = f"{column_letters(extent.column)}{extent.row}" if extent.column and extent.row else "A1"
    return last if last == "A1" else f"A1:{last}"
