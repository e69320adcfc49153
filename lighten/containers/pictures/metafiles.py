"""Metafiles: how large they are, and the bitmap of one that does nothing but show it.

Sources: [MS-EMF] 2.3 and [MS-WMF] 2.3, both published under an open specification promise.
"""

import struct
from collections.abc import Iterator

__all__ = ["is_metafile", "metafile_inches", "metafile_size", "wrapped_bitmap"]

_EMF_MARK, _EMF_MARK_AT = b" EMF", 40
_PLACEABLE = b"\xd7\xcd\xc6\x9a"
_WMF_STARTS = (b"\x01\x00\x09\x00", b"\x02\x00\x09\x00")
_PLACEABLE_BYTES, _WMF_HEAD_BYTES = 22, 18
_COPY = 0x00CC0020
_HUNDREDTHS_OF_MM_PER_INCH = 2540.0
# Of EMF: what sets a state and draws nothing.
_EMF_STATES = {
    *(1, 9, 10, 11, 12, 13, 14, 17, 18, 19, 20, 21, 22, 24, 25, 27, 33, 34),
    *(37, 38, 39, 40, 48, 58, 98, 115),
}
_EMF_COMMENT, _EMF_STRETCH_BITS, _EMF_STRETCH_BLOCK = 70, 81, 77
# Of WMF, by its function numbers.
_WMF_STATES = {
    *(0x0000, 0x001E, 0x0127, 0x0102, 0x0103, 0x0104, 0x0106, 0x0107, 0x012E, 0x0209),
    *(0x0201, 0x020B, 0x020C, 0x012D, 0x01F0, 0x02FC, 0x02FA, 0x0035, 0x00F7, 0x0234),
}
_WMF_STRETCH_BITS, _WMF_STRETCH_BLOCK = 0x0F43, 0x0B41
_WMF_WINDOW_SIZE = 0x020C


def is_metafile(content: bytes) -> bool:
    """Return whether a file is a Windows metafile of either kind."""
    is_emf = content[:4] == b"\1\0\0\0" and content[_EMF_MARK_AT : _EMF_MARK_AT + 4] == _EMF_MARK
    return is_emf or content.startswith((_PLACEABLE, *_WMF_STARTS))


def metafile_size(content: bytes) -> tuple[int, int]:
    """Return width and height in the metafile's own units, at least 1 each."""
    try:
        if content.startswith(_PLACEABLE):
            left, top, right, low = struct.unpack_from("<4h", content, 6)
        elif content[:4] == b"\1\0\0\0":
            left, top, right, low = struct.unpack_from("<4i", content, 8)
        else:
            return 1, 1
    except struct.error:
        return 1, 1
    return max(1, abs(right - left)), max(1, abs(low - top))


def metafile_inches(content: bytes) -> tuple[float, float] | None:
    """Return the size that a metafile declares; None where it declares none."""
    try:
        if content.startswith(_PLACEABLE):
            left, top, right, low = struct.unpack_from("<4h", content, 6)
            units = float(struct.unpack_from("<H", content, 14)[0])
        elif content[:4] == b"\1\0\0\0":
            left, top, right, low = struct.unpack_from("<4i", content, 24)
            units = _HUNDREDTHS_OF_MM_PER_INCH
        else:
            return None
    except struct.error:
        return None
    width, height = abs(right - left), abs(low - top)
    return (width / units, height / units) if width and height and units else None


def wrapped_bitmap(content: bytes) -> bytes | None:
    """The bitmap as a BMP file, where the whole metafile is that bitmap and nothing else."""
    try:
        if content[:4] == b"\1\0\0\0":
            return _of_emf(content)
        return _of_wmf(content)
    except (struct.error, ValueError, IndexError):
        return None


