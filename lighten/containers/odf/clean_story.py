"""The XML of an OpenDocument without what shows nowhere.

Styles that programs write by themselves ("automatic") are the bulk of it: those that are alike
become one, those that say nothing go. Source: ISO/IEC 26300 part 1, clauses 3.15 and 16.
"""

import re
from collections import Counter
from collections.abc import Callable, Collection
from typing import Any

from lighten.containers.odf.family import no_more_cleaning
from lighten.containers.xml_parts import local_name, parse_xml, write_xml
from lighten.model.kinds import ExtraKind

__all__ = [
    "clean_settings",
    "clean_story",
    "without_comments",
    "without_traces",
]

_OFFICE_EXTENSIONS = "http://openoffice.org/2009/office"
_TRACES = ("rsid", "paragraph-rsid")
_OFFICE = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"
_STYLE = "urn:oasis:names:tc:opendocument:xmlns:style:1.0"
_TEXT = "urn:oasis:names:tc:opendocument:xmlns:text:1.0"
_NAME, _FAMILY = (f"{{{_STYLE}}}{name}" for name in ("name", "family"))
_SPAN, _SPAN_STYLE = f"{{{_TEXT}}}span", f"{{{_TEXT}}}style-name"
_PRINTER = ("PrinterSetup", "PrinterName", "PrinterPaperFromSetup")
_VIEW = "view-settings"
_COMMENTS_IN_FILE = re.compile(rb"<office:annotation[ >].*?</office:annotation>", re.DOTALL)
_TRACES_IN_FILE = re.compile(rb"\s(?:officeooo|loext):(?:paragraph-)?rsid=\"[^\"]*\"")


def without_traces(content: bytes) -> bytes:
    """Return the member about as it is without `EDITING_TRACES`, to weigh these."""
    return _TRACES_IN_FILE.sub(b"", content)


def without_comments(content: bytes) -> bytes:
    """Remove comments, as `without_traces` does; for `NOTES`."""
    return _COMMENTS_IN_FILE.sub(b"", content)


def clean_story(
    content: bytes,
    *,
    dropped: Collection[ExtraKind],
    clean: Callable[[Any, Collection[ExtraKind]], None] = no_more_cleaning,
) -> bytes:
    """Clean a member: the same words and formatting in fewer bytes.

    dropped: kinds of extras that are removed. clean: what else is done for them.
    """
    root = parse_xml(content, "a member", "")
    clean(root, dropped)
    if ExtraKind.EDITING_TRACES in dropped:
        _strip_traces(root)
    if ExtraKind.NOTES in dropped:
        _strip_comments(root)
    automatic = root.find("{*}automatic-styles")
    if automatic is not None:
        _merge_equal(root, automatic)
        _unwrap_idle_spans(root, automatic)
        _join_spans(root)
        _drop_unused(root, automatic)
    return write_xml(root)


def _strip_traces(root: Any) -> None:
    from lxml import etree

    etree.strip_attributes(root, *(f"{{{_OFFICE_EXTENSIONS}}}{name}" for name in _TRACES))
    for properties in list(root.iter(f"{{{_STYLE}}}text-properties")):
        if not properties.attrib and not len(properties):
            properties.getparent().remove(properties)


def _strip_comments(root: Any) -> None:
    from lxml import etree

    names = (f"{{{_OFFICE}}}annotation", f"{{{_OFFICE}}}annotation-end")
    etree.strip_elements(root, *names, with_tail=False)


def _merge_equal(root: Any, automatic: Any) -> None:
    """Merge equal automatic styles into the first of them."""
    from lxml import etree

    styles = list(automatic.iterchildren(f"{{{_STYLE}}}style"))
    counts = Counter(style.get(_NAME) for style in styles)
    firsts: dict[bytes, str] = {}
    names: dict[str, str] = {}
    for style in styles:
        name = style.get(_NAME)
        # A name that two families have is ambiguous where it is used; what leads to a
        # picture keeps its place.
        if name is None or counts[name] > 1 or _leads_elsewhere(style):
            continue
        style.set(_NAME, "")
        look = etree.tostring(style, with_tail=False)
        style.set(_NAME, name)
        first = firsts.setdefault(look, name)
        if first != name:
            names[name] = first
            automatic.remove(style)
    if names:
        _rename_uses(root, names)


