"""Office files: packages of ECMA-376 and of ISO/IEC 26300, by lxml and the libraries of others."""

import posixpath
import re
import warnings
import zipfile
from collections import Counter
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from lxml import etree

from benchmarks.second_opinion.findings import differences

__all__ = ["compare_open_documents", "compare_packages"]

Members = Mapping[str, bytes]
_VML_ID = "{urn:schemas-microsoft-com:office:office}relid"
_XML_STARTS = (b"<", b"\xef", b"\xff", b"\xfe")


def compare_packages(original: Path, copy: Path) -> Iterator[str]:
    """Yield what a .docx, .pptx or .xlsx has lost: parts in use, pictures, text, cells."""
    before, after = _members(original), _members(copy)
    yield from _new(_faults(before), _faults(after))
    yield from _pictures_lost(before, after)
    read = _READERS.get(copy.suffix.lower()[:4])
    if read is None:
        return
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            facts = read(original)
        except Exception:
            return  # what others cannot read of the original says nothing of the copy
        try:
            left = read(copy)
        except Exception as error:
            yield f"another library cannot read the copy ({type(error).__name__}: {error})"
            return
    for what, values in facts.items():
        yield from differences(what, values, left.get(what, []))


def compare_open_documents(original: Path, copy: Path) -> Iterator[str]:
    """Yield what a .odt, .ods or .odp has lost: members, well-formed XML, words."""
    before, after = _members(original), _members(copy)
    for name, content in after.items():
        if name.endswith(".xml") and _parsed(content) is None and _parsed(before.get(name, b"")):
            yield f"{name} is no longer well formed"
    listed = set(re.findall(rb'full-path="([^"]*)"', after.get("META-INF/manifest.xml", b"")))
    for entry in listed:
        name = entry.decode()
        if name and not name.endswith("/") and name not in after and name in before:
            yield f"the manifest names {name}, which is not there"
    for name in ("content.xml", "styles.xml"):
        roots = [_parsed(members.get(name, b"")) for members in (before, after)]
        if roots[0] is not None and roots[1] is not None:
            yield from differences(f"words of {name}", *(_words(root) for root in roots))
            yield from differences(
                f"pictures of {name}", *(["picture"] * _frames(root) for root in roots)
            )


def _frames(root: Any) -> int:
    return len([one for one in root.iter("{*}image") if one.getparent().tag.endswith("}frame")])


def _words(root: Any) -> list[str]:
    body = root.find("{*}body")
    paragraphs = (root if body is None else body).iter("{*}p", "{*}h")
    return [word for one in paragraphs for word in "".join(one.itertext()).split()]


def _members(path: Path) -> Members:
    with zipfile.ZipFile(path) as file:
        return {name: file.read(name) for name in file.namelist() if not name.endswith("/")}


def _parsed(content: bytes) -> Any:
    parser = etree.XMLParser(huge_tree=True, resolve_entities=False)
    try:
        return etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError):
        return None


def _new(before: list[str], after: list[str]) -> Iterator[str]:
    yield from (Counter(after) - Counter(before)).elements()


def _faults(members: Members) -> list[str]:
    """Name relations that lead nowhere, ids that are no relation's, and members of no type."""
    faults = []
    lower = {name.lower() for name in members}
    types = _parsed(members.get("[Content_Types].xml", b""))
    known: set[str] = set()
    for entry in types if types is not None else ():
        known.add((entry.get("PartName") or entry.get("Extension") or "").lower().lstrip("/"))
    for name, content in members.items():
        ending = name.rpartition(".")[2].lower()
        if name.lower() not in known and ending not in known and name != "[Content_Types].xml":
            faults.append(f"{name} has no content type")
        if name.endswith(".rels"):
            faults += [
                f"{name} leads to {target}, which is not there"
                for target in _relations(members, _source(name)).values()
                if target and target.lower() not in lower
            ]
        elif content.startswith(_XML_STARTS) and (root := _parsed(content)) is not None:
            known_ids = _relations(members, name).keys()
            faults += [f"{name} uses {one}, which is no relation" for one in _ids(root) - known_ids]
    return faults


