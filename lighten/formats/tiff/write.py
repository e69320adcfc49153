"""Pages to a TIFF file.

Source: TIFF 6.0, sections 2 and 7; for files above 4 GB, the BigTIFF design (from memory).
"""

import struct
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import BinaryIO

from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import TYPE_BYTES

__all__ = ["Field", "PageToWrite", "longs", "ratio", "shorts", "write_tiff"]

_SHORT, _LONG, _RATIO, _LONG_8 = 3, 4, 5, 16
# With values up to thousands of dots per inch, numerators stay within 32 bits.
_FINEST_FRACTION = 100_000
# Above that, offsets need eight bytes.
_MOST_CLASSIC_BYTES = 4_000_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One tag's value. data: its values, in the order of bytes of the file."""

    type: int
    data: bytes

    @property
    def count(self) -> int:
        return len(self.data) // TYPE_BYTES[self.type]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageToWrite:
    """fields: all tags but where its pixels lie. chunks: its strips, or tiles.

    below: directories that a tag points to, each as its own fields.
    """

    fields: Mapping[int, Field]
    chunks: Sequence[bytes] = ()
    is_tiled: bool = False
    below: Mapping[int, Sequence["PageToWrite"]] = field(default_factory=dict)


def shorts(order: str, *values: int) -> Field:
    """Pack 16-bit numbers. order: "<" or ">", as `struct` writes it."""
    return Field(type=_SHORT, data=struct.pack(f"{order}{len(values)}H", *values))


def longs(order: str, *values: int) -> Field:
    return Field(type=_LONG, data=struct.pack(f"{order}{len(values)}I", *values))


def ratio(order: str, value: float) -> Field:
    above, below = Fraction(value).limit_denominator(_FINEST_FRACTION).as_integer_ratio()
    return Field(type=_RATIO, data=struct.pack(f"{order}2I", above, below))


def write_tiff(
    pages: Iterable[PageToWrite], out: BinaryIO, *, order: str = "<", most_bytes: int
) -> None:
    """The pages, one after the other, as they come. most_bytes: that the file may come to."""
    writer = _Writer(out, order, is_big=most_bytes > _MOST_CLASSIC_BYTES)
    writer.head()
    for page in pages:
        writer.page(page)


class _Writer:
    def __init__(self, out: BinaryIO, order: str, *, is_big: bool) -> None:
        self._out, self._order, self._is_big = out, order, is_big
        forms = ("Q", "Q", "HHQ") if is_big else ("H", "I", "HHI")
        self._count, self._link, self._entry = (order + form for form in forms)
        # Where the place of the next page is to be written.
        self._link_at = 8 if is_big else 4

    def head(self) -> None:
        self._out.write(b"II" if self._order == "<" else b"MM")
        numbers = (43, 8, 0, 0) if self._is_big else (42, 0)
        self._out.write(struct.pack(self._order + ("HHHQ" if self._is_big else "HI"), *numbers))

    def page(self, page: PageToWrite) -> None:
        start, link_at = self._directory(page)
        self._out.seek(self._link_at)
        self._out.write(struct.pack(self._link, start))
        self._out.seek(0, 2)
        self._link_at = link_at

    def _directory(self, page: PageToWrite) -> tuple[int, int]:
        """Write a directory; return its start, and the position of the link to the next one."""
        places = [self._put(chunk) for chunk in page.chunks]
        fields = dict(page.fields)
        if page.chunks:
            offsets, lengths = (
                (tags.TILE_OFFSETS, tags.TILE_BYTES)
                if page.is_tiled
                else (tags.STRIP_OFFSETS, tags.STRIP_BYTES)
            )
            fields[offsets] = self._places(places)
            fields[lengths] = longs(self._order, *map(len, page.chunks))
        for tag, directories in page.below.items():
            fields[tag] = self._places([self._directory(one)[0] for one in directories])
        room = 8 if self._is_big else 4
        entries = b""
        for tag, value in sorted(fields.items()):
            data = value.data
            if len(data) > room:
                data = struct.pack(self._link, self._put(data))
            entries += struct.pack(self._entry, tag, value.type, value.count)
            entries += data.ljust(room, b"\0")
        start = self._put(struct.pack(self._count, len(fields)) + entries)
        link_at = self._out.tell()
        self._out.write(bytes(room))
        return start, link_at

    def _places(self, places: list[int]) -> Field:
        if not self._is_big:
            return longs(self._order, *places)
        return Field(type=_LONG_8, data=struct.pack(f"{self._order}{len(places)}Q", *places))

    def _put(self, data: bytes) -> int:
        """Write at an even offset (TIFF 6.0, section 2)."""
        at = self._out.tell()
        if at % 2:
            self._out.write(b"\0")
            at += 1
        self._out.write(data)
        return at
