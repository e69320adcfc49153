"""Embedded fonts that readers have substitutes for."""

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of, whole_number

__all__ = ["fonts_to_spare"]

_FILE_KEYS = ("/FontFile", "/FontFile2", "/FontFile3")
_SIMPLE = ("/Type1", "/MMType1", "/TrueType")
# Encodings by which each code stands for a letter (ISO 32000-1, annex D).
_NAMED_ENCODINGS = ("/WinAnsiEncoding", "/MacRomanEncoding", "/StandardEncoding")
# Bits of a font descriptor's flags (ISO 32000-1, table 123).
_SYMBOLIC, _NONSYMBOLIC = 1 << 2, 1 << 5


def fonts_to_spare(pdf: pikepdf.Pdf) -> set[ObjectId]:
    """Return font files whose every code a standard maps to a letter.

    Not symbols, nor fonts whose codes nobody could read without the file, as composite ones by
    glyph numbers.
    """
    spared: set[ObjectId] = set()
    needed: set[ObjectId] = set()
    for value in pdf.objects:
        if not isinstance(value, pikepdf.Dictionary) or value.get("/Type") != "/Font":
            continue
        descriptor = dictionary_of(value.get("/FontDescriptor"))
        for key in _FILE_KEYS:
            file = descriptor.get(key)
            if isinstance(file, pikepdf.Stream):
                is_plain = _is_of_letters(descriptor) and _is_by_names(value)
                (spared if is_plain else needed).add(file.objgen)
    return spared - needed


def _is_of_letters(descriptor: pikepdf.Dictionary) -> bool:
    flags = whole_number(descriptor.get("/Flags"))
    return bool(flags & _NONSYMBOLIC) and not flags & _SYMBOLIC


def _is_by_names(font: pikepdf.Dictionary) -> bool:
    """Return whether the font's codes stand for standard letter names."""
    from fontTools.agl import AGL2UV

    encoding = font.get("/Encoding")
    if text_of(font.get("/Subtype")) not in _SIMPLE:
        return False
    if isinstance(encoding, pikepdf.Name):
        return text_of(encoding) in _NAMED_ENCODINGS
    if not isinstance(encoding, pikepdf.Dictionary):
        return False
    names = [
        text_of(entry).removeprefix("/")
        for entry in array_of(encoding.get("/Differences"))
        if isinstance(entry, pikepdf.Name)
    ]
    is_based = text_of(encoding.get("/BaseEncoding", "/StandardEncoding")) in _NAMED_ENCODINGS
    return is_based and all(name in AGL2UV or name == ".notdef" for name in names)
