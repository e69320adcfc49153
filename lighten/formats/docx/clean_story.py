"""Removal of invisible parts from the XML of a text document.

Kinds of extras say what is removed by choice; runs that look alike are always joined.
Source: ECMA-376 part 1, clause 17.3 (paragraphs and runs).
"""

import re
from collections.abc import Collection
from typing import Any

from lighten.containers.opc import relation_of
from lighten.containers.xml_parts import XML_NAMESPACE, parse_xml, write_xml
from lighten.model.kinds import ExtraKind

__all__ = ["clean_story", "without_drawing_copies", "without_traces"]

_WORD_2010 = "http://schemas.microsoft.com/office/word/2010/wordml"
_DRAWING_2010 = "http://schemas.microsoft.com/office/word/2010/wordprocessingDrawing"
_OFFICE = "urn:schemas-microsoft-com:office:office"
_COMPATIBILITY = "http://schemas.openxmlformats.org/markup-compatibility/2006"
_REVISIONS = ("rsidR", "rsidRPr", "rsidRDefault", "rsidP", "rsidDel", "rsidTr", "rsidSect")
_SPACE = f"{{{XML_NAMESPACE}}}space"
# What a run may hold to be joined with the next: anything else has a meaning of its own.
_PLAIN = frozenset({"t", "tab", "br", "cr", "noBreakHyphen", "softHyphen"})
# How those extras stand in the file.
_TRACES = re.compile(
    rb"\s(?:w:rsid\w*|w14:paraId|w14:textId|wp14:anchorId|wp14:editId)=\"[^\"]*\""
    rb"|<w:proofErr [^>]*/>|<w:lastRenderedPageBreak ?/>|<w:rsids>.*?</w:rsids>",
    re.DOTALL,
)
_FALLBACK = re.compile(rb"<mc:Fallback>.*?</mc:Fallback>", re.DOTALL)
_DRAWING_COPY = re.compile(rb"\so:gfxdata=\"[^\"]*\"")


def without_traces(content: bytes) -> bytes:
    """Return the member about as it is without `EDITING_TRACES`, to weigh these."""
    return _TRACES.sub(b"", content)


def without_drawing_copies(content: bytes) -> bytes:
    """Remove copies of drawings, as `without_traces` does; for `DRAWING_COPIES`."""
    if b"o:gfxdata=" not in content:
        return content
    return _FALLBACK.sub(lambda match: _DRAWING_COPY.sub(b"", match[0]), content)


def clean_story(
    content: bytes,
    *,
    dropped: Collection[ExtraKind],
    keeps_paragraph_ids: bool,
    gone_fonts: Collection[str] = (),
) -> bytes:
    """Clean a member: the same words, formatting and marks in fewer bytes.

    dropped: kinds of extras that go. keeps_paragraph_ids: other members point at paragraphs.
    gone_fonts: ids of relationships to fonts that are no longer brought along.
    """
    root = parse_xml(content, "a member", "")
    word = root.tag.rpartition("}")[0] + "}"
    if ExtraKind.EDITING_TRACES in dropped:
        _strip_traces(root, word, keeps_paragraph_ids=keeps_paragraph_ids)
    if ExtraKind.DRAWING_COPIES in dropped:
        _strip_drawing_copies(root)
    if ExtraKind.NOTES in dropped:
        _strip_comments(root, word)
    if gone_fonts:
        _strip_fonts(root, gone_fonts)
    _strip_idle(root, word)
    _join_runs(root, word)
    return write_xml(root)


def _strip_traces(root: Any, word: str, *, keeps_paragraph_ids: bool) -> None:
    """Remove numbers of editing sessions, marks of the spelling checker, and former page ends."""
    from lxml import etree

    names = [f"{word}{name}" for name in _REVISIONS]
    names += [f"{{{_DRAWING_2010}}}anchorId", f"{{{_DRAWING_2010}}}editId"]
    if not keeps_paragraph_ids:
        names += [f"{{{_WORD_2010}}}paraId", f"{{{_WORD_2010}}}textId"]
    etree.strip_attributes(root, *names)
    marks = (f"{word}proofErr", f"{word}lastRenderedPageBreak", f"{word}rsids")
    etree.strip_elements(root, *marks, with_tail=False)


