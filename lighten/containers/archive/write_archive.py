"""A zip archive written: the same members give the same bytes.

Source: APPNOTE (ISO/IEC 21320-1). How many and how long members may be is held down on reading,
so that no member needs the forms for more than 4 GB (zip64).
"""

import struct
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from lighten.codecs.deflate_pieces import joined
from lighten.containers.archive.read_archive import DEFLATED, STORED, Member

__all__ = ["PackedMember", "pack_member", "pack_piece", "pack_pieces", "write_archive"]

# Level 10 is the knee on XML: 9 leaves 5 % more, zopfli .1 % less at 13 times the time. What is
# short can have the best.
_LEVEL, _BEST_LEVEL, _BEST_UP_TO = 10, 12, 1_200_000
_QUICK_LEVEL = 6
# Pictures, films and fonts that are packed by their own coding gain nothing from Deflate.
_PACKED_MARKS = (b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n", b"PK\x03\x04", b"wOF", b"GIF8")
_MOST_MEMBERS = 0xFFFF
# ISO/IEC 26300 part 3, 3.3: so that the kind of a file can be read at a place that is known.
_NEVER_PACKED = "mimetype"
# Fixed, so that the time of writing leaves no trace: 1 January 1980, the first that there is.
_DATE, _TIME = 0x21, 0
_NEEDS_VERSION = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class PackedMember:
    """A member ready to be written. packed: by `method`; size_bytes: unpacked."""

    name: str
    method: int
    packed: bytes = field(repr=False)
    size_bytes: int
    crc: int

    @property
    def weight(self) -> int:
        """Return the bytes that the member takes in an archive that is written here."""
        return len(self.packed) + 30 + 46 + 2 * len(self.name.encode())


def pack_member(name: str, content: bytes, before: Member | None = None) -> PackedMember:
    """Pack `content` as a member, as small as it gets.

    before: how the same content was packed already; kept where that is no heavier.
    """
    import deflate

    method, packed = STORED, content
    if name != _NEVER_PACKED and not content.startswith(_PACKED_MARKS):
        level = _level_for(content)
        if before is not None and before.method != DEFLATED:
            level = _QUICK_LEVEL  # its writer saw that it is packed already
        tight = bytes(deflate.deflate_compress(content, level))
        if len(tight) < len(content):
            method, packed = DEFLATED, tight
    if before is not None and name != _NEVER_PACKED and len(before.packed) < len(packed):
        method, packed = before.method, before.packed
    return PackedMember(
        name=name,
        method=method,
        packed=packed,
        size_bytes=len(content),
        crc=zlib.crc32(content),
    )


def _level_for(content: bytes) -> int:
    return _BEST_LEVEL if len(content) <= _BEST_UP_TO else _LEVEL


def pack_pieces(
    name: str, pieces: Iterable[tuple[bytes, bytes]], before: Member | None = None
) -> PackedMember:
    """A member of many pieces, each as it is and as a whole Deflate stream; `before` as above."""
    size, crc = 0, 0

    def packed() -> Iterator[bytes]:
        nonlocal size, crc
        for piece, tight in pieces:
            size, crc = size + len(piece), zlib.crc32(piece, crc)
            yield tight

    whole = b"".join(joined(packed()))
    if before is not None and before.crc == crc and len(before.packed) < len(whole):
        return PackedMember(
            name=name, method=before.method, packed=before.packed, size_bytes=size, crc=crc
        )
    return PackedMember(name=name, method=DEFLATED, packed=whole, size_bytes=size, crc=crc)


def pack_piece(piece: bytes) -> bytes:
    """A piece of a long member, as a whole Deflate stream."""
    import deflate

    return bytes(deflate.deflate_compress(piece, _level_for(piece)))


def write_archive(members: Iterable[PackedMember], out: Path) -> None:
    """Write the members in the given order. Raises: ValueError above the format's limits."""
    lines: list[bytes] = []
    with out.open("wb") as file:
        for member in members:
            offset = file.tell()
            name = member.name.encode()
            flags = 0 if member.name.isascii() else 0x800
            header = struct.pack(
                "<5H3I2H",
                *(_NEEDS_VERSION, flags, member.method, _TIME, _DATE),
                *(member.crc, len(member.packed), member.size_bytes),
                *(len(name), 0),
            )
            file.write(b"PK\x03\x04" + header + name + member.packed)
            place = struct.pack("<3H2I", 0, 0, 0, 0, offset)
            lines.append(b"PK\x01\x02" + struct.pack("<H", _NEEDS_VERSION) + header + place + name)
        start = file.tell()
        central = b"".join(lines)
        if len(lines) >= _MOST_MEMBERS:
            raise ValueError("more members than an archive without zip64 holds")
        file.write(central)
        file.write(
            struct.pack(
                "<4s4H2IH", b"PK\x05\x06", 0, 0, len(lines), len(lines), len(central), start, 0
            )
        )
