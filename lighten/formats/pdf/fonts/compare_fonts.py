"""Fonts of two PDFs compared: every code shown must reach the same glyph in both files.

Both files are read from disk. Fonts are paired by where they stand, and the codes shown come from
a reading of contents of its own.
"""

from collections.abc import Iterator

import pikepdf

from lighten.formats.pdf.fonts.font_use import FontUse
from lighten.formats.pdf.fonts.glyph_routes import changed_route
from lighten.formats.pdf.fonts.shown_codes import shown_codes
from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of, whole_number

__all__ = ["changed_fonts"]

_FILE_KEYS = ("/FontFile", "/FontFile2", "/FontFile3")
# What places and spaces glyphs besides the file; names of fonts and lists of glyphs may change.
_FONT_KEYS = ("/Encoding", "/Widths", "/FirstChar", "/LastChar", "/ToUnicode")
_CID_FONT_KEYS = ("/W", "/DW", "/W2", "/DW2", "/CIDToGIDMap")
_DEEPEST = 24


def changed_fonts(
    original: pikepdf.Pdf, copy: pikepdf.Pdf, *, may_lack_files: bool
) -> tuple[str, ...]:
    """Name each font of which a shown code draws another glyph in the copy, with the reason.

    may_lack_files: fonts may be no longer embedded, as a person chose. Codes of composite fonts
    are followed where they are CIDs (Identity); where a font cannot be followed, its file must be
    the same.
    """
    pairs = list(_font_pairs(original, copy))
    changed = [(before, after) for before, after in pairs if not _are_same_files(before, after)]
    faults = [
        f"font {_name_of(before)}: its {key[1:]} differs"
        for before, after in pairs
        if (key := _changed_key(before, after))
    ]
    if not changed:
        return tuple(faults)
    strings = shown_codes(original)
    for before, after in changed:
        shown = strings.get(before.objgen, set())
        if fault := _fault(before, after, shown, may_lack_files):
            faults.append(f"font {_name_of(before)}: {fault}")
    return tuple(dict.fromkeys(faults))


def _fault(
    before: pikepdf.Dictionary, after: pikepdf.Dictionary, strings: set[bytes], may_lack: bool
) -> str:
    """Return what differs between the files of two fonts for the strings shown; or ""."""
    one, other = _file_of(before), _file_of(after)
    if one is None or not any(strings):
        return ""
    if other is None:
        return "" if may_lack else "it is no longer embedded"
    use = _use_of(before, strings)
    if use is None:
        return "its file differs, and its codes cannot be followed"
    return changed_route(one.read_bytes(), other.read_bytes(), (use,))


def _use_of(font: pikepdf.Dictionary, strings: set[bytes]) -> FontUse | None:
    if font.get("/Subtype") != "/Type0":
        codes = frozenset(code for piece in strings for code in piece)
        return FontUse(codes=codes, names=_names(font.get("/Encoding")))
    if text_of(font.get("/Encoding")) not in ("/Identity-H", "/Identity-V"):
        return None
    table = _descriptor_owner(font).get("/CIDToGIDMap")
    return FontUse(
        codes=frozenset(
            int.from_bytes(piece[start : start + 2], "big")
            for piece in strings
            for start in range(0, len(piece), 2)
        ),
        names={},
        is_composite=True,
        glyph_of_cid=table.read_bytes() if isinstance(table, pikepdf.Stream) else None,
    )


def _names(encoding: object) -> dict[int, str]:
    """Return the names that /Differences gives to codes (ISO 32000-2, 9.6.5)."""
    names: dict[int, str] = {}
    code = 0
    for entry in array_of(dictionary_of(encoding).get("/Differences")):
        if isinstance(entry, pikepdf.Name):
            names[code] = text_of(entry).removeprefix("/")
            code += 1
        else:
            code = whole_number(entry)
    return names


def _descriptor_owner(font: pikepdf.Dictionary) -> pikepdf.Dictionary:
    """Return the font that holds the descriptor: of a composite one, that below it."""
    below = array_of(font.get("/DescendantFonts"))
    return dictionary_of(below[0]) if below else font


def _file_of(font: pikepdf.Dictionary) -> pikepdf.Stream | None:
    descriptor = dictionary_of(_descriptor_owner(font).get("/FontDescriptor"))
    files = (descriptor.get(key) for key in _FILE_KEYS)
    return next((file for file in files if isinstance(file, pikepdf.Stream)), None)


def _are_same_files(before: pikepdf.Dictionary, after: pikepdf.Dictionary) -> bool:
    one, other = _file_of(before), _file_of(after)
    return one is other if one is None or other is None else _same_bytes(one, other)


