"""Names in a workbook that nobody sees, or that point at nothing, and what uses them.

Source: ECMA-376 part 1, 18.2.5 (defined names; those that begin with _xlnm. are the standard's).
"""

import re
from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from lighten.containers.opc import OpcPackage
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.formats.xlsx.sheets import Sheet, open_stream
from lighten.model.sheet_facts import NameFacts

__all__ = ["StrayName", "drop_names", "id_of_name", "stray_names"]

_STANDARD = "_xlnm."
_BROKEN = "#REF!"
_FORMULA = re.compile(rb"<(?:\w+:)?(?:f|formula|formula1|formula2)(?: [^>]*)?>([^<]+)<")
_WORD = re.compile(r"[A-Za-z_\\\u0080-\uffff][\w.\\?\u0080-\uffff]*")
# A cell, and the sheet before it (18.17.2.3).
_CELLS = re.compile(r"!\$?[A-Za-z]{1,3}\$?\d")
_SHEET = re.compile(r"(?:'((?:[^']|'')+)'|([\w.]+))!")
_MOST_TOLD = 3
# Members whose formulas and attributes may mention a name.
_MENTIONING = ("chart", "table", "pivot", "drawing", "slicer", "queryTable", "control", "comments")


@dataclass(frozen=True, slots=True)
class StrayName:
    """id: of its part; bytes: of its element, as it is written."""

    id: str
    title: str
    size_bytes: int
    facts: NameFacts


def id_of_name(element: Any) -> str:
    """Return the id of a name, equal in a copy whatever else is removed."""
    sheet = element.get("localSheetId", "")
    return f"name:{sheet}:{element.get('name', '')}".replace(" ", "_")


def stray_names(package: OpcPackage, sheets: Collection[Sheet]) -> tuple[StrayName, ...]:
    """Return hidden and broken names, in the order of the file."""
    from lxml import etree

    elements = list(package.root(package.main).iterfind("{*}definedNames/{*}definedName"))
    strays = [element for element in elements if _is_stray(element)]
    if not strays:
        return ()
    titles = {element.get("name", "").casefold() for element in strays}
    users = _users(package, sheets, titles)
    for element in elements:
        for word in _words(element.text or "") & titles:
            if word != element.get("name", "").casefold():
                users.setdefault(word, []).append(f"the name {element.get('name')}")
    return tuple(
        StrayName(
            id=id_of_name(element),
            title=element.get("name", ""),
            size_bytes=len(etree.tostring(element, with_tail=False)),
            facts=NameFacts(
                points_at=element.text or "",
                used_by=_described(users.get(element.get("name", "").casefold(), [])),
                is_hidden=_is_hidden(element),
                is_broken=_BROKEN in (element.text or ""),
                is_sound=_is_sound(element.text or "", sheets),
            ),
        )
        for element in strays
    )


def drop_names(content: bytes, gone: Collection[str]) -> bytes:
    """The workbook's list without those names."""
    root = parse_xml(content, "a workbook", "")
    for listed in root.findall("{*}definedNames"):
        for element in list(listed):
            if id_of_name(element) in gone:
                listed.remove(element)
        if not len(listed):
            root.remove(listed)
    return write_xml(root)


def _is_stray(element: Any) -> bool:
    if element.get("name", "").startswith(_STANDARD):
        return False
    is_code = element.get("function", "0") in ("1", "true") or element.get("vbProcedure", "0") in (
        "1",
        "true",
    )
    return not is_code and (_is_hidden(element) or _BROKEN in (element.text or ""))


def _is_sound(target: str, sheets: Collection[Sheet]) -> bool:
    """Return whether a name points at cells of sheets that the workbook has."""
    if not _CELLS.search(target) or _BROKEN in target or "[" in target:
        return False
    there = {sheet.title.casefold() for sheet in sheets}
    named = {
        (quoted.replace("''", "'") or plain).casefold() for quoted, plain in _SHEET.findall(target)
    }
    return bool(named) and named <= there


def _is_hidden(element: Any) -> bool:
    return element.get("hidden", "0") in ("1", "true")


def _users(
    package: OpcPackage, sheets: Collection[Sheet], titles: Collection[str]
) -> dict[str, list[str]]:
    """Return, by name, the places that mention it."""
    wanted = frozenset(titles)
    users: dict[str, list[str]] = {}
    for sheet in sheets:
        stream = open_stream(package, sheet.member, is_plain=sheet.is_plain)
        for piece in stream.rows():
            for word in _in_formulas(piece) & wanted:
                users.setdefault(word, []).append(f"cells of {sheet.title}")
        # Read to its end here: ambiguous cells may have ended an earlier pass.
        for word in _in_formulas(stream.head + stream.tail) & wanted:
            users.setdefault(word, []).append(f"rules of {sheet.title}")
    for member in package.archive.members:
        if package.is_xml(member) and any(kind in member for kind in _MENTIONING):
            text = package.archive.content(member).decode("utf-8", "replace")
            for word in _words(text) & wanted:
                users.setdefault(word, []).append(member.rpartition("/")[2])
    return users


def _in_formulas(content: bytes) -> set[str]:
    formulas = b" ".join(set(_FORMULA.findall(content)))
    return _words(formulas.decode("utf-8", "replace")) if formulas else set()


def _words(text: str) -> set[str]:
    return {word.casefold() for word in _WORD.findall(text)}


def _described(users: list[str]) -> tuple[str, ...]:
    each = tuple(dict.fromkeys(users))
    more = len(each) - _MOST_TOLD
    return each if more <= 0 else (*each[:_MOST_TOLD], f"{more} more")
