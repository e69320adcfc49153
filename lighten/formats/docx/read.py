"""A text document through a reader that had no part in writing it: what it says, and its pictures.

Source: ECMA-376 part 1, clause 17.
"""

import hashlib
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from lighten.containers.opc.reading import OpcReading
from lighten.containers.zip_reading import open_zip
from lighten.model.source import Source

__all__ = ["DocxReading", "read_docx"]

_DEFINITIONS = ("styles.xml", "numbering.xml", "settings.xml", "webSettings.xml", "fontTable.xml")
# Attributes that number editing sessions and say nothing of looks.
_TRACES = ("rsid", "paraId", "textId")


class DocxReading(OpcReading):
    """Its promises are the words, paragraph by paragraph, and all that hangs on them."""

    def __init__(self, file: zipfile.ZipFile, name: str) -> None:
        super().__init__(file, name)
        self._digests: dict[bytes, str] = {}

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        stories = self._stories()
        main = [name for name in stories if name.startswith("word/document")] or stories[:1]
        notes = [name for name in stories if "notes" in name]
        comments = [name for name in stories if "comments" in name]
        around = [name for name in stories if name not in (*main, *notes, *comments)]
        features: dict[str, list[str]] = {
            "paragraphs": self._paragraphs(main),
            "headers and other text": self._paragraphs(around),
            "notes": self._paragraphs(notes),
            "comments": self._paragraphs(comments),
            "paragraph formatting": [],
            "tables": [],
            "fields": [],
            "links": [],
            "bookmarks": [],
            "tracked changes": [],
            "form fields": [],
            "frames": [],
        }
        for name in (*main, *around, *notes):
            self._look_through(name, features)
        return {
            **{kind: tuple(entries) for kind, entries in features.items()},
            "styles in use": tuple(self._styles_in_use(stories)),
            "embedded files": tuple(self.embedded_files()),
            "broken references": self.dangling(),
            "pictures in use": tuple(self.pictures_in_use()),
        }

    def _digest(self, element: Any) -> str:
        """Return a digest that is equal for elements of equal content; most content repeats."""
        from lxml import etree

        if element is None or (not len(element) and not element.attrib):
            return "-"
        key = etree.tostring(element, with_tail=False)
        if key not in self._digests:
            self._digests[key] = _digest(element)
        return self._digests[key]

    def _looks(self, paragraph: Any) -> str:
        """Return the formatting of the runs of a paragraph, equal neighbours joined, without their
        text.
        """
        looks = [self._digest(paragraph.find("{*}pPr"))]
        lengths: list[int] = []
        for run in paragraph.iter("{*}r"):
            length = sum(len(_shown_text(text)) for text in run.iterchildren("{*}t"))
            if not length:
                continue
            own = self._digest(run.find("{*}rPr"))
            if looks[-1] == own and lengths:
                lengths[-1] += length
            else:
                looks.append(own)
                lengths.append(length)
        return " ".join((*looks, *map(str, lengths)))

    def _stories(self) -> list[str]:
        """Return members with paragraphs by name, in a fixed order."""
        return sorted(
            name
            for name in self.members
            if name.startswith("word/")
            and name.endswith(".xml")
            and name.count("/") <= 2
            and not name.endswith(_DEFINITIONS)
            and not name.startswith(("word/theme/", "word/charts/", "word/diagrams/"))
            and self.tree(name).find(".//{*}p") is not None
        )

    def _paragraphs(self, members: list[str]) -> list[str]:
        return [
            _words(paragraph)
            for member in members
            for paragraph in self.tree(member).iter("{*}p")
            if "wordprocessingml" in paragraph.tag
        ]

    def _look_through(self, member: str, features: dict[str, list[str]]) -> None:
        root, links = self.tree(member), self.relations(member)
        for element in root.iter(
            "{*}p",
            "{*}tbl",
            "{*}hyperlink",
            "{*}bookmarkStart",
            "{*}ins",
            "{*}del",
            "{*}moveFrom",
            "{*}moveTo",
            "{*}instrText",
            "{*}fldSimple",
            "{*}sdt",
            "{*}extent",
        ):
            name = element.tag.split("}")[-1]
            match name:
                case "p":
                    features["paragraph formatting"].append(self._looks(element))
                case "tbl":
                    rows = element.findall("{*}tr")
                    cells = [len(row.findall("{*}tc")) for row in rows]
                    features["tables"].append(f"{len(rows)} rows {cells}")
                case "hyperlink":
                    _, target = links.get(_attribute(element, "id"), ("", ""))
                    features["links"].append(f"{target}#{_attribute(element, 'anchor')}")
                case "bookmarkStart":
                    features["bookmarks"].append(_attribute(element, "name"))
                case "instrText":
                    features["fields"].append((element.text or "").strip())
                case "fldSimple":
                    features["fields"].append(_attribute(element, "instr").strip())
                case "sdt":
                    tag = element.find("{*}sdtPr/{*}tag")
                    features["form fields"].append("" if tag is None else _attribute(tag, "val"))
                case "extent":
                    features["frames"].append(f"{element.get('cx')} x {element.get('cy')}")
                case _:
                    words = "".join(text.text or "" for text in element.iter("{*}t", "{*}delText"))
                    features["tracked changes"].append(
                        f"{name} {_attribute(element, 'author')} {words}"
                    )

    def _styles_in_use(self, stories: list[str]) -> Iterator[str]:
        """Return the content of each style and list in use."""
        uses: set[tuple[str, str]] = set()
        for member in stories:
            for element in self.tree(member).iter(
                "{*}pStyle", "{*}rStyle", "{*}tblStyle", "{*}numId"
            ):
                uses.add((element.tag.split("}")[-1], _attribute(element, "val")))
        styles = self._definitions("word/styles.xml", "style", "styleId")
        numberings = self._definitions("word/numbering.xml", "num", "numId")
        for name, identifier in sorted(uses):
            for style, element in _chain(numberings if name == "numId" else styles, identifier):
                yield f"{name} {style} {'' if element is None else _digest(element)}"

    def _definitions(self, member: str, name: str, key: str) -> dict[str, Any]:
        if member not in self.members:
            return {}
        return {
            _attribute(element, key): element for element in self.tree(member).iter(f"{{*}}{name}")
        }


