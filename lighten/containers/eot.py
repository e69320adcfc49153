"""Fonts that a presentation brings along, each in a wrapper around a font file.

Source: Embedded OpenType (EOT) File Format, W3C Member Submission of 5 March 2008.
"""

import struct
from collections.abc import Collection

from lighten.containers.fonts import font_coding, subset_font
from lighten.model.kinds import FontCoding

__all__ = ["coding_of_eot", "subset_eot"]

_HEAD = struct.Struct("<4I")  # of the file, of the font, version, flags
_COMPRESSED, _MIXED = 0x4, 0x10000000
_SUM_AT = 60  # a copy of the font's own checksum adjustment
_SUM_IN_HEAD = 8
_MASK = bytes(byte ^ 0x50 for byte in range(256))


def coding_of_eot(content: bytes) -> FontCoding | None:
    """Return the coding of an embedded font; None if it is not one, or cannot be rewritten."""
    plain = _plain(content)
    return font_coding(plain) if plain is not None else None


def subset_eot(content: bytes, letters: Collection[str]) -> bytes:
    """The font with those letters; the same where it cannot be done, or is no lighter."""
    plain = _plain(content)
    if plain is None:
        return content
    light = subset_font(plain, letters)
    head_at = _table_at(light, b"head")
    if light == plain or head_at is None:
        return content
    whole, size, version, flags = _HEAD.unpack_from(content)
    head = bytearray(content[: whole - size])
    _HEAD.pack_into(head, 0, len(head) + len(light), len(light), version, flags)
    head[_SUM_AT : _SUM_AT + 4] = light[head_at + _SUM_IN_HEAD : head_at + _SUM_IN_HEAD + 4][::-1]
    return bytes(head) + (light.translate(_MASK) if flags & _MIXED else light)


def _plain(content: bytes) -> bytes | None:
    if len(content) < _SUM_AT + 4:
        return None
    whole, size, _, flags = _HEAD.unpack_from(content)
    if whole != len(content) or size > whole - _SUM_AT or flags & _COMPRESSED:
        return None
    plain = content[whole - size :]
    return plain.translate(_MASK) if flags & _MIXED else plain


def _table_at(font: bytes, tag: bytes) -> int | None:
    """Return the start of a table in a font file (OpenType, table directory)."""
    count = struct.unpack_from(">H", font, 4)[0]
    for number in range(count):
        name, _, start, _ = struct.unpack_from(">4s3I", font, 12 + 16 * number)
        if name == tag:
            return int(start)
    return None
