"""Character codes that a PDF shows in each font: a second reading of its contents, for proofs.

Contents are followed by one compiled pass over their bytes (ISO 32000-2, 7.8.2), not by the parser
that the maker of a copy relies on.
"""

from collections import defaultdict

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper
from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of

__all__ = ["scan_text", "shown_codes"]

Bytes = NDArray[np.uint8]

_DEEPEST_NESTING = 24
_BLANK, _DELIMITER, _REGULAR = 0, 1, 2
_KINDS = np.full(256, _REGULAR, np.uint8)
_KINDS[[0, 9, 10, 12, 13, 32]] = _BLANK
_KINDS[list(b"()<>[]{}/%")] = _DELIMITER
# What a row of the scan is.
_SET_FONT, _SHOW, _DRAW, _SET_STATE, _SAVE, _RESTORE = range(6)


def shown_codes(pdf: pikepdf.Pdf) -> dict[ObjectId, set[bytes]]:
    """Return all strings shown in each font, by the font's object.

    Through pages, forms, patterns, drawn fonts, masks and the appearances of annotations.
    Raises: pikepdf.PdfError for contents that cannot be decoded.
    """
    walk = _Walk()
    for page in pdf.pages:
        contents = page.obj.get("/Contents")
        streams = [contents] if isinstance(contents, pikepdf.Stream) else array_of(contents)
        text = b"\n".join(one.read_bytes() for one in streams if isinstance(one, pikepdf.Stream))
        walk.read(text, page.obj.get("/Resources", page.resources), None, 0)
        for annotation in array_of(page.obj.get("/Annots")):
            walk.read_appearances(dictionary_of(annotation).get("/AP"), 0)
    return walk.strings


class _Walk:
    def __init__(self) -> None:
        self.strings: dict[ObjectId, set[bytes]] = defaultdict(set)
        self._done: set[object] = set()

    def read_appearances(self, appearances: object, depth: int) -> None:
        for value in dictionary_of(appearances).values() if depth < _DEEPEST_NESTING else ():
            if isinstance(value, pikepdf.Stream):
                self._read_stream(value, value.get("/Resources"), None, 0)
            else:
                self.read_appearances(value, depth + 1)

    def _read_stream(
        self, stream: pikepdf.Stream, resources: object, font: object, depth: int
    ) -> None:
        key = stream.objgen, _id(resources), _id(font)
        if depth <= _DEEPEST_NESTING and key not in self._done:
            self._done.add(key)
            self.read(stream.read_bytes(), resources, font, depth)

    def read(self, text: bytes, resources: object, font: object, depth: int) -> None:
        """Follow a content stream. font: the one in force where it begins."""
        names = dictionary_of(resources)
        fonts, objects = (dictionary_of(names.get(key)) for key in ("/Font", "/XObject"))
        states = dictionary_of(names.get("/ExtGState"))
        rows, shown = scan_text(text)
        saved: list[object] = []
        for what, start, end in rows:
            name = "" if what == _SHOW else text[start:end].decode("utf-8", "surrogateescape")
            if what == _SHOW:
                if isinstance(font, pikepdf.Object):
                    self.strings[_id(font)].add(shown[start:end].tobytes())
            elif what == _SAVE:
                saved.append(font)
            elif what == _RESTORE:
                font = saved.pop() if saved else font
            elif what == _SET_FONT:
                font = fonts.get(name)
            elif what == _DRAW:
                form = objects.get(name)
                if isinstance(form, pikepdf.Stream) and form.get("/Subtype") == "/Form":
                    self._read_stream(form, form.get("/Resources", resources), font, depth + 1)
            else:
                state = dictionary_of(states.get(name))
                own = array_of(state.get("/Font"))
                font = own[0] if own else font
                mask = dictionary_of(state.get("/SMask")).get("/G")
                if isinstance(mask, pikepdf.Stream):
                    self._read_stream(mask, mask.get("/Resources", resources), font, depth + 1)
        self._read_drawn(names, depth)

    def _read_drawn(self, resources: pikepdf.Dictionary, depth: int) -> None:
        """Follow patterns, and the glyphs of fonts that are drawn."""
        for pattern in dictionary_of(resources.get("/Pattern")).values():
            if isinstance(pattern, pikepdf.Stream):
                self._read_stream(pattern, pattern.get("/Resources"), None, depth + 1)
        for font in dictionary_of(resources.get("/Font")).values():
            for glyph in dictionary_of(dictionary_of(font).get("/CharProcs")).values():
                if isinstance(glyph, pikepdf.Stream):
                    inner = font.get("/Resources", resources)
                    self._read_stream(glyph, inner, None, depth + 1)


def _id(value: object) -> ObjectId:
    return value.objgen if isinstance(value, pikepdf.Object) else (0, 0)


