"""JPEG files (ITU-T T.81 annex B; JFIF, ECMA TR/98): their segments, and files from such."""

import hashlib
import re
import struct
from dataclasses import replace

from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role, covering
from lighten.pictures.files.multi_picture import (
    FurtherPicture,
    further_pictures,
    index_bytes,
    index_segment,
)

__all__ = ["MOST_XMP_BYTES", "build_jpeg", "read_jpeg"]

_SOI, _EOI, _SOS, _APP0, _COMMENT = 0xD8, 0xD9, 0xDA, 0xE0, 0xFE
_FRAMES = {*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC}
_LOSSLESS_FRAMES = {0xC3, 0xC7, 0xCB, 0xCF}
_EXIF, _XMP = b"Exif\0\0", b"http://ns.adobe.com/xap/1.0/\0"
_XMP_MORE = b"http://ns.adobe.com/xmp/extension/\0"
_ICC, _ADOBE, _JFIF = b"ICC_PROFILE\0", b"Adobe", b"JFIF\0"
# The identifier of the APP13 segment that readers look for IPTC captions in: 13 letters and a NUL.
_RESOURCES = bytes.fromhex("50686f746f73686f7020332e3000")
_ICC_HEAD = len(_ICC) + 2  # and its number and how many there are
# GUID, whole length, offset.
_XMP_MORE_HEAD = len(_XMP_MORE) + 40
_ROLES = (
    (0xE1, _EXIF, Role.EXIF, len(_EXIF)),
    (0xE1, _XMP, Role.XMP, len(_XMP)),
    (0xE1, _XMP_MORE, Role.XMP_MORE, _XMP_MORE_HEAD),
    (0xE2, _ICC, Role.PROFILE, _ICC_HEAD),
    (0xE2, b"MPF\0", Role.PREVIEW, 4),
    (0xED, _RESOURCES, Role.IMAGE_RESOURCES, len(_RESOURCES)),
    (0xEE, _ADOBE, Role.PICTURE, 0),  # how its colours are to be read
    (0xE0, _JFIF, Role.STRUCTURE, 0),
    (0xE0, b"JFXX\0", Role.PREVIEW, 5),
)
_MOST_CONTENT = 65_533
_SEGMENT_HEAD = 4  # the marker, and how long it is
MOST_XMP_BYTES = _MOST_CONTENT - len(_XMP)
_CM_PER_INCH = 2.54


def read_jpeg(data: bytes) -> PictureFile:
    """The segments of a JPEG file. Raises: BadPictureError if damaged or cut short."""
    blocks = [Block(role=Role.PICTURE, name="SOI", start=0, end=2, content=2)]
    frame: tuple[int, bytes] | None = None
    dots = None
    chunks: dict[int, bytes] = {}
    at = 2
    while True:
        at, marker, start = _next_marker(data, at)
        if marker == _EOI:
            blocks.append(Block(role=Role.PICTURE, name="EOI", start=start, end=at, content=at))
            break
        length = int.from_bytes(data[at : at + 2], "big")
        end = at + length
        if length < 2 or end > len(data):
            raise BadPictureError("It is cut short.")
        content = data[at + 2 : end]
        if marker in _FRAMES:
            frame = marker, content
        if marker == _SOS:
            end = _end_of_scan(data, end)
        role, head = _role(marker, content)
        if role is Role.PROFILE and len(content) >= _ICC_HEAD:
            chunks[content[_ICC_HEAD - 2]] = content[_ICC_HEAD:]
        if marker == _APP0 and content[:5] == _JFIF:
            dots = _dots_of(content)
        name = f"{marker:02X}"
        blocks.append(Block(role=role, name=name, start=start, end=end, content=at + 2 + head))
        at = end
    if frame is None or len(frame[1]) < 6:
        raise BadPictureError("It has no picture in it.")
    bits, height, width, colours = struct.unpack(">BHHB", frame[1][:6])
    index = next((block for block in blocks if block.role is Role.PREVIEW), None)
    further = further_pictures(data, index.content) if index is not None else ()
    return PictureFile(
        kind="jpeg",
        data=data,
        blocks=_with_previews(covering(blocks, len(data)), has_further=bool(further)),
        width_px=width,
        height_px=height,
        bits=bits,
        colours=colours,
        dots=dots,
        profile=b"".join(chunks[number] for number in sorted(chunks)),
        is_lossy=True,
        obstacle=_obstacle(frame[0], bits, height, colours),
        further=further,
    )


def build_jpeg(
    coded: bytes,
    metadata: list[tuple[Role, bytes]],
    dots: tuple[float, float] | None,
    further: tuple[FurtherPicture, ...] = (),
) -> bytes:
    """Build a JPEG file from a plain one and its metadata, in the given order.

    dots: per inch, for its JFIF header; None to say nothing. further: pictures that follow it.
    Raises: BadPictureError, also for Exif or XMP too long for one segment.
    """
    plain = read_jpeg(coded)
    # Inks and other colours than JFIF's are marked by Adobe's segment instead.
    has_jfif = plain.colours in (1, 3) and not any(block.name == "EE" for block in plain.blocks)
    out = [b"\xff\xd8", *([_jfif(dots)] if has_jfif else [])]
    for role, content in metadata:
        out += _segments(role, content)
    picture = b"".join(
        plain.data[block.start : block.end]
        for block in plain.blocks[1:]
        if block.role is Role.PICTURE
    )
    if further:
        at = sum(map(len, out)) + _SEGMENT_HEAD
        first_bytes = at + index_bytes(further) + len(picture)
        out.append(_segment(0xE2, index_segment(first_bytes, at, further)))
    return b"".join([*out, picture, *(one.data for one in further)])


