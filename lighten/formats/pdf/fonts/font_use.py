"""Use of a font file by a font of a PDF: the codes shown, and the names they may stand for."""

from dataclasses import dataclass

__all__ = ["FontUse", "glyph_names_of"]

_NOTDEF = ".notdef"


@dataclass(frozen=True, slots=True, kw_only=True)
class FontUse:
    """The codes of one font that are shown.

    codes: character codes; CIDs of a composite font.
    names: for each code that the font's own encoding names, that name.
    is_composite: codes are CIDs. glyph_of_cid: two bytes a CID, or None where they are equal.
    """

    codes: frozenset[int]
    names: dict[int, str]
    is_composite: bool = False
    glyph_of_cid: bytes | None = None

    def glyph_of(self, cid: int) -> int:
        """Return the glyph number of a CID (ISO 32000-2, 9.7.4.2); 0 where the map has none."""
        table = self.glyph_of_cid
        return cid if table is None else int.from_bytes(table[2 * cid : 2 * cid + 2], "big")


def glyph_names_of(code: int, use: FontUse) -> set[str]:
    """Return every name that a reader may know a character code by.

    Those of the font's own encoding and of the standard ones (ISO 32000-2, annex D).
    """
    from fontTools.agl import UV2AGL
    from fontTools.encodings.MacRoman import MacRoman
    from fontTools.encodings.StandardEncoding import StandardEncoding

    names = {StandardEncoding[code], MacRoman[code]} if code < 256 else set()
    if code in use.names:
        names.add(use.names[code])
    letter = bytes([code]).decode("cp1252", "ignore") if code < 256 else ""
    if letter and ord(letter) in UV2AGL:
        names.add(UV2AGL[ord(letter)])
    return names - {_NOTDEF}
