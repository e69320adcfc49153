"""Any well-formed XML of a sheet in the plain form that the compiled loops know.

Prefixes of the main namespace, single quotes, comments, CDATA, other encodings, and places that
are left out: all are allowed (XML 1.0; ECMA-376 part 1, 18.3.1.4), and few programs write them.
"""

from collections.abc import Iterable, Iterator
from xml.parsers import expat
from xml.sax.saxutils import escape

from lighten.formats.xlsx.cells.tokens import COLUMNS
from lighten.model.errors import UnreadableFileError
from lighten.model.sheet_facts import column_letters

__all__ = ["as_plain"]

_QUOTES = {'"': "&quot;", "\t": "&#9;", "\n": "&#10;", "\r": "&#13;"}
_FLUSH_AT = 4_000


def as_plain(chunks: Iterable[bytes], shown_as: str) -> Iterator[bytes]:
    """Return the sheet in plain form. Raises: UnreadableFileError if malformed or with entities."""
    writer = _Writer()
    parser = expat.ParserCreate()
    parser.buffer_text = True
    parser.ordered_attributes = True
    parser.StartElementHandler = writer.start
    parser.EndElementHandler = writer.end
    parser.CharacterDataHandler = writer.text
    parser.EntityDeclHandler = writer.refuse
    try:
        for chunk in chunks:
            parser.Parse(chunk, False)
            if len(writer.out) > _FLUSH_AT:
                yield writer.flushed()
        parser.Parse(b"", True)
    except (expat.ExpatError, ValueError) as error:
        raise UnreadableFileError(
            f"{shown_as}: cannot be read ({error}). Open the file in the program it came from and "
            "save it again, and try that file."
        ) from error
    yield writer.flushed()


class _Writer:
    """out: what is written so far, in pieces."""

    def __init__(self) -> None:
        self.out = ['<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n']
        self._prefix: str | None = None
        self._row = self._column = 0
        self._is_open = False

    def flushed(self) -> bytes:
        whole = "".join(self.out)
        self.out.clear()
        return whole.encode()

    def start(self, name: str, pairs: list[str]) -> None:
        self._close_tag()
        attributes = dict(zip(pairs[::2], pairs[1::2], strict=True))
        if self._prefix is None:
            self._prefix = name.rpartition(":")[0]
            if self._prefix:
                attributes["xmlns"] = attributes.pop(f"xmlns:{self._prefix}", "")
        name = self._plain(name)
        if name == "row":
            row_number = attributes.setdefault("r", str(self._row + 1))
            self._row = int(row_number) if row_number.isdecimal() else self._row
            self._column = 0
        elif name == "c":
            following = f"{column_letters(self._column + 1)}{self._row}"
            self._column = _column_of(attributes.setdefault("r", following))
        shown = "".join(f' {key}="{escape(value, _QUOTES)}"' for key, value in attributes.items())
        self.out.append(f"<{name}{shown}")
        self._is_open = True

    def end(self, name: str) -> None:
        if self._is_open:
            self.out.append("/>")
            self._is_open = False
        else:
            self.out.append(f"</{self._plain(name)}>")

    def text(self, data: str) -> None:
        self._close_tag()
        self.out.append(escape(data))

    def refuse(self, *_: object) -> None:
        raise ValueError("it declares entities, which office files may not")

    def _plain(self, name: str) -> str:
        return name.removeprefix(f"{self._prefix}:") if self._prefix else name

    def _close_tag(self) -> None:
        if self._is_open:
            self.out.append(">")
            self._is_open = False


def _column_of(place: str) -> int:
    """Return the column of a cell reference; the last column if malformed or beyond it."""
    column = 0
    for letter in place.rstrip("0123456789"):
        if not "A" <= letter <= "Z" or column > COLUMNS:
            return COLUMNS
        column = column * 26 + ord(letter) - 64
    return column