def _of_emf(content: bytes) -> bytes | None:
    bitmap: bytes | None = None
    bounds = struct.unpack_from("<4i", content, 8)
    for kind, start, size in _emf_records(content):
        if kind in _EMF_STATES:
            continue
        if kind == _EMF_COMMENT:
            if content[start + 12 : start + 16] == b"EMF+":
                return None
            continue
        if kind not in (_EMF_STRETCH_BITS, _EMF_STRETCH_BLOCK) or bitmap is not None:
            return None
        covers = struct.unpack_from("<4i", content, start + 8)
        if max(abs(side - other) for side, other in zip(bounds, covers, strict=True)) > 1:
            return None
        bitmap = _emf_bitmap(content, start, size, kind)
        if bitmap is None:
            return None
    return bitmap


def _emf_records(content: bytes) -> Iterator[tuple[int, int, int]]:
    """Yield kind, offset and length of each record."""
    at = 0
    while at + 8 <= len(content):
        kind, size = struct.unpack_from("<2I", content, at)
        if size < 8 or at + size > len(content):
            raise ValueError("cut short")
        yield kind, at, size
        at += size
        if kind == 14:  # the end
            return


def _emf_bitmap(content: bytes, start: int, size: int, kind: int) -> bytes | None:
    if kind == _EMF_STRETCH_BITS:
        source = struct.unpack_from("<4i", content, start + 32)
        head, head_bytes, bits, bits_bytes, _usage, operation, width, height = struct.unpack_from(
            "<6I2i", content, start + 48
        )
    else:
        width, height = struct.unpack_from("<2i", content, start + 32)
        operation = struct.unpack_from("<I", content, start + 40)[0]
        left, top = struct.unpack_from("<2i", content, start + 44)
        head, head_bytes, bits, bits_bytes = struct.unpack_from("<4I", content, start + 84)
        source = (left, top, *struct.unpack_from("<2i", content, start + 100))
    if operation != _COPY or min(width, height) <= 0 or max(head, bits) >= size:
        return None
    header = content[start + head : start + head + head_bytes]
    pixels = content[start + bits : start + bits + bits_bytes]
    return _bmp(header + pixels, source)


def _of_wmf(content: bytes) -> bytes | None:
    at = (_PLACEABLE_BYTES if content.startswith(_PLACEABLE) else 0) + _WMF_HEAD_BYTES
    bitmap: bytes | None = None
    window: tuple[int, int] | None = None
    covered = (0, 0)
    while at + 6 <= len(content):
        words, function = struct.unpack_from("<IH", content, at)
        end = at + 2 * words
        if words < 3 or end > len(content):
            return None
        if function == _WMF_WINDOW_SIZE:
            height, width = struct.unpack_from("<2h", content, at + 6)
            window = (width, height)
        if function in (_WMF_STRETCH_BITS, _WMF_STRETCH_BLOCK) and bitmap is None:
            skipped = at + 10 + (2 if function == _WMF_STRETCH_BITS else 0)
            operation = struct.unpack_from("<I", content, at + 6)[0]
            high, wide, top, left, tall, broad, down, across = struct.unpack_from(
                "<8h", content, skipped
            )
            if operation != _COPY or (down, across) != (0, 0):
                return None
            covered = (broad, tall)
            bitmap = _bmp(content[skipped + 16 : end], (left, top, wide, high))
        elif function not in _WMF_STATES:
            return None
        at = end
        if function == 0:
            break
    is_all = window is None or max(abs(a - b) for a, b in zip(window, covered, strict=True)) <= 1
    return bitmap if is_all else None


def _bmp(packed: bytes, source: tuple[int, ...]) -> bytes | None:
    """Return a device bitmap as a BMP file, if `source` (left, top, width, height) covers it."""
    head, width, height, _planes, depth, packing = struct.unpack_from("<I2i2HI", packed)
    colours = struct.unpack_from("<I", packed, 32)[0]
    if head < 40 or packing not in (0, 3) or source != (0, 0, width, abs(height)):
        return None
    entries = colours or (1 << depth if depth <= 8 else 0)
    masks = 12 if packing == 3 and head == 40 else 0
    start = 14 + head + masks + 4 * entries
    return b"BM" + struct.pack("<IHHI", 14 + len(packed), 0, 0, start) + packed