def _same_bytes(one: pikepdf.Stream, other: pikepdf.Stream) -> bool:
    try:
        return one.read_bytes() == other.read_bytes()
    except pikepdf.PdfError:
        return one.read_raw_bytes() == other.read_raw_bytes()


def _changed_key(before: pikepdf.Dictionary, after: pikepdf.Dictionary) -> str:
    """Return the first entry that places glyphs and differs; or ""."""
    inner = _descriptor_owner(before), _descriptor_owner(after)
    for keys, (one, other) in ((_FONT_KEYS, (before, after)), (_CID_FONT_KEYS, inner)):
        for key in keys:
            if not _is_same_value(one.get(key), other.get(key), 0):
                return key
    return ""


def _is_same_value(one: object, other: object, depth: int) -> bool:
    if isinstance(one, pikepdf.Stream) and isinstance(other, pikepdf.Stream):
        return _same_bytes(one, other)
    if isinstance(one, pikepdf.Dictionary) and isinstance(other, pikepdf.Dictionary):
        return (
            depth < _DEEPEST
            and one.keys() == other.keys()
            and all(_is_same_value(one[key], other[key], depth + 1) for key in one.keys())  # noqa: SIM118 - pikepdf's
        )
    if isinstance(one, pikepdf.Array) and isinstance(other, pikepdf.Array):
        return len(one) == len(other) and all(
            _is_same_value(a, b, depth + 1) for a, b in zip(one, other, strict=True)
        )
    return bool(one == other)


def _name_of(font: pikepdf.Dictionary) -> str:
    return text_of(font.get("/BaseFont", "without a name")).removeprefix("/")


FontPair = tuple[pikepdf.Dictionary, pikepdf.Dictionary]


def _font_pairs(original: pikepdf.Pdf, copy: pikepdf.Pdf) -> Iterator[FontPair]:
    """Yield the fonts of both files that have the same name at the same place."""
    walk = _PairWalk()
    for before, after in zip(original.pages, copy.pages, strict=False):
        yield from walk.resources(before.resources, after.resources, 0)
        notes = (array_of(page.obj.get("/Annots")) for page in (before, after))
        for one, other in zip(*notes, strict=False):
            states = [dictionary_of(dictionary_of(note).get("/AP")) for note in (one, other)]
            yield from walk.streams(states[0], states[1], 0)


class _PairWalk:
    def __init__(self) -> None:
        self._done: set[tuple[ObjectId, ObjectId]] = set()

    def _is_new(self, one: pikepdf.Object, other: pikepdf.Object) -> bool:
        pair = one.objgen, other.objgen
        if one.is_indirect and other.is_indirect:
            if pair in self._done:
                return False
            self._done.add(pair)
        return True

    def resources(self, before: object, after: object, depth: int) -> Iterator[FontPair]:
        one, other = dictionary_of(before), dictionary_of(after)
        if depth > _DEEPEST or not self._is_new(one, other):
            return
        fonts = dictionary_of(one.get("/Font")), dictionary_of(other.get("/Font"))
        for name in fonts[0].keys() & fonts[1].keys():
            first, second = dictionary_of(fonts[0][name]), dictionary_of(fonts[1][name])
            if self._is_new(first, second):
                yield first, second
                inner = first.get("/Resources"), second.get("/Resources")
                yield from self.resources(*inner, depth + 1)
        for key in ("/XObject", "/Pattern"):
            held = dictionary_of(one.get(key)), dictionary_of(other.get(key))
            yield from self.streams(*held, depth)
        states = dictionary_of(one.get("/ExtGState")), dictionary_of(other.get("/ExtGState"))
        for name in states[0].keys() & states[1].keys():
            masks = [dictionary_of(dictionary_of(state[name]).get("/SMask")) for state in states]
            yield from self.streams(masks[0], masks[1], depth)

    def streams(
        self, before: pikepdf.Dictionary, after: pikepdf.Dictionary, depth: int
    ) -> Iterator[FontPair]:
        """Follow forms, patterns and masks, or the states of an appearance, of the same name."""
        if depth > _DEEPEST:
            return
        for name in before.keys() & after.keys():
            one, other = before[name], after[name]
            if isinstance(one, pikepdf.Stream) and isinstance(other, pikepdf.Stream):
                if self._is_new(one, other):
                    inner = one.get("/Resources"), other.get("/Resources")
                    yield from self.resources(*inner, depth + 1)
            elif isinstance(one, pikepdf.Dictionary) and isinstance(other, pikepdf.Dictionary):
                yield from self.streams(one, other, depth + 1)