# Not a sample of 255, which a zero follows; not a restart, nor a fill byte.
_AFTER_SAMPLES = re.compile(rb"\xff[^\x00\xd0-\xd7\xff]", re.DOTALL)


def _next_marker(data: bytes, at: int) -> tuple[int, int, int]:
    """Return content start, marker, and marker start; fill bytes belong to the marker."""
    start = at
    while data[at : at + 1] == b"\xff" and data[at + 1 : at + 2] == b"\xff":
        at += 1
    if len(data) < at + 2:
        raise BadPictureError("It is cut short.")
    if data[at] != 0xFF or data[at + 1] in (0, 1) or 0xD0 <= data[at + 1] <= 0xD7:
        raise BadPictureError("It is damaged.")
    return at + 2, data[at + 1], start


def _end_of_scan(data: bytes, at: int) -> int:
    """Return the start of the next marker after coded samples (T.81, B.1.1.5)."""
    marker = _AFTER_SAMPLES.search(data, at)
    if marker is None:
        raise BadPictureError("It is cut short.")
    return marker.start()


def _role(marker: int, content: bytes) -> tuple[Role, int]:
    """Return the role of a segment, and the length of the head of its content."""
    for own, start, role, head in _ROLES:
        if marker == own and content.startswith(start):
            return role, head
    if marker == _COMMENT:
        return Role.TEXT, 0
    return (Role.PRIVATE if 0xE0 <= marker <= 0xEF else Role.PICTURE), 0


def _with_previews(blocks: tuple[Block, ...], *, has_further: bool) -> tuple[Block, ...]:
    """Add further pictures that an index announces after the end (CIPA DC-007).

    has_further: they are more than previews of the first.
    """
    if not any(block.role is Role.PREVIEW and block.name == "E2" for block in blocks):
        return blocks
    return tuple(
        replace(block, role=Role.FURTHER if has_further else Role.PREVIEW)
        if block.role is Role.LEFTOVER
        else block
        for block in blocks
    )


def _obstacle(marker: int, bits: int, height: int, colours: int) -> str:
    if height == 0:
        return "kept: its height is not declared"
    if marker in _LOSSLESS_FRAMES or marker > 0xC7 or bits != 8:
        return "kept: a rare kind of JPEG"
    return "" if colours in (1, 3, 4) else "kept: a JPEG of so many colours"


def _dots_of(content: bytes) -> tuple[float, float] | None:
    """Return the pixels per inch of a JFIF header; None where it declares only their shape."""
    if len(content) < 12 or content[7] not in (1, 2):
        return None
    across, down = struct.unpack(">HH", content[8:12])
    scale = 1.0 if content[7] == 1 else _CM_PER_INCH
    return (across * scale, down * scale) if across and down else None


def _jfif(dots: tuple[float, float] | None) -> bytes:
    """Build a JFIF header with pixels per inch and without a preview."""
    unit, across, down = (0, 1, 1) if dots is None else (1, *(max(1, round(dot)) for dot in dots))
    return _segment(0xE0, _JFIF + struct.pack(">HBHHBB", 0x0102, unit, across, down, 0, 0))


def _segments(role: Role, content: bytes) -> list[bytes]:
    if role is Role.PROFILE:
        room = _MOST_CONTENT - _ICC_HEAD
        pieces = [content[at : at + room] for at in range(0, len(content), room)]
        return [
            _segment(0xE2, _ICC + bytes((number, len(pieces))) + piece)
            for number, piece in enumerate(pieces, start=1)
        ]
    if role is Role.XMP_MORE:
        return _more_segments(content)
    marker, start = {
        Role.EXIF: (0xE1, _EXIF),
        Role.XMP: (0xE1, _XMP),
        Role.IMAGE_RESOURCES: (0xED, _RESOURCES),
        Role.TEXT: (_COMMENT, b""),
    }[role]
    # These two go on in the next segment; of the others there is one.
    may_go_on = role in (Role.IMAGE_RESOURCES, Role.TEXT)
    room = _MOST_CONTENT - len(start) if may_go_on else len(content)
    return [
        _segment(marker, start + content[at : at + room]) for at in range(0, len(content), room)
    ]


def _more_segments(content: bytes) -> list[bytes]:
    """Split XMP that does not fit one segment; its digest is its name (XMP part 3, 1.1.3.1)."""
    name = hashlib.md5(content, usedforsecurity=False).hexdigest().upper().encode()
    room = _MOST_CONTENT - _XMP_MORE_HEAD
    return [
        _segment(
            0xE1,
            _XMP_MORE + name + struct.pack(">II", len(content), at) + content[at : at + room],
        )
        for at in range(0, len(content), room)
    ]


def _segment(marker: int, content: bytes) -> bytes:
    if len(content) > _MOST_CONTENT:
        raise BadPictureError("What it carries is too long for one segment.")
    return bytes((0xFF, marker)) + struct.pack(">H", len(content) + 2) + content
