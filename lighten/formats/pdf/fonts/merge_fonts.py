"""Several files with some letters each of one font, as one file with the letters of all.

A document put together from many has one such file from each of them. Runs in a worker process.
"""

import io
import logging
from dataclasses import dataclass
from typing import Any

from lighten.codecs.flate import pack
from lighten.formats.pdf.fonts.cff import compile_cff, parse_cff
from lighten.formats.pdf.fonts.font_errors import font_errors
from lighten.formats.pdf.fonts.font_use import FontUse
from lighten.formats.pdf.fonts.glyph_routes import changed_route

__all__ = ["FontFile", "MergedFont", "merge_fonts"]

_TRUETYPE_MARKS = (b"\0\1\0\0", b"true")
# Tables that glyph programs rely on: these must be the same in files that become one.
_SHARED_TABLES = ("fpgm", "prep", "cvt ")
_SHARED_HEAD = ("unitsPerEm", "flags", "glyphDataFormat")
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class FontFile:
    """A font file, and how each font of the document uses it."""

    data: bytes
    uses: tuple[FontUse, ...]

    @property
    def is_by_number(self) -> bool:
        """True if every font finds its glyphs by their numbers alone."""
        return all(use.is_composite for use in self.uses)


@dataclass(frozen=True, slots=True, kw_only=True)
class MergedFont:
    """One file for several fonts. members: positions, in what was given, of the files it replaces.

    plain: the file. packed: the file in Deflate.
    """

    members: tuple[int, ...]
    plain: bytes
    packed: bytes


def merge_fonts(files: tuple[FontFile, ...]) -> list[MergedFont]:
    """Merge those of `files` that agree on every glyph they share, where that is lighter.

    files: TrueType or bare CFF, of fonts of one name. Glyphs keep their numbers in TrueType and
    their names in CFF. Each file of a merged one must reach the same glyphs in it by every route;
    else its group stays apart.
    """
    clusters: list[tuple[list[int], Any]] = []
    for position, file in enumerate(files):
        try:
            is_truetype = file.data[:4] in _TRUETYPE_MARKS
            font = _TrueType(file) if is_truetype else _Cff(file)
        except font_errors():
            continue
        for members, merged in clusters:
            if merged.takes(font):
                members.append(position)
                break
        else:
            clusters.append(([position], font))
    made = (_as_one(files, members, merged) for members, merged in clusters if len(members) > 1)
    return [one for one in made if one is not None]


def _as_one(files: tuple[FontFile, ...], members: list[int], merged: Any) -> MergedFont | None:
    """Return the file of those members; None if it is not lighter, or not the same to readers."""
    try:
        plain = merged.compiled()
    except font_errors():
        return None
    packed = pack(plain)
    if len(packed) >= sum(len(pack(files[member].data)) for member in members):
        return None
    for member in members:
        if route := changed_route(files[member].data, plain, files[member].uses):
            _log.info("fonts left apart: %s", route)
            return None
    return MergedFont(members=tuple(members), plain=plain, packed=packed)


class _TrueType:
    """Letters by their numbers. Raises in its making where the file is not what it should be."""

    def __init__(self, file: FontFile) -> None:
        from fontTools.ttLib import TTFont

        self.font = TTFont(io.BytesIO(file.data), recalcBBoxes=False, recalcTimestamp=False)
        self.is_by_number = file.is_by_number
        if not self.is_by_number and "post" in self.font and self.font["post"].formatType != 3.0:
            raise ValueError("its glyphs may be found by their names")
        # Where they are not, names are of no use, and differ from file to file.
        self._name_letters(self.font["maxp"].numGlyphs)
        glyf, widths = self.font["glyf"], self.font["hmtx"].metrics
        self.letters = {
            name: (bytes(glyf.glyphs[name].compile(glyf)), widths[name])
            for name in self.font.getGlyphOrder()
        }
        self._added: dict[str, Any] = {}
        # Read now, so that a damaged table is found before anything is brought together.
        self._rules(), self._codes()

    def takes(self, other: "_TrueType | _Cff") -> bool:
        """Add the other's letters if none stands against it; whether that was so."""
        if not isinstance(other, _TrueType) or self.is_by_number is not other.is_by_number:
            return False
        if self._rules() != other._rules():
            return False
        shared = self.letters.keys() & other.letters.keys()
        if any(not _agree(self.letters[name], other.letters[name]) for name in shared):
            return False
        codes = self._codes()
        if any(codes.get(key, name) != name for key, name in other._codes().items()):
            return False
        for name, letter in other.letters.items():
            mine = self.letters.get(name)
            if mine is None or not mine[0]:
                self.letters[name] = letter if mine is None or letter[0] or letter[1][0] else mine
                self._added[name] = other.font["glyf"].glyphs[name]
        self._add_codes(other)
        self._raise_limits(other)
        return True

    def compiled(self) -> bytes:
        count = max(int(name[1:]) for name in self.letters) + 1
        self._name_letters(count)
        glyf, metrics = self.font["glyf"], self.font["hmtx"].metrics
        glyf.glyphOrder = self.font.getGlyphOrder()
        for name in self.font.getGlyphOrder():
            if name in self._added or name not in glyf.glyphs:
                glyf.glyphs[name] = self._added[name]
            metrics[name] = self.letters[name][1]
        self.font["maxp"].numGlyphs = count
        out = io.BytesIO()
        self.font.save(out, reorderTables=False)
        return out.getvalue()

    def _name_letters(self, count: int) -> None:
        self.font.setGlyphOrder([f"g{number}" for number in range(count)])

    def _rules(self) -> tuple[object, ...]:
        head = self.font["head"]
        tables = [
            self.font.getTableData(tag) if tag in self.font else b"" for tag in _SHARED_TABLES
        ]
        return (*tables, *(getattr(head, name) for name in _SHARED_HEAD))

    def _codes(self) -> dict[tuple[int, int, int], str]:
        """Return platform, encoding and code of each glyph that is found by a code."""
        tables = self.font["cmap"].tables if "cmap" in self.font else ()
        return {
            (table.platformID, table.platEncID, code): name
            for table in tables
            for code, name in table.cmap.items()
        }

    def _add_codes(self, other: "_TrueType") -> None:
        if "cmap" not in self.font:
            if "cmap" in other.font:
                self.font["cmap"] = other.font["cmap"]
            return
        for table in other.font["cmap"].tables if "cmap" in other.font else ():
            if not table.cmap:
                continue
            own = self.font["cmap"].getcmap(table.platformID, table.platEncID)
            if own is None:
                self.font["cmap"].tables.append(table)
            else:
                own.cmap.update(table.cmap)

    def _raise_limits(self, other: "_TrueType") -> None:
        """Set each limit to the highest value of all merged fonts."""
        mine, theirs = self.font["maxp"], other.font["maxp"]
        for name, value in vars(theirs).items():
            if name.startswith("max") and isinstance(value, int):
                setattr(mine, name, max(getattr(mine, name, 0), value))


