"""Resolution written into a scanned picture whose scanner declared none."""

import struct
import zlib

from lighten.pictures.files.blocks import BadPictureError, PictureFile, Role
from lighten.pictures.files.read import read_picture_file

__all__ = ["with_resolution"]

_INCH_PER_METRE = 0.0254
_INCH = 1
# Of a JFIF header, behind its marker and length: where it says its unit, and its two densities
# (ECMA TR/98, 10.1).
_UNIT_AT = 7
_JFIF = b"JFIF\0\x01\x02"
_HEAD_OF_PNG = 33  # its mark and IHDR (RFC 2083, 3.1 and 4.1.1)


def with_resolution(content: bytes, ppi: int) -> bytes:
    """Write a resolution of `ppi` into a JPEG or PNG that declares none.

    Anything else comes back as it is, as does what cannot be read.
    """
    try:
        file = read_picture_file(content)
    except (BadPictureError, KeyError, IndexError, ValueError):
        return content
    if file.dots is not None or any(block.role is Role.EXIF for block in file.blocks):
        return content
    if file.kind == "jpeg":
        return _in_jpeg(file, struct.pack(">BHH", _INCH, ppi, ppi))
    if file.kind == "png":
        per_metre = round(ppi / _INCH_PER_METRE)
        body = b"pHYs" + struct.pack(">IIB", per_metre, per_metre, 1)
        chunk = struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
        return content[:_HEAD_OF_PNG] + chunk + content[_HEAD_OF_PNG:]
    return content


def _in_jpeg(file: PictureFile, resolution: bytes) -> bytes:
    for block in file.of_role(Role.STRUCTURE):
        if file.content(block).startswith(b"JFIF\0"):
            at = block.content + _UNIT_AT
            return file.data[:at] + resolution + file.data[at + len(resolution) :]
    body = _JFIF + resolution + b"\0\0"
    return file.data[:2] + b"\xff\xe0" + struct.pack(">H", len(body) + 2) + body + file.data[2:]