def _rename_uses(root: Any, names: dict[str, str]) -> None:
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        for key, value in element.attrib.items():
            if value in names and _is_style_use(key):
                element.set(key, names[value])


def _is_style_use(key: str) -> bool:
    """Return whether an attribute names a style; the names of all such attributes end alike."""
    name = key.rpartition("}")[2]
    return name.endswith(("style-name", "style-names")) or name == "class-names"


def _unwrap_idle_spans(root: Any, automatic: Any) -> None:
    """Replace spans whose style changes nothing by their content."""
    idle = {
        style.get(_NAME)
        for style in automatic.iterchildren(f"{{{_STYLE}}}style")
        if style.get(_FAMILY) == "text"
        and len(style) == 0
        and set(style.attrib) <= {_NAME, _FAMILY}
    }
    for span in list(root.iter(_SPAN)):
        is_idle = span.get(_SPAN_STYLE) in idle and set(span.attrib) == {_SPAN_STYLE}
        if is_idle and not _is_empty(span):
            _unwrap(span)


def _unwrap(element: Any) -> None:
    parent, before = element.getparent(), element.getprevious()
    _add_text(parent, before, element.text)
    place = parent.index(element)
    children = list(element)
    for offset, child in enumerate(children):
        parent.insert(place + offset, child)
    last = children[-1] if children else before
    tail = element.tail
    element.tail = None
    parent.remove(element)
    _add_text(parent, last, tail)


def _add_text(parent: Any, before: Any, text: str | None) -> None:
    """Append text after `before`, or at the start of `parent` if it is None."""
    if not text:
        return
    if before is None:
        parent.text = (parent.text or "") + text
    else:
        before.tail = (before.tail or "") + text


def _join_spans(root: Any) -> None:
    """Join neighbouring spans that have the same style."""
    for span in list(root.iter(_SPAN)):
        before = span.getprevious()
        if (
            before is None
            or before.tag != _SPAN
            or before.tail
            or _is_empty(before)
            or _is_empty(span)
            or dict(before.attrib) != dict(span.attrib)
            or set(span.attrib) != {_SPAN_STYLE}
        ):
            continue
        _add_text(before, before[-1] if len(before) else None, span.text)
        for child in list(span):
            before.append(child)
        before.tail = span.tail
        span.tail = None
        span.getparent().remove(span)


def _is_empty(span: Any) -> bool:
    """Return whether a paragraph is empty. An empty span carries the look of its end, and its
    numbering.
    """
    return not span.text and len(span) == 0


def _drop_unused(root: Any, automatic: Any) -> None:
    """Remove unused automatic styles, repeatedly, as one may use another."""
    while True:
        used = _names_used(root)
        unused = [
            style
            for style in automatic.iterchildren(f"{{{_STYLE}}}style")
            if style.get(_NAME) not in used and not _leads_elsewhere(style)
        ]
        for style in unused:
            automatic.remove(style)
        if not unused:
            return


def _names_used(root: Any) -> set[str]:
    used: set[str] = set()
    for element in root.iter():
        if isinstance(element.tag, str):
            for key, value in element.attrib.items():
                if _is_style_use(key):
                    used.update(value.split() if " " in value else (value,))
    return used


def _leads_elsewhere(style: Any) -> bool:
    """Return whether it shows a picture or has rules tied to it."""
    return any(key.endswith("}href") for element in style.iter() for key in element.attrib) or any(
        local_name(element) == "map" for element in style
    )


def clean_settings(content: bytes, *, dropped: Collection[ExtraKind]) -> bytes:
    """The settings without those of one printer, or of a window."""
    root = parse_xml(content, "settings.xml", "")
    for element in list(root.iter("{*}config-item", "{*}config-item-set")):
        name = next((value for key, value in element.attrib.items() if key.endswith("}name")), "")
        is_printer = name in _PRINTER and ExtraKind.PRINTER_SETTINGS in dropped
        is_view = name.endswith(_VIEW) and ExtraKind.VIEW_SETTINGS in dropped
        if is_printer or is_view:
            element.getparent().remove(element)
    return write_xml(root)
