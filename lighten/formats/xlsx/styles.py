"""Styles of cells: each once, and none that nothing uses.

Formats of cells (cellXfs) rest on fonts, fills, borders, number formats and named styles. All of
them are referred to by their numbers, which change together.
Source: ECMA-376 part 1, 18.8.
"""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.containers.xml_parts import parse_xml, write_xml

__all__ = ["CellStyles", "NamesKept", "read_styles"]

_LISTS = {"fontId": "fonts", "fillId": "fills", "borderId": "borders"}
# The first of each is what is taken where nothing is said; of fills, the first two (common
# practice, no source).
_RESERVED = {"fonts": 1, "fills": 2, "borders": 1}


@dataclass(frozen=True, slots=True)
class NamesKept:
    """Named styles and number formats that no cell uses, but something else may need.

    styles: by their names; None for all. keeps_number_formats: all of them stay.
    """

    styles: frozenset[str] | None = frozenset()
    keeps_number_formats: bool = False


@dataclass(frozen=True, slots=True)
class CellStyles:
    """The styles of a workbook.

    shows: by number, whether a blank cell of that style shows anything: a fill, a line.
    """

    content: bytes
    shows: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.shows)

    def rewritten(
        self, used: NDArray[np.bool_], names: NamesKept
    ) -> tuple[bytes, NDArray[np.int32]]:
        """The member with the styles in use, equal ones once, and the new number of each."""
        root = parse_xml(self.content, "styles", "")
        numbers = _compact(root, "cellXfs", {0, *np.flatnonzero(used).tolist()})
        if names.styles is not None:
            _drop_names(root, names.styles)
        formats = [*_children(root, "cellXfs"), *_children(root, "cellStyleXfs")]
        for reference, name in _LISTS.items():
            needed = {_number(one, reference) for one in formats} | {*range(_RESERVED[name])}
            _renumber(formats, reference, _compact(root, name, needed, _RESERVED[name]))
        if not names.keeps_number_formats:
            _drop_number_formats(root, formats)
        return write_xml(root), numbers


def read_styles(content: bytes) -> CellStyles:
    """Read the table of cell styles. Raises: as `parse_xml`."""
    root = parse_xml(content, "styles", "")
    formats = _children(root, "cellXfs")
    fills = [_is_visible_fill(fill) for fill in _children(root, "fills")]
    borders = [_is_visible_border(border) for border in _children(root, "borders")]
    shows = np.zeros(max(1, len(formats)), np.bool_)
    for number, own in enumerate(formats):
        fill, border = _number(own, "fillId"), _number(own, "borderId")
        shows[number] = fill >= len(fills) or border >= len(borders)
        shows[number] |= shows[number] or fills[fill] or borders[border]
    return CellStyles(content, shows)


def _children(root: Any, name: str) -> list[Any]:
    holder = root.find(f"{{*}}{name}")
    return list(holder.iterchildren("{*}*")) if holder is not None else []


def _number(element: Any, name: str) -> int:
    try:
        return max(0, int(element.get(name, "0")))
    except ValueError:
        return 0


def _is_visible_fill(fill: Any) -> bool:
    pattern = fill.find("{*}patternFill")
    return pattern is None or pattern.get("patternType", "none") != "none"


def _is_visible_border(border: Any) -> bool:
    return any(side.get("style", "none") != "none" for side in border.iterchildren("{*}*"))


def _compact(root: Any, name: str, needed: Collection[int], reserved: int = 1) -> NDArray[np.int32]:
    """Return a list without unused and repeated entries, and each entry's new number.

    reserved: so many at the start stay as they are.
    """
    from lxml import etree

    entries = _children(root, name)
    numbers = np.zeros(max(1, len(entries)), np.int32)
    firsts: dict[bytes, int] = {}
    count = 0
    for number, entry in enumerate(entries):
        look = bytes(etree.tostring(entry, method="c14n", with_tail=False))
        is_first = number < reserved or look not in firsts
        if number in needed and is_first:
            firsts.setdefault(look, count)
            numbers[number] = count
            count += 1
            continue
        if number in needed:
            numbers[number] = firsts[look]
        entry.getparent().remove(entry)
    holder = root.find(f"{{*}}{name}")
    if holder is not None and holder.get("count") is not None:
        holder.set("count", str(count))
    return numbers


def _renumber(elements: Iterable[Any], name: str, numbers: NDArray[np.int32]) -> None:
    for element in elements:
        if element.get(name) is not None:
            old = _number(element, name)
            element.set(name, str(int(numbers[old]) if old < len(numbers) else 0))


def _drop_names(root: Any, kept: Collection[str]) -> None:
    """Remove named styles that no format uses, except the default one and those in `kept`."""
    formats, named = _children(root, "cellXfs"), _children(root, "cellStyles")
    needed = {0} | {_number(own, "xfId") for own in formats}
    for style in named:
        if style.get("builtinId") == "0" or style.get("name", "") in kept:
            needed.add(_number(style, "xfId"))
    # Two names of one look stay two: each is somebody's own.
    bases = _children(root, "cellStyleXfs")
    numbers = np.zeros(max(1, len(bases)), np.int32)
    count = 0
    for number, base in enumerate(bases):
        if number in needed:
            numbers[number] = count
            count += 1
        else:
            base.getparent().remove(base)
    for style in named:
        if _number(style, "xfId") not in needed:
            style.getparent().remove(style)
    _renumber((*formats, *_children(root, "cellStyles")), "xfId", numbers)
    for name in ("cellStyleXfs", "cellStyles"):
        holder = root.find(f"{{*}}{name}")
        if holder is not None and holder.get("count") is not None:
            holder.set("count", str(len(_children(root, name))))


def _drop_number_formats(root: Any, formats: Iterable[Any]) -> None:
    used = {own.get("numFmtId") for own in formats}
    holder = root.find("{*}numFmts")
    for entry in _children(root, "numFmts"):
        if entry.get("numFmtId") not in used:
            holder.remove(entry)
    if holder is not None and not len(holder):
        root.remove(holder)
    elif holder is not None:
        holder.set("count", str(len(holder)))
