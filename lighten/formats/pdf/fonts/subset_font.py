"""Font files with only the letters that are used; runs in a worker process.

Source: ISO 32000-1, 9.6 and 9.9, for which tables and names a reader goes by.
"""

import io
import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from lighten.formats.pdf.fonts.cff import compile_cff, parse_cff
from lighten.formats.pdf.fonts.font_errors import font_errors
from lighten.formats.pdf.fonts.font_use import FontUse, glyph_names_of
from lighten.formats.pdf.fonts.glyph_routes import SYMBOL_PLANES, changed_route
from lighten.formats.pdf.fonts.type1 import NOTDEF, Type1Font, read_type1
from lighten.model.kinds import FontCoding

__all__ = ["FontJob", "subset_font"]

_log = logging.getLogger(__name__)
# Readers of a PDF have no use for these (ISO 32000-1, 9.9).
_IDLE_TABLES = ["BASE", "DSIG", "GDEF", "GPOS", "GSUB", "JSTF", "kern", "LTSH", "VDMX", "hdmx"]
_IDLE_TABLES += ["name", "meta", "PCLT", "morx", "feat", "FFTM", "EBDT", "EBLC", "EBSC"]
# Nor of these where a font's letters are found by their numbers (the same place).
_FOR_CODES = ["cmap", "post", "OS/2"]


@dataclass(frozen=True, slots=True, kw_only=True)
class FontJob:
    """A font file, and all that use it."""

    data: bytes
    coding: FontCoding
    uses: tuple[FontUse, ...]


def subset_font(job: FontJob) -> bytes | None:
    """Return the file with the glyphs in use, Type 1 as CFF; None if that cannot be done safely.

    A subset in which a code in use reaches another glyph by any route is not safe.
    """
    # The library warns about defects that the file had before, and that readers accept.
    logging.getLogger("fontTools").setLevel(logging.CRITICAL)
    try:
        subset = _SUBSETTERS[job.coding](job) if job.coding in _SUBSETTERS else None
    except font_errors():
        return None
    if subset is None:
        return None
    if route := changed_route(job.data, subset, job.uses):
        _log.info("font left whole: %s", route)
        return None
    return subset


def _subset_truetype(job: FontJob) -> bytes:
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont

    font = TTFont(io.BytesIO(job.data), lazy=True, fontNumber=0, recalcTimestamp=False)
    count = font["maxp"].numGlyphs
    glyphs = {0}
    for use in job.uses:
        glyphs |= (
            set(map(use.glyph_of, use.codes)) if use.is_composite else _simple_glyphs(font, use)
        )
    options = Options()
    options.retain_gids = options.notdef_outline = options.glyph_names = True
    options.legacy_cmap = options.symbol_cmap = True
    options.drop_tables += _IDLE_TABLES
    are_by_number = all(use.is_composite for use in job.uses)
    if are_by_number:
        options.drop_tables += _FOR_CODES
    # A PDF's fonts may lack what the library would complain of.
    options.ignore_missing_glyphs = options.ignore_missing_unicodes = True
    byte_tables = [] if are_by_number else _byte_encoding_tables(font)
    subsetter = Subsetter(options)
    kept = {glyph for glyph in glyphs if glyph < count}
    subsetter.populate(gids=kept)
    subsetter.subset(font)
    if byte_tables:
        _put_back(font, byte_tables, kept)
    out = io.BytesIO()
    font.save(out, reorderTables=False)
    return out.getvalue()


def _byte_encoding_tables(font: Any) -> list[Any]:
    """Return the cmap subtables of format 0, which the library's subsetter always removes."""
    tables = font["cmap"].tables if "cmap" in font else ()
    # Read now: the library reads tables when they are first asked for.
    return [table for table in tables if table.format == 0 and table.cmap]


def _put_back(font: Any, tables: list[Any], kept: set[int]) -> None:
    """Return those cmap subtables to the subset, with the glyphs that are in it."""
    from fontTools.ttLib import newTable

    names = {name for name in font.getGlyphOrder() if font.getGlyphID(name) in kept}
    if "cmap" not in font:
        font["cmap"] = newTable("cmap")
        font["cmap"].tableVersion, font["cmap"].tables = 0, []
    for table in tables:
        table.cmap = {code: name for code, name in table.cmap.items() if name in names}
        font["cmap"].tables.append(table)