@contextmanager
def read_docx(source: Source) -> Iterator[DocxReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield DocxReading(file, source.name)


def _chain(defined: Mapping[str, Any], name: str) -> Iterator[tuple[str, Any]]:
    """Return a style and the styles it is based on; None if one is undefined."""
    seen: set[str] = set()
    while name and name not in seen:
        seen.add(name)
        element = defined.get(name)
        yield name, element
        base = None if element is None else element.find("{*}basedOn")
        name = "" if base is None else _attribute(base, "val")


def _words(paragraph: Any) -> str:
    """Return the words as readers show them; spaces at ends count only where preserved."""
    words = []
    for element in paragraph.iter("{*}t", "{*}delText", "{*}tab", "{*}br", "{*}cr", "{*}sym"):
        name = element.tag.split("}")[-1]
        if name in ("t", "delText"):
            words.append(_shown_text(element))
        elif name == "sym":
            words.append(f"[{_attribute(element, 'font')} {_attribute(element, 'char')}]")
        else:
            words.append({"tab": "\t"}.get(name, "\n"))
    return "".join(words)


def _shown_text(element: Any) -> str:
    text: str = element.text or ""
    return text if _attribute(element, "space") == "preserve" else text.strip(" \t\r\n")


def _digest(element: Any) -> str:
    parts = []
    for inner in element.iter():
        if not isinstance(inner.tag, str):
            continue
        attributes = sorted(
            (key.split("}")[-1], value)
            for key, value in inner.attrib.items()
            if not key.split("}")[-1].startswith(_TRACES)
        )
        parts.append(f"{inner.tag.split('}')[-1]}{attributes}")
    return hashlib.md5("".join(parts).encode(), usedforsecurity=False).hexdigest()[:12]


def _attribute(element: Any, name: str) -> str:
    """Return the value of an attribute in any namespace."""
    for key, value in element.attrib.items():
        if key.split("}")[-1] == name:
            return str(value)
    return ""