def _strip_drawing_copies(root: Any) -> None:
    """Remove the second copy of drawings that only legacy readers use."""
    for fallback in root.iter(f"{{{_COMPATIBILITY}}}Fallback"):
        for element in fallback.iter():
            if isinstance(element.tag, str):
                element.attrib.pop(f"{{{_OFFICE}}}gfxdata", None)


def _strip_comments(root: Any, word: str) -> None:
    from lxml import etree

    for mark in list(root.iter(f"{word}commentReference")):
        run = mark.getparent()
        run.remove(mark)
        is_empty = all(child.tag == f"{word}rPr" for child in run)
        if is_empty and run.tag == f"{word}r":
            run.getparent().remove(run)
    etree.strip_elements(
        root, f"{word}commentRangeStart", f"{word}commentRangeEnd", with_tail=False
    )


def _strip_fonts(root: Any, gone: Collection[str]) -> None:
    names = ("embedRegular", "embedBold", "embedItalic", "embedBoldItalic")
    for element in list(root.iter(*(f"{{*}}{name}" for name in names))):
        if relation_of(element) in gone:
            element.getparent().remove(element)


def _join_runs(root: Any, word: str) -> None:
    """Join neighbouring runs that have the same formatting."""
    run_tag, properties_tag, text_tag = f"{word}r", f"{word}rPr", f"{word}t"
    plain = frozenset(f"{word}{name}" for name in _PLAIN)
    looks: dict[Any, bytes | None] = {}
    for run in list(root.iter(run_tag)):
        before = run.getprevious()
        if before is None or before.tag != run_tag:
            continue
        own = _look_of(run, plain, properties_tag, looks)
        if own is None or own != _look_of(before, plain, properties_tag, looks):
            continue
        for child in list(run):
            if child.tag != properties_tag:
                _append(before, child, text_tag)
        run.getparent().remove(run)


def _look_of(
    run: Any, plain: frozenset[str], properties_tag: str, looks: dict[Any, bytes | None]
) -> bytes | None:
    """Return the formatting of a run, for comparison; None where it holds more than plain text."""
    from lxml import etree

    if run not in looks:
        properties, is_plain = b"", not run.tail and not run.text
        for child in run:
            if child.tag == properties_tag:
                properties = etree.tostring(child, with_tail=False)
            elif child.tag not in plain or child.tail:
                is_plain = False
                break
        attributes = repr(sorted(run.attrib.items())).encode()
        looks[run] = properties + attributes if is_plain else None
    return looks[run]


def _append(run: Any, child: Any, text_tag: str) -> None:
    last = run[-1] if len(run) else None
    if child.tag == text_tag and last is not None and last.tag == text_tag:
        _set_text(last, _text_of(last) + _text_of(child))
    else:
        run.append(child)


def _text_of(text: Any) -> str:
    """Return the text as readers take it: spaces at its ends count only on request."""
    words = text.text or ""
    return words if text.get(_SPACE) == "preserve" else words.strip(" \t\r\n")


def _set_text(element: Any, text: str) -> None:
    element.text = text or None
    if text != text.strip(" \t\r\n"):
        element.set(_SPACE, "preserve")
    else:
        element.attrib.pop(_SPACE, None)


def _strip_idle(root: Any, word: str) -> None:
    """Remove properties without effect, and space attributes without spaces."""
    for text in root.iter(f"{word}t"):
        if _SPACE in text.attrib:
            words = text.text or ""
            if words == words.strip(" \t\r\n"):
                del text.attrib[_SPACE]
    for name in ("rPr", "pPr", "tcPr", "trPr"):
        for properties in list(root.iter(f"{word}{name}")):
            parent = properties.getparent()
            if not len(properties) and not properties.attrib and parent is not None:
                tail = properties.tail
                if not tail and parent.tag in (f"{word}r", f"{word}p", f"{word}tc", f"{word}tr"):
                    parent.remove(properties)
