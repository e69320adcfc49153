"""HEIC files (ISO/IEC 23008-12), which are read only: what is made of them is a JPEG."""

import struct

from lighten.codecs.heic import open_heic
from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role, covering

__all__ = ["is_heic", "read_heic"]

# Of pictures coded as HEVC, alone or among others; what others are called by is listed after.
_OWN_BRANDS = (b"heic", b"heix", b"heim", b"heis")
_SHARED_BRANDS = (b"mif1", b"msf1")
_SEVERAL = (
    "kept: it holds {} pictures, and a lighter copy would be a JPEG of the first alone. "
    "Export the one you need, and try that file"
)
_TO_END, _LONG = 0, 1


def is_heic(head: bytes) -> bool:
    """Return whether the brands in the first 32 bytes are those of HEIC (ISO/IEC 14496-12, 4.3)."""
    if head[4:8] != b"ftyp":
        return False
    others = [head[at : at + 4] for at in range(16, min(len(head), head[3]), 4)]
    is_listed = any(brand in _OWN_BRANDS for brand in others)
    return head[8:12] in _OWN_BRANDS or (head[8:12] in _SHARED_BRANDS and is_listed)


def read_heic(data: bytes) -> PictureFile:
    """The first picture of a HEIC file, the right way up, with the description within.

    Raises: BadPictureError if damaged or cut short.
    """
    _check_boxes(data)
    try:
        opened = open_heic(data)
    except ValueError as error:
        raise BadPictureError("It is damaged.") from error
    profile: bytes = opened.info.get("icc_profile") or b""
    contents = {
        Role.EXIF: opened.info.get("exif") or b"",
        Role.XMP: opened.info.get("xmp") or b"",
        Role.PROFILE: profile,
    }
    width, height = opened.size
    return PictureFile(
        kind="heic",
        data=data,
        blocks=covering(_blocks(data, contents), len(data)),
        width_px=width,
        height_px=height,
        bits=8,
        colours=3,
        has_opacity=opened.has_alpha,
        profile=profile,
        is_lossy=True,
        obstacle=_SEVERAL.format(len(opened)) if len(opened) > 1 else "",
    )


def _check_boxes(data: bytes) -> None:
    """Check that boxes follow one another to the end (ISO/IEC 14496-12, 4.2)."""
    at = 0
    while at + 8 <= len(data):
        (size,) = struct.unpack(">I", data[at : at + 4])
        if size == _LONG and at + 16 <= len(data):
            (size,) = struct.unpack(">Q", data[at + 8 : at + 16])
        if size == _TO_END:
            return
        if size < 8 or at + size > len(data):
            raise BadPictureError("It is cut short.")
        at += size


def _blocks(data: bytes, contents: dict[Role, bytes]) -> list[Block]:
    """Return the blocks of metadata, wherever they stand, and the rest between."""
    places = sorted(
        (start, start + len(content), role)
        for role, content in contents.items()
        if content and (start := data.find(content)) >= 0
    )
    blocks: list[Block] = []
    at = 0
    for start, end, role in (*places, (len(data), len(data), Role.PICTURE)):
        if start > at:
            blocks.append(Block(role=Role.PICTURE, name="boxes", start=at, end=start, content=at))
        if end > start >= at:
            blocks.append(Block(role=role, name=str(role), start=start, end=end, content=start))
        at = max(at, end)
    return blocks
