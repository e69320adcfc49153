"""Glyphs that readers reach from the codes of a font, compared between two files of it.

Readers look a code up in different ways: through each cmap subtable, through glyph names, or by
glyph number (ISO 32000-2, 9.6.5.4 and 9.7.4). Both files are read by FreeType, which had no part
in writing either of them.
"""

import ctypes
from collections.abc import Iterator
from typing import Any

import numpy as np

from lighten.formats.pdf.fonts.font_use import FontUse, glyph_names_of

__all__ = ["changed_route"]

# Code ranges that a (3, 0) subtable may use (ISO 32000-2, 9.6.5.4).
SYMBOL_PLANES = (0xF000, 0xF100, 0xF200)
# Rounding to whole font units, as CFF and TrueType outlines ask for.
_ROUNDING_UNITS = 1.0
# A glyph drawn at that size may differ by as much, in the mean of 255: outlines that were closed
# or curved in another way, but enclose the same area.
_DRAWN_PX, _MOST_DRAWN_DIFFERENCE = 64, 2.0

# A way to look a glyph up, and the number of the glyph that it leads to.
Routes = dict[tuple[object, ...], int]


def changed_route(before: bytes, after: bytes, uses: tuple[FontUse, ...]) -> str:
    """Name the first route that leads to another glyph in `after`; "" where none does.

    before, after: TrueType, Type 1 or bare CFF files. A file that FreeType cannot open has no
    routes, so that one which can no longer be opened has lost all of them.
    """
    if before == after:
        return ""
    faces = _Face(before), _Face(after)
    units = [face.units for face in faces]
    if None not in units and units[0] != units[1]:
        return f"its {units[0]} units an em became {units[1]}"
    for use in uses:
        kept = faces[1].routes(use)
        for route, glyph in faces[0].routes(use).items():
            if route not in kept:
                return f"{_words(route)} is gone"
            if not _is_same(faces, (glyph, kept[route])):
                return f"{_words(route)} leads to another glyph"
    return ""


def _words(route: tuple[object, ...]) -> str:
    return " ".join(str(step) for step in route)


class _Face:
    """A font file opened by FreeType."""

    def __init__(self, data: bytes) -> None:
        import freetype

        try:
            self._face: Any = freetype.Face.from_bytes(data)
        except freetype.FT_Exception:
            self._face = None
        self._outlines: dict[int, Any] = {}

    @property
    def units(self) -> int | None:
        """Return the units an em, by the font matrix where it has one; None if unreadable."""
        return None if self._face is None else int(self._face.units_per_EM)

    def routes(self, use: FontUse) -> Routes:
        """Return every route from the codes of `use` that leads to a glyph."""
        if self._face is None:
            return {}
        if use.is_composite:
            return {
                ("CID", cid): glyph
                for cid in use.codes
                if 0 < (glyph := use.glyph_of(cid)) < self._face.num_glyphs
                or (self._is_cid_keyed and glyph > 0 and self.outline(glyph) is not None)
            }
        routes: Routes = dict(self._named(use))
        for charmap in self._face.charmaps:
            self._face.set_charmap(charmap)
            platform, encoding = charmap.platform_id, charmap.encoding_id
            is_built_in = platform == _ADOBE and encoding in _BUILT_IN
            table = "built-in encoding" if is_built_in else f"cmap ({platform}, {encoding})"
            for code in _looked_up(use):
                if glyph := self._face.get_char_index(code):
                    routes[table, code] = glyph
        if not self._face.charmaps:
            routes |= {
                ("glyph", code): code for code in use.codes if 0 < code < self._face.num_glyphs
            }
        return routes

    @property
    def _is_cid_keyed(self) -> bool:
        return bool(self._face.face_flags & _CID_KEYED)

    def _named(self, use: FontUse) -> Iterator[tuple[tuple[object, ...], int]]:
        if self._face.has_glyph_names:
            for code in sorted(use.codes):
                for name in sorted(glyph_names_of(code, use)):
                    if glyph := self._face.get_name_index(name.encode("latin-1", "replace")):
                        yield ("name", name), glyph

    def outline(self, glyph: int) -> Any:
        """Return (advance, points, tags, contour ends) in font units; None if it has no glyph."""
        if glyph not in self._outlines:
            self._outlines[glyph] = self._load(glyph)
        return self._outlines[glyph]

    def _load(self, glyph: int) -> Any:
        import freetype

        try:
            self._face.load_glyph(glyph, freetype.FT_LOAD_NO_SCALE | freetype.FT_LOAD_NO_HINTING)
        except freetype.FT_Exception:
            return None
        slot = self._face.glyph
        # The library's own lists take a call for each point.
        outline = slot.outline._FT_Outline
        points = ctypes.cast(outline.points, ctypes.POINTER(ctypes.c_long))
        return (
            slot.metrics.horiAdvance,
            np.array(points[: 2 * outline.n_points], np.float64).reshape(-1, 2),
            outline.tags[: outline.n_points],
            tuple(outline.contours[: outline.n_contours]),
        )

    def drawn(self, glyph: int) -> Any:
        """Return the glyph drawn without hints: its offset, and (height, width) uint8."""
        import freetype

        self._face.set_pixel_sizes(0, _DRAWN_PX)
        self._face.load_glyph(glyph, freetype.FT_LOAD_RENDER | freetype.FT_LOAD_NO_HINTING)
        slot, bitmap = self._face.glyph, self._face.glyph.bitmap
        rows = np.array(bitmap.buffer, np.uint8).reshape(bitmap.rows, bitmap.pitch)
        return (slot.bitmap_left, slot.bitmap_top), rows[:, : bitmap.width]


