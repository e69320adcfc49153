"""Further pictures in a JPEG file: what its index names besides the first (CIPA DC-007)."""

import struct
from dataclasses import dataclass, field

__all__ = ["FurtherPicture", "further_pictures", "index_bytes", "index_segment"]

_MARK = b"MPF\0"
_VERSION, _COUNT, _ENTRIES = 0xB000, 0xB001, 0xB002
_UNDEFINED, _LONG = 7, 4
_ENTRY_BYTES = 16
# A TIFF header, three tags, and where the next directory is: nowhere.
_HEAD_BYTES = 8 + 2 + 3 * 12 + 4
_TYPE, _PRIMARY = 0xFFFFFF, 0x030000
# Large thumbnails show the first picture again.
_THUMBNAILS = (0x010001, 0x010002)
_MOST_PICTURES = 100


@dataclass(frozen=True, slots=True)
class FurtherPicture:
    """attribute: what sort of picture it is, as the index says. data: a whole JPEG file."""

    attribute: int
    data: bytes = field(repr=False)


def further_pictures(data: bytes, index_at: int) -> tuple[FurtherPicture, ...]:
    """Return the pictures besides the first and its thumbnails.

    index_at: where the index begins, behind the mark of its segment. None for a damaged index.
    """
    try:
        entries = _entries(data, index_at)
    except struct.error:
        return ()
    return tuple(
        FurtherPicture(attribute, data[index_at + offset : index_at + offset + size])
        for attribute, size, offset in entries
        if offset and attribute & _TYPE not in _THUMBNAILS and index_at + offset + size <= len(data)
    )


def _entries(data: bytes, start: int) -> list[tuple[int, int, int]]:
    """Yield attribute, size and offset of each picture. Raises: struct.error."""
    order = "<" if data[start : start + 2] == b"II" else ">"
    (directory,) = struct.unpack_from(f"{order}I", data, start + 4)
    (tags,) = struct.unpack_from(f"{order}H", data, start + directory)
    for number in range(tags):
        tag, _, size, value = struct.unpack_from(
            f"{order}HHII", data, start + directory + 2 + 12 * number
        )
        if tag == _ENTRIES:
            count = min(_MOST_PICTURES, size // _ENTRY_BYTES)
            return [
                struct.unpack_from(f"{order}III", data, start + value + _ENTRY_BYTES * entry)
                for entry in range(count)
            ]
    return []


def index_bytes(further: tuple[FurtherPicture, ...]) -> int:
    """Return how long the content of their index segment is."""
    return len(_MARK) + _HEAD_BYTES + _ENTRY_BYTES * (1 + len(further))


def index_segment(first_bytes: int, at: int, further: tuple[FurtherPicture, ...]) -> bytes:
    """Return the content of an index segment.

    first_bytes: of the first picture's file, the segment included. at: where this content begins
    in it. The further pictures follow that file, one after another.
    """
    count = 1 + len(further)
    tags = struct.pack(">HHI4s", _VERSION, _UNDEFINED, 4, b"0100")
    tags += struct.pack(">HHII", _COUNT, _LONG, 1, count)
    tags += struct.pack(">HHII", _ENTRIES, _UNDEFINED, _ENTRY_BYTES * count, _HEAD_BYTES)
    entries = struct.pack(">IIIHH", _PRIMARY, first_bytes, 0, 0, 0)
    # Offsets count from the header of the index.
    offset = first_bytes - at - len(_MARK)
    for picture in further:
        entries += struct.pack(">IIIHH", picture.attribute, len(picture.data), offset, 0, 0)
        offset += len(picture.data)
    return _MARK + b"MM\0*" + struct.pack(">IH", 8, 3) + tags + bytes(4) + entries
