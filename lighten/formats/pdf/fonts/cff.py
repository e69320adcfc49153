"""Bare CFF fonts, as a PDF embeds them, to and from the font library's own objects."""

import io
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fontTools.cffLib import CFFFontSet

__all__ = ["compile_cff", "parse_cff"]


def parse_cff(data: bytes) -> "CFFFontSet":
    """Parse the fonts of a CFF file. Raises: the library's errors for malformed data."""
    from fontTools.cffLib import CFFFontSet

    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(data), None)
    return fonts


def compile_cff(fonts: "CFFFontSet") -> bytes:
    """Compile a file of those fonts; their bounding boxes stay as declared."""
    from fontTools.ttLib import TTFont

    out = io.BytesIO()
    fonts.compile(out, TTFont(recalcBBoxes=False), isCFF2=False)
    return out.getvalue()
