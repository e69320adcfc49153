"""Segments as a PDF embeds them: neither header nor end (ITU-T T.88, 7; ISO 32000-1, 7.4.7)."""

import struct
from collections.abc import Sequence

from lighten.codecs.jbig2.pixels import ADAPTIVE

__all__ = ["bitmap_segment", "dictionary_segment", "page_segment", "text_segment"]

# Width and height.
Size = tuple[int, int]

# Types of segments (7.3); regions are immediate and lossless.
_DICTIONARY, _TEXT, _BITMAP, _PAGE = 0, 7, 39, 48
_PAGE_NUMBER = 1
_LOSSLESS, _HAS_REFINEMENTS = 1, 2
_OR = 0
_SKIPS = 8
_REFINES, _TEMPLATE_1_REFINES = 1 << 1, 1 << 15


def _segment(number: int, kind: int, data: bytes, refers_to: Sequence[int] = ()) -> bytes:
    count = len(refers_to) << 5
    head = struct.pack(">IBB", number, kind, count) + bytes(refers_to)
    return head + struct.pack(">BI", _PAGE_NUMBER, len(data)) + data


def page_segment(number: int, size: Size, *, has_refinements: bool) -> bytes:
    """Write the segment of a page that is white at first and whose regions overlap (7.4.8)."""
    flags = _LOSSLESS | (_HAS_REFINEMENTS if has_refinements else 0)
    return _segment(number, _PAGE, struct.pack(">IIIIBH", *size, 0, 0, flags, 0))


def bitmap_segment(number: int, size: Size, template: int, code: bytes) -> bytes:
    """Write a segment with a bitmap of the whole page (7.4.6)."""
    flags = bytes([template << 1 | _SKIPS])
    region = _region(size)
    return _segment(number, _BITMAP, region + flags + ADAPTIVE[template] + code)


def dictionary_segment(number: int, template: int, symbols: int, code: bytes) -> bytes:
    """Build a segment of new symbols, all of which other segments may use (7.4.2)."""
    head = struct.pack(">H", template << 10) + ADAPTIVE[template]
    return _segment(number, _DICTIONARY, head + struct.pack(">II", symbols, symbols) + code)


def text_segment(number: int, dictionary: int, size: Size, code: bytes, count: int) -> bytes:
    """Return a text region that places symbols by their lower left corners (7.4.3)."""
    flags = _REFINES | _TEMPLATE_1_REFINES
    data = _region(size) + struct.pack(">HI", flags, count) + code
    return _segment(number, _TEXT, data, [dictionary])


def _region(size: Size) -> bytes:
    return struct.pack(">IIIIB", *size, 0, 0, _OR)
