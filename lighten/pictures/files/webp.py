"""WebP files (RFC 9649): RIFF chunks, and files from such."""

import struct

from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role, covering

__all__ = ["build_webp", "read_webp"]

_ROLES = {
    b"VP8X": Role.STRUCTURE,
    b"VP8 ": Role.PICTURE,
    b"VP8L": Role.PICTURE,
    b"ALPH": Role.PICTURE,
    b"ANIM": Role.PICTURE,
    b"ANMF": Role.PICTURE,
    b"ICCP": Role.PROFILE,
    b"EXIF": Role.EXIF,
    b"XMP ": Role.XMP,
}
# Bits of VP8X.
_HAS_PROFILE, _HAS_OPACITY, _HAS_EXIF, _HAS_XMP = 0x20, 0x10, 0x08, 0x04
_HEAD_BYTES = 12


def read_webp(data: bytes) -> PictureFile:
    """The chunks of a WebP file. Raises: BadPictureError if damaged or cut short."""
    total = int.from_bytes(data[4:8], "little") + 8
    if total > len(data) or total < _HEAD_BYTES:
        raise BadPictureError("It is cut short.")
    blocks = [
        Block(role=Role.STRUCTURE, name="RIFF", start=0, end=_HEAD_BYTES, content=_HEAD_BYTES)
    ]
    at, frames, profile, size, has_opacity, is_lossy = _HEAD_BYTES, 0, b"", (0, 0), False, False
    while at + 8 <= total:
        name, length = struct.unpack("<4sI", data[at : at + 8])
        end = min(total, at + 8 + length + length % 2)
        if at + 8 + length > total:
            raise BadPictureError("It is cut short.")
        content = data[at + 8 : at + 8 + length]
        blocks.append(
            Block(
                role=_ROLES.get(name, Role.PRIVATE),
                name=name.decode("latin-1"),
                start=at,
                end=end,
                content=at + 8,
                tail=end - at - 8 - length,
            )
        )
        if name == b"VP8X" and length >= 10:
            size = _declared_size(content)
            has_opacity = has_opacity or bool(content[0] & _HAS_OPACITY)
        elif name == b"VP8L" and length >= 5:
            size, opaque = _size_of_lossless(content)
            has_opacity = has_opacity or opaque
        elif name == b"VP8 " and length >= 10:
            is_lossy, size = True, _size_of_lossy(content)
        elif name == b"ANMF":
            frames += 1
        elif name == b"ICCP":
            profile = content
        at = end
    if not all(size):
        raise BadPictureError("It has no picture in it.")
    return PictureFile(
        kind="webp",
        data=data,
        blocks=covering(blocks, len(data)),
        width_px=size[0],
        height_px=size[1],
        bits=8,
        colours=3,
        has_opacity=has_opacity,
        frames=max(1, frames),
        profile=profile,
        is_lossy=is_lossy,
    )


def build_webp(coded: bytes, metadata: list[tuple[Role, bytes]]) -> bytes:
    """Build a WebP file from a plain one and its metadata."""
    plain = read_webp(coded)
    pictures = b"".join(
        plain.data[block.start : block.end] for block in plain.blocks if block.role is Role.PICTURE
    )
    contents = dict(metadata)
    if not contents and not any(block.name == "VP8X" for block in plain.blocks):
        return _riff(pictures)
    flags = _HAS_OPACITY if plain.has_opacity else 0
    for role, flag in (
        (Role.PROFILE, _HAS_PROFILE),
        (Role.EXIF, _HAS_EXIF),
        (Role.XMP, _HAS_XMP),
    ):
        flags |= flag if role in contents else 0
    sides = (plain.width_px - 1).to_bytes(3, "little") + (plain.height_px - 1).to_bytes(3, "little")
    out = _chunk(b"VP8X", bytes((flags, 0, 0, 0)) + sides)
    if Role.PROFILE in contents:
        out += _chunk(b"ICCP", contents[Role.PROFILE])
    out += pictures
    for role, name in ((Role.EXIF, b"EXIF"), (Role.XMP, b"XMP ")):
        if role in contents:
            out += _chunk(name, contents[role])
    return _riff(out)


def _declared_size(content: bytes) -> tuple[int, int]:
    return (
        int.from_bytes(content[4:7], "little") + 1,
        int.from_bytes(content[7:10], "little") + 1,
    )


def _size_of_lossless(content: bytes) -> tuple[tuple[int, int], bool]:
    bits = int.from_bytes(content[1:5], "little")
    return ((bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1), bool(bits >> 28 & 1)


def _size_of_lossy(content: bytes) -> tuple[int, int]:
    width, height = struct.unpack("<HH", content[6:10])
    return width & 0x3FFF, height & 0x3FFF


def _riff(chunks: bytes) -> bytes:
    return b"RIFF" + struct.pack("<I", len(chunks) + 4) + b"WEBP" + chunks


def _chunk(name: bytes, content: bytes) -> bytes:
    return name + struct.pack("<I", len(content)) + content + b"\0" * (len(content) % 2)