def _source(rels: str) -> str:
    folder, name = posixpath.split(rels)
    return posixpath.join(posixpath.dirname(folder), name.removesuffix(".rels"))


def _relations(members: Members, member: str) -> dict[str, str]:
    """Return the member that each id leads to; "" for what is outside."""
    folder, name = posixpath.split(member)
    root = _parsed(members.get(posixpath.join(folder, "_rels", f"{name}.rels"), b""))
    found = {}
    for link in root if root is not None else ():
        target = unquote(link.get("Target", "").partition("#")[0])
        joined = posixpath.normpath(posixpath.join("/", folder, target)).lstrip("/")
        found[link.get("Id", "")] = "" if link.get("TargetMode") == "External" else joined
    return found


def _ids(root: Any) -> set[str]:
    return {
        str(value)
        for element in root.iter("*")
        for key, value in element.attrib.items()
        if value and (key == _VML_ID or key.rpartition("}")[0].endswith("/relationships"))
    }


def _pictures_lost(before: Members, after: Members) -> Iterator[str]:
    """Pictures that a member of both shows by a relation, and shows no more."""
    for name in before.keys() & after.keys():
        counts = []
        for members in (before, after):
            content = members[name]
            root = _parsed(content) if content.startswith(_XML_STARTS) else None
            used = _ids(root) if root is not None else set()
            links = _relations(members, name)
            counts.append(sum(bool(re.search(r"/media/", links.get(one, ""))) for one in used))
        if counts[1] < counts[0]:
            yield f"{name} shows {counts[0]} pictures, and in the copy {counts[1]}"


def _text_document(path: Path) -> dict[str, list[str]]:
    import docx

    document = docx.Document(str(path))
    return {
        "paragraphs": [paragraph.text for paragraph in document.paragraphs],
        "tables": [
            cell.text for table in document.tables for row in table.rows for cell in row.cells
        ],
        "pictures": ["picture" for _ in document.inline_shapes],
        "styles": [
            (one.style.name if one.style is not None else "") or "" for one in document.paragraphs
        ],
    }


def _slides(path: Path) -> dict[str, list[str]]:
    import pptx

    deck = pptx.Presentation(str(path))
    shapes = [(number, shape) for number, one in enumerate(deck.slides) for shape in one.shapes]
    return {
        "shapes": [f"{number} {shape.shape_type} {shape.name}" for number, shape in shapes],
        "text": [
            f"{number} {shape.text_frame.text}" for number, shape in shapes if shape.has_text_frame
        ],
        "notes": [
            one.notes_slide.notes_text_frame.text
            for one in deck.slides
            if one.has_notes_slide and one.notes_slide.notes_text_frame is not None
        ],
    }


def _workbook(path: Path) -> dict[str, list[str]]:
    import openpyxl
    import python_calamine

    book = openpyxl.load_workbook(path)
    values = python_calamine.CalamineWorkbook.from_path(str(path))
    return {
        "cells": [
            f"{sheet.title} {cell.coordinate} {cell.value!r} {cell.number_format}"
            for sheet in book.worksheets
            for row in sheet.iter_rows()
            for cell in row
            if cell.value is not None
        ],
        "merged cells": [f"{sheet.title} {one}" for sheet in book for one in _merged(sheet)],
        "pictures": [sheet.title for sheet in book.worksheets for _ in sheet._images],
        "values": [f"{name} {row!r}" for name in values.sheet_names for row in _rows(values, name)],
    }


def _merged(sheet: Any) -> list[str]:
    return [str(one) for one in getattr(getattr(sheet, "merged_cells", None), "ranges", ())]


def _rows(book: Any, name: str) -> list[list[Any]]:
    rows: list[list[Any]] = book.get_sheet_by_name(name).to_python()
    return [row for row in rows if any(value not in ("", None) for value in row)]


_READERS = {".doc": _text_document, ".ppt": _slides, ".xls": _workbook}