def _agree(first: tuple[bytes, tuple[int, int]], other: tuple[bytes, tuple[int, int]]) -> bool:
    """Return whether two glyphs are equal, or one of them is missing from its file."""
    return first == other or not first[0] or not other[0]


class _Cff:
    """Letters by their names, or CIDs, without subroutines, which are each file's own."""

    def __init__(self, file: FontFile) -> None:
        from fontTools.cffLib.transforms import desubroutinize

        self.fonts = parse_cff(file.data)
        desubroutinize(self.fonts)
        self.top = self.fonts[0]
        if len(getattr(self.top, "FDArray", (0,))) != 1:
            raise ValueError("it has several sets of rules")
        strings = self.top.CharStrings
        self.letters = {name: tuple(map(_word, strings[name].program)) for name in strings.keys()}  # noqa: SIM118
        self._rules()

    def takes(self, other: "_TrueType | _Cff") -> bool:
        """Add the other's letters if none stands against it; whether that was so."""
        if not isinstance(other, _Cff) or self._rules() != other._rules():
            return False
        shared = self.letters.keys() & other.letters.keys()
        if any(
            self.letters[name] != other.letters[name]
            and not self._is_blank(name)
            and not other._is_blank(name)
            for name in shared
        ):
            return False
        encoding = _both_encodings(self.top, other.top)
        if encoding is None:
            return False
        if not hasattr(self.top, "ROS"):
            self.top.Encoding = encoding
        for name, program in other.letters.items():
            if name not in self.letters:
                self._append(name, other.top.CharStrings[name])
            elif self._is_blank(name):
                self.top.CharStrings[name].setProgram(list(other.top.CharStrings[name].program))
            else:
                continue
            self.letters[name] = program
        return True

    def compiled(self) -> bytes:
        return compile_cff(self.fonts)

    def _is_blank(self, name: str) -> bool:
        """Return whether a glyph was removed from its file: only its slot is there."""
        return name != ".notdef" and self.letters[name] == ("endchar",)

    def _rules(self) -> tuple[object, ...]:
        top = self.top
        private = top.FDArray[0].Private if hasattr(top, "FDArray") else top.Private
        entries = {key: value for key, value in private.rawDict.items() if key != "Subrs"}
        matrix = getattr(top, "FontMatrix", None)
        return (getattr(top, "ROS", None), repr(matrix), repr(sorted(entries.items())))

    def _append(self, name: str, letter: Any) -> None:
        from fontTools.misc.psCharStrings import T2CharString

        strings = self.top.CharStrings
        private = self.top.FDArray[0].Private if hasattr(self.top, "FDArray") else self.top.Private
        added = T2CharString(program=list(letter.program), private=private)
        if strings.charStringsAreIndexed:
            strings.charStringsIndex.append(added)
            strings.charStrings[name] = len(strings.charStringsIndex) - 1
        else:
            strings.charStrings[name] = added
        self.top.charset.append(name)
        self.top.numGlyphs = len(self.top.charset)
        if hasattr(self.top, "FDSelect"):
            self.top.FDSelect.append(0)


def _word(piece: object) -> object:
    """Make a word of a charstring comparable: hint masks are bytes, numbers whole or not."""
    return float(piece) if isinstance(piece, int | float) else piece


def _both_encodings(first: Any, other: Any) -> Any:
    """Return both encodings merged; None if they name different letters."""
    mine, theirs = getattr(first, "Encoding", ""), getattr(other, "Encoding", "")
    if not isinstance(mine, list) or not isinstance(theirs, list):
        return mine if mine == theirs else None
    if any(
        name != own and ".notdef" not in (name, own) for own, name in zip(mine, theirs, strict=True)
    ):
        return None
    return [own if own != ".notdef" else name for own, name in zip(mine, theirs, strict=True)]