def scan_text(text: bytes) -> tuple[list[tuple[int, int, int]], Bytes]:
    """Find what shows text in a content stream, and what sets fonts for it.

    Returns rows of (what, start, end), and the bytes of all strings. Of shown strings, start and
    end are places in those bytes; else they are those of the operand's name in `text`.
    """
    data = np.frombuffer(text + b"\n\n\n", np.uint8)
    strings = np.empty(data.size, np.uint8)
    count = np.zeros(2, np.int64)
    most = max(1024, len(text) // 8)
    while True:
        rows = np.empty((most, 3), np.int64)
        _scan(data, _KINDS, rows, strings, count)
        if count[0] >= 0:
            found = [(int(what), int(start), int(end)) for what, start, end in rows[: count[0]]]
            return found, strings
        most *= 4


@jit_helper
def _picture_end(data, kinds, place):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Return the place behind the EI of an inline picture whose data begin at `place`."""
    size = data.size
    while place + 2 < size:
        is_end = data[place] == 69 and data[place + 1] == 73
        if is_end and kinds[data[place - 1]] == 0 and kinds[data[place + 2]] == 0:
            # Not a pair of bytes of the picture: what follows is text.
            is_text = True
            for ahead in range(place + 2, min(size, place + 22)):
                byte = data[ahead]
                if byte > 126 or (byte < 32 and kinds[byte] != 0):
                    is_text = False
            if is_text:
                return place + 2
        place += 1
    return size


@jit_helper
def _string_end(data, place):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Return the place behind a string whose parenthesis opens at `place`."""
    depth = 0
    size = data.size
    while place < size:
        byte = data[place]
        if byte == 92:
            place += 1
        elif byte == 40:
            depth += 1
        elif byte == 41:
            depth -= 1
            if depth == 0:
                return place + 1
        place += 1
    return size


@jit_helper
def _read_string(data, place, end, strings, filled):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Write the bytes of a literal string (7.3.4.2) to `strings`; return how many are filled."""
    at = place + 1
    while at < end - 1:
        byte = int(data[at])
        if byte == 92:
            at += 1
            byte = int(data[at])
            if byte >= 48 and byte <= 55:
                value = 0
                digits = 0
                while digits < 3 and data[at] >= 48 and data[at] <= 55:
                    value = value * 8 + int(data[at]) - 48
                    at += 1
                    digits += 1
                strings[filled] = value & 255
                filled += 1
                continue
            if byte == 13 or byte == 10:
                if byte == 13 and data[at + 1] == 10:
                    at += 1
                at += 1
                continue
            if byte == 110:
                byte = 10
            elif byte == 114:
                byte = 13
            elif byte == 116:
                byte = 9
            elif byte == 98:
                byte = 8
            elif byte == 102:
                byte = 12
        strings[filled] = byte
        filled += 1
        at += 1
    return filled


@jit_helper
def _read_hexadecimal(data, place, end, strings, filled):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Write the bytes of a hexadecimal string (7.3.4.3) to `strings`; return as `_read_string`."""
    digits = 0
    value = 0
    for at in range(place + 1, end):
        digit = int(data[at])
        found = -1
        if digit >= 48 and digit <= 57:
            found = digit - 48
        elif digit >= 65 and digit <= 70:
            found = digit - 55
        elif digit >= 97 and digit <= 102:
            found = digit - 87
        if found >= 0:
            value = value * 16 + found
            digits += 1
            if digits == 2:
                strings[filled] = value
                filled += 1
                digits = 0
                value = 0
    if digits == 1:
        strings[filled] = value * 16
        filled += 1
    return filled


@jit_helper
def _meaning(operator):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Return what a row of an operator is, by its letters as a little-endian number; or -1."""
    if operator == 26196:  # Tf
        return 0
    if operator == 27220 or operator == 19028 or operator == 39 or operator == 34:  # Tj TJ ' "
        return 1
    if operator == 28484:  # Do
        return 2
    if operator == 29543:  # gs
        return 3
    if operator == 113:  # q
        return 4
    if operator == 81:  # Q
        return 5
    return -1


@compiled
def _scan(
    data: Bytes, kinds: Bytes, rows: NDArray[np.int64], strings: Bytes, count: NDArray[np.int64]
) -> None:  # pragma: no cover - compiled
    """Fill `rows` and `strings`; count: how many of each, -1 where `rows` is too short."""
    size = data.size
    place = 0
    found = 0
    filled = 0
    name_start = 0
    name_end = 0
    shown_start = 0
    while place < size:
        byte = data[place]
        kind = kinds[byte]
        if kind == 0:
            place += 1
            continue
        start = place
        if kind == 1:
            if byte == 40:
                place = _string_end(data, place)
                filled = _read_string(data, start, place, strings, filled)
            elif byte == 37:
                while place < size and data[place] != 10 and data[place] != 13:
                    place += 1
            elif byte == 47:
                place += 1
                while place < size and kinds[data[place]] == 2:
                    place += 1
                name_start = start
                name_end = place
            elif byte == 60 and place + 1 < size and data[place + 1] != 60:
                while place < size and data[place] != 62:
                    place += 1
                filled = _read_hexadecimal(data, start, place, strings, filled)
                place += 1
            elif (byte == 60 or byte == 62) and place + 1 < size:
                place += 2
            else:
                place += 1
            continue
        operator = 0
        length = 0
        while place < size and kinds[data[place]] == 2:
            if length < 4:
                operator |= int(data[place]) << (8 * length)
            length += 1
            place += 1
        is_number = (byte >= 48 and byte <= 57) or byte == 45 or byte == 46 or byte == 43
        if is_number or length > 3:
            continue
        if operator == 17481:  # ID
            place = _picture_end(data, kinds, place + 1)
            filled = shown_start
            continue
        if found + 2 >= rows.shape[0]:
            count[0] = -1
            return
        what = _meaning(operator)
        if what == 1:
            rows[found, 0] = 1
            rows[found, 1] = shown_start
            rows[found, 2] = filled
            found += 1
            shown_start = filled
        else:
            filled = shown_start
            if what >= 0:
                rows[found, 0] = what
                rows[found, 1] = name_start
                rows[found, 2] = name_end
                found += 1
    count[0] = found
    count[1] = filled
