"""An OpenDocument text through a reader that had no part in writing it.

Source: ISO/IEC 26300 part 1, clauses 5 to 7 (text) and 16 (styles).
"""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from lighten.containers.odf.reading import OdfReading, attribute_value, digest_of_style
from lighten.containers.zip_reading import name_of, open_zip
from lighten.model.source import Source

__all__ = ["OdtReading", "read_odt"]

_COUNTED = {
    "table": "tables",
    "a": "links",
    "bookmark": "bookmarks",
    "bookmark-start": "bookmarks",
    "annotation": "comments",
    "changed-region": "tracked changes",
    "frame": "frames",
}
# What stands for words that readers fill in.
_FIELDS = (
    *("date", "time", "page-number", "page-count", "author-name", "title", "subject", "chapter"),
    *("sequence", "bookmark-ref", "reference-ref", "note-ref", "variable-set", "variable-get"),
    *("user-field-get", "text-input", "database-display", "conditional-text", "file-name"),
)


class OdtReading(OdfReading):
    """Its promises are the words, paragraph by paragraph, and all that hangs on them."""

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        """See `Reading`."""
        features: dict[str, list[str]] = {
            "paragraphs": [],
            "headers and other text": [],
            "paragraph formatting": [],
            "notes": [],
            "fields": [],
            **{kind: [] for kind in _COUNTED.values()},
        }
        self._look_through("content.xml", "paragraphs", features)
        self._look_through("styles.xml", "headers and other text", features)
        return {
            **{kind: tuple(entries) for kind, entries in features.items()},
            "styles in use": tuple(self._styles_in_use()),
            "embedded files": tuple(self.embedded()),
            "broken references": self.dangling(),
        }

    def _look_through(self, member: str, kind: str, features: dict[str, list[str]]) -> None:
        if member not in self.members:
            return
        root = self.tree(member)
        automatic = self.automatic(member)
        for part in root.iterchildren("{*}body", "{*}master-styles"):
            for element in part.iter():
                name = name_of(element)
                is_text = name in ("p", "h") and element.tag.split("}")[0].endswith("text:1.0")
                if is_text and next(element.iterancestors("{*}annotation"), None) is None:
                    features[kind].append(_words(element))
                    features["paragraph formatting"].append(_looks(element, automatic))
                elif name == "note":
                    features["notes"].append("".join(element.itertext()))
                elif name in _FIELDS:
                    features["fields"].append(f"{name} {''.join(element.itertext())}")
                elif name in _COUNTED:
                    features[_COUNTED[name]].append(_described(element))

    def _styles_in_use(self) -> Iterator[str]:
        """Return the content of each common style that something names."""
        if "styles.xml" not in self.members:
            return
        styles = self.tree("styles.xml").find("{*}styles")
        common = (
            {}
            if styles is None
            else {
                attribute_value(style, "name"): style
                for style in styles
                if isinstance(style.tag, str)
            }
        )
        named: set[str] = set()
        for member in ("content.xml", "styles.xml"):
            own: set[str] = set()
            for part in self.tree(member).iterchildren("{*}body", "{*}master-styles"):
                own |= _style_names(part)
            named |= own | self._parents(member, own)
        for name in sorted(named & common.keys()):
            yield f"{name} {digest_of_style(common[name])}"

    def _parents(self, member: str, named: set[str]) -> set[str]:
        """Return the styles that automatic styles of those names rest on."""
        automatic = self.tree(member).find("{*}automatic-styles")
        used = [
            style
            for style in (() if automatic is None else automatic)
            if attribute_value(style, "name") in named
        ]
        return {attribute_value(style, "parent-style-name") for style in used} - {""}


@contextmanager
def read_odt(source: Source) -> Iterator[OdtReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield OdtReading(file, source.name)


def _words(paragraph: Any) -> str:
    """Return the words as readers show them (6.1: white space collapses, but for marked spaces)."""
    words: list[str] = []

    def walk(element: Any) -> None:
        name = name_of(element)
        if name == "s":
            words.append(" " * int(attribute_value(element, "c") or 1))
        elif name in ("tab", "line-break"):
            words.append("\t" if name == "tab" else "\n")
        words.append((element.text or "") if name else "")
        for child in element:
            if name_of(child) != "annotation":
                walk(child)
            words.append(child.tail or "")

    walk(paragraph)
    return "".join(words)


def _looks(paragraph: Any, automatic: dict[str, str]) -> str:
    """Return the formatting of the runs of a paragraph, equal neighbours joined, without their
    text.
    """
    pieces: list[tuple[tuple[str, ...], int]] = []

    def add(looks: tuple[str, ...], text: str | None) -> None:
        if not text:
            return
        if pieces and pieces[-1][0] == looks:
            pieces[-1] = (looks, pieces[-1][1] + len(text))
        else:
            pieces.append((looks, len(text)))

    def walk(element: Any, looks: tuple[str, ...]) -> None:
        add(looks, element.text)
        for child in element:
            name = name_of(child)
            style = attribute_value(child, "style-name") if name == "span" else ""
            look = automatic.get(style, style)
            if name != "annotation":
                walk(child, (*looks, look) if look and look != _NOTHING else looks)
            add(looks, child.tail)

    walk(paragraph, ())
    own = attribute_value(paragraph, "style-name")
    return f"{automatic.get(own, own)} {pieces}"


def _style_names(part: Any) -> set[str]:
    return {
        value
        for element in part.iter()
        if isinstance(element.tag, str)
        for key, value in element.attrib.items()
        if key.endswith("style-name")
    }


def _described(element: Any) -> str:
    """Describe an element for comparison, without the names of automatic styles."""
    kept = ("href", "name", "width", "height", "id", "region-id")
    entries = [
        f"{key}={attribute_value(element, key)}" for key in kept if attribute_value(element, key)
    ]
    if name_of(element) == "table":
        rows = list(element.iter("{*}table-row"))
        entries.append(f"{len(rows)} rows {[len(row) for row in rows]}")
    if name_of(element) in ("annotation", "changed-region"):
        entries.append("".join(element.itertext()))
    return " ".join(entries)


_NOTHING = hashlib.md5(b"style[('family', 'text')]", usedforsecurity=False).hexdigest()[:12]