# Charmaps that FreeType makes of a Type 1 or CFF font's own encoding, which is one and the same
# whether it is written out or named: standard, expert, custom and Latin-1 (TT_ADOBE_ID).
_ADOBE, _BUILT_IN = 7, (0, 1, 2, 3)
# FT_FACE_FLAG_CID_KEYED: glyphs of bare CFF are then loaded by their CIDs.
_CID_KEYED = 1 << 12


def _looked_up(use: FontUse) -> set[int]:
    """Return all values under which a reader may look the codes up in a cmap subtable."""
    from fontTools.agl import toUnicode
    from fontTools.encodings.MacRoman import MacRoman

    codes = {*use.codes, *(plane + code for plane in SYMBOL_PLANES for code in use.codes)}
    for code in use.codes:
        for name in glyph_names_of(code, use):
            codes.update(ord(letter) for letter in toUnicode(name))
            if name in MacRoman:
                codes.add(MacRoman.index(name))
    return codes


def _is_same(faces: tuple[_Face, _Face], glyphs: tuple[int, int]) -> bool:
    """Compare advance and outline of a glyph of each file."""
    one, other = (face.outline(glyph) for face, glyph in zip(faces, glyphs, strict=True))
    if one is None or other is None:
        return one is other
    if abs(one[0] - other[0]) > _ROUNDING_UNITS:
        return False
    if one[1].shape == other[1].shape and one[2:] == other[2:]:
        off = np.abs(one[1] - other[1])
        if not off.size or off.max() <= _ROUNDING_UNITS:
            return True
    return _are_drawn_alike(*(face.drawn(glyph) for face, glyph in zip(faces, glyphs, strict=True)))


def _are_drawn_alike(one: Any, other: Any) -> bool:
    """Compare two drawn glyphs, each with its offset, over the box of both."""
    left = min(offset[0] for offset, _ in (one, other))
    top = max(offset[1] for offset, _ in (one, other))
    width = max(offset[0] - left + pixels.shape[1] for offset, pixels in (one, other))
    height = max(top - offset[1] + pixels.shape[0] for offset, pixels in (one, other))
    drawn = np.zeros((2, height, width), np.int16)
    for canvas, (offset, pixels) in zip(drawn, (one, other), strict=True):
        row, column = top - offset[1], offset[0] - left
        canvas[row : row + pixels.shape[0], column : column + pixels.shape[1]] = pixels
    off = np.abs(drawn[0] - drawn[1])
    return not off.size or bool(off.mean() <= _MOST_DRAWN_DIFFERENCE)
