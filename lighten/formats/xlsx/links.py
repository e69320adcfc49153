"""Links of a workbook to other workbooks, turned to the values that cells show.

Source: ECMA-376 part 1, 18.14 (external links) and 18.17.2.3 (`[1]Sheet!A1` in formulas); 18.3.1.40
(shared formulas: one cell has the text, others its number).
"""

import re
from collections.abc import Collection, Iterable

from lighten.containers.opc import OpcPackage
from lighten.containers.xml_parts import parse_xml, write_xml

__all__ = ["are_only_in_cells", "link_members", "shared_links", "unlink_cells", "unlink_workbook"]

# A number in brackets before a sheet's or a name's "!", and no part of a table's name before it.
_LINK = re.compile(rb"(?<![\w\]])\[\d+\][^\[\]<!]{0,300}!")
_FORMULA = re.compile(rb"<f\b([^>]*?)(?:/>|>([^<]*)</f>)")
_SHARED = re.compile(rb'\bsi="(\d+)"')
_RULES = re.compile(rb"<(?:formula|formula1|formula2)>([^<]*)<")
_ELSEWHERE = ("/charts/", "/pivotCache/", "/pivotTables/", "/tables/", "/drawings/", "queryTable")


def link_members(package: OpcPackage) -> frozenset[str]:
    """Return members with cached values from other workbooks."""
    return frozenset(
        name
        for name in package.archive.members
        if package.content_type(name).endswith("spreadsheetml.externalLink+xml")
    )


def are_only_in_cells(package: OpcPackage, shells: Iterable[bytes]) -> bool:
    """Return whether only cell formulas refer to other workbooks."""
    if any(_LINK.search(rule) for shell in shells for rule in _RULES.findall(shell)):
        return False
    return not any(
        _LINK.search(package.archive.content(name))
        for name in package.archive.members
        if any(folder in name for folder in _ELSEWHERE) and name.endswith(".xml")
    )


def shared_links(pieces: Iterable[bytes]) -> frozenset[bytes]:
    """Return the numbers of shared formulas that refer to another workbook."""
    numbers = set()
    for piece in pieces:
        for attributes, text in _FORMULA.findall(piece):
            number = _SHARED.search(attributes)
            if number and text and _LINK.search(text):
                numbers.add(number[1])
    return frozenset(numbers)


def unlink_cells(piece: bytes, shared: Collection[bytes]) -> bytes:
    """Replace formulas to other workbooks by their cached values."""

    def without(formula: re.Match[bytes]) -> bytes:
        number = _SHARED.search(formula[1])
        is_shared = number is not None and number[1] in shared
        return b"" if is_shared or (formula[2] and _LINK.search(formula[2])) else formula[0]

    return _FORMULA.sub(without, piece)


def unlink_workbook(content: bytes) -> bytes:
    """Remove other workbooks from the workbook part, with names that refer to them."""
    root = parse_xml(content, "a workbook", "")
    for listed in root.findall("{*}externalReferences"):
        root.remove(listed)
    for listed in root.findall("{*}definedNames"):
        for name in list(listed):
            if _LINK.search((name.text or "").encode()):
                listed.remove(name)
        if not len(listed):
            root.remove(listed)
    return write_xml(root)