def _simple_glyphs(font: Any, use: FontUse) -> set[int]:
    """Every glyph that any reader may come to from the codes: through each table and name."""
    from fontTools.agl import toUnicode
    from fontTools.encodings.MacRoman import MacRoman

    codes = {*use.codes, *(plane + code for plane in SYMBOL_PLANES for code in use.codes)}
    names = {name for code in use.codes for name in glyph_names_of(code, use)}
    for name in names:
        codes.update(ord(letter) for letter in toUnicode(name))
        if name in MacRoman:
            codes.add(MacRoman.index(name))
    glyphs: set[int] = set()
    for table in font["cmap"].tables if "cmap" in font else ():
        glyphs.update(font.getGlyphID(table.cmap[code]) for code in codes if code in table.cmap)
    glyph_ids = font.getReverseGlyphMap() if "post" in font else {}
    glyphs.update(glyph_ids[name] for name in names if name in glyph_ids)
    if "cmap" not in font:
        glyphs.update(use.codes)
    return glyphs


def _subset_cff(job: FontJob) -> bytes:
    from fontTools.cffLib.transforms import remove_unused_subroutines

    fonts = parse_cff(job.data)
    top = fonts[0]
    letters = top.CharStrings
    kept_names = {NOTDEF}
    for use in job.uses:
        kept_names |= _cff_names(top, use)
    kept_names |= _parts_of_accented(letters, kept_names)
    for name in letters.keys():  # noqa: SIM118 - not a dictionary
        if name not in kept_names:
            letters[name].setProgram(["endchar"])
        else:
            letters[name].decompile()
    remove_unused_subroutines(fonts)
    return compile_cff(fonts)


def _cff_names(top: Any, use: FontUse) -> set[str]:
    if use.is_composite:
        if hasattr(top, "ROS"):
            return {f"cid{cid:05d}" for cid in use.codes}
        return {top.charset[cid] for cid in use.codes if cid < len(top.charset)}
    names = {name for code in use.codes for name in glyph_names_of(code, use)}
    own = top.Encoding
    if isinstance(own, list):
        names.update(own[code] for code in use.codes if code < len(own))
    return names


def _parts_of_accented(letters: Any, names: set[str]) -> set[str]:
    """Return base and accent of glyphs composed by "endchar" (Type 2 format, appendix C)."""
    from fontTools.encodings.StandardEncoding import StandardEncoding

    parts: set[str] = set()
    for name in names & set(letters.keys()):
        letters[name].decompile()
        program = letters[name].program
        numbers = program[-5:-1] if program and program[-1] == "endchar" else []
        if len(numbers) == 4 and all(isinstance(number, int | float) for number in numbers):
            parts |= {StandardEncoding[int(code)] for code in numbers[2:]}
    return parts


def _type1_as_cff(job: FontJob) -> bytes:
    """The letters' outlines and widths carried over, without hints; its encoding too."""
    from fontTools.pens.recordingPen import DecomposingRecordingPen
    from fontTools.pens.t2CharStringPen import T2CharStringPen

    font = read_type1(job.data)
    letters = font.letters
    kept_names = {NOTDEF}
    for use in job.uses:
        for code in use.codes:
            kept_names |= {*glyph_names_of(code, use), font.encoding[code]}
    order = [NOTDEF, *sorted((kept_names & set(letters)) - {NOTDEF})]
    programs = {}
    for name in order:
        recorded = DecomposingRecordingPen(letters)
        letters[name].draw(recorded)
        # By itself, as each declares its width (Type 2 format, 3.1).
        pen = T2CharStringPen(letters[name].width, None)
        recorded.replay(pen)
        programs[name] = pen.getCharString()
    return _build_cff(font, order, programs)


def _build_cff(type1: Type1Font, order: list[str], programs: dict[str, Any]) -> bytes:
    from fontTools.fontBuilder import FontBuilder

    builder = FontBuilder(1000, isTTF=False)
    builder.setupGlyphOrder(order)
    facts: dict[str, Any] = {
        "FontMatrix": list(type1.matrix),
        "FontBBox": [round(side) for side in type1.box],
        "Encoding": [name if name in order else NOTDEF for name in type1.encoding],
    }
    builder.setupCFF("F", facts, programs, {"defaultWidthX": 0, "nominalWidthX": 0})
    return compile_cff(builder.font["CFF "].cff)


_SUBSETTERS: Mapping[FontCoding, Callable[[FontJob], bytes]] = {
    FontCoding.TRUETYPE: _subset_truetype,
    FontCoding.TYPE_1: _type1_as_cff,
    FontCoding.CFF: _subset_cff,
}
