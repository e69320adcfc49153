"""GIF (GIF89a) and BMP files, which are read only: what is made of them is a PNG or a JPEG."""

import struct

from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role, covering

__all__ = ["read_bmp", "read_gif"]

_GIF_HEAD_BYTES = 13
_EXTENSION, _IMAGE, _TRAILER = 0x21, 0x2C, 0x3B
_COMMENT, _APPLICATION, _CONTROL = 0xFE, 0xFF, 0xF9
_INCH_PER_METRE = 0.0254


def read_gif(data: bytes) -> PictureFile:
    """The blocks of a GIF file. Raises: BadPictureError if damaged or cut short."""
    if len(data) < _GIF_HEAD_BYTES:
        raise BadPictureError("It is cut short.")
    width, height, flags = struct.unpack("<HHB", data[6:11])
    at = _GIF_HEAD_BYTES + _table_bytes(flags)
    blocks = [Block(role=Role.PICTURE, name="head", start=0, end=at, content=at)]
    frames, has_opacity = 0, False
    while True:
        start, mark = at, data[at] if at < len(data) else None
        if mark == _TRAILER:
            blocks.append(
                Block(role=Role.PICTURE, name="end", start=at, end=at + 1, content=at + 1)
            )
            break
        if mark == _IMAGE and at + 10 <= len(data):
            frames += 1
            at = _end_of_pieces(data, at + 11 + _table_bytes(data[at + 9]))
            role, name = Role.PICTURE, "image"
        elif mark == _EXTENSION and at + 3 <= len(data):
            label = data[at + 1]
            if label == _CONTROL:
                has_opacity = has_opacity or bool(data[at + 3] & 1)
            role = {_COMMENT: Role.TEXT, _APPLICATION: _application(data, at)}.get(
                label, Role.PICTURE
            )
            name, at = f"extension {label:02X}", _end_of_pieces(data, at + 2)
        else:
            raise BadPictureError("It is cut short or damaged.")
        blocks.append(Block(role=role, name=name, start=start, end=at, content=start))
    if not frames or not width or not height:
        raise BadPictureError("It has no picture in it.")
    return PictureFile(
        kind="gif",
        data=data,
        blocks=covering(blocks, len(data)),
        width_px=width,
        height_px=height,
        bits=8,
        colours=3,
        has_opacity=has_opacity,
        has_palette=True,
        frames=frames,
    )


def read_bmp(data: bytes) -> PictureFile:
    """The one block of a BMP file. Raises: BadPictureError if damaged or cut short."""
    if len(data) < 30:
        raise BadPictureError("It is cut short.")
    start, head = struct.unpack("<II", data[10:18])
    dots = None
    if head == 12:
        width, height, _, depth = struct.unpack("<HHHH", data[18:26])
        packing = 0
    else:
        width, height, _, depth = struct.unpack("<iiHH", data[18:30])
        packing = int.from_bytes(data[30:34], "little")
        across, down = struct.unpack("<ii", data[38:46]) if len(data) >= 46 else (0, 0)
        if across > 0 and down > 0:
            dots = across * _INCH_PER_METRE, down * _INCH_PER_METRE
    height = abs(height)
    if width < 1 or height < 1 or depth not in (1, 2, 4, 8, 16, 24, 32):
        raise BadPictureError("It is damaged.")
    row_bytes = (width * depth + 31) // 32 * 4
    if packing in (0, 3) and start + row_bytes * height > len(data):
        raise BadPictureError("It is cut short.")
    blocks = [Block(role=Role.PICTURE, name="bitmap", start=0, end=len(data), content=start)]
    return PictureFile(
        kind="bmp",
        data=data,
        blocks=tuple(blocks),
        width_px=width,
        height_px=height,
        bits=8,
        colours=3,
        has_opacity=depth == 32 and head >= 56,
        has_palette=depth <= 8,
        dots=dots,
        obstacle="" if packing in (0, 1, 2, 3) else "kept: a rare kind of BMP",
    )


def _table_bytes(flags: int) -> int:
    return 3 << ((flags & 7) + 1) if flags & 0x80 else 0


def _end_of_pieces(data: bytes, at: int) -> int:
    """Return the end of a row of sub-blocks, each with its length in front."""
    while at < len(data):
        length = data[at]
        at += 1 + length
        if length == 0:
            return at
    raise BadPictureError("It is cut short.")


def _application(data: bytes, at: int) -> Role:
    """Return the role of an application extension: loops belong to the picture."""
    name = data[at + 3 : at + 14]
    if name in (b"NETSCAPE2.0", b"ANIMEXTS1.0"):
        return Role.PICTURE
    return Role.PROFILE if name == b"ICCRGBG1012" else Role.PRIVATE
