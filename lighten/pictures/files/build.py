"""A coded picture as a whole file, with what it is to carry besides."""

import struct
import zlib
from dataclasses import dataclass

from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.files.blocks import Role
from lighten.pictures.files.jpeg import build_jpeg
from lighten.pictures.files.multi_picture import FurtherPicture
from lighten.pictures.files.png import build_png
from lighten.pictures.files.webp import build_webp

__all__ = ["Carried", "build_picture_file"]

_INCH_PER_METRE = 0.0254
_PROFILE_HEAD = b"ICC profile\0\0"


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """Data that a picture file carries besides the picture, each empty where it has none.

    dots: per inch, across and down. comments: of a JPEG. chunks: of a PNG, by name and content.
    further: pictures that follow the first in a JPEG.
    """

    profile: bytes = b""
    exif: bytes = b""
    xmp: bytes = b""
    xmp_more: bytes = b""
    image_resources: bytes = b""
    comments: tuple[bytes, ...] = ()
    dots: tuple[float, float] | None = None
    chunks: tuple[tuple[str, bytes], ...] = ()
    further: tuple[FurtherPicture, ...] = ()


def build_picture_file(coded: CodedPicture, carried: Carried) -> bytes:
    """The bytes of a JPEG, PNG or WebP file. Raises: BadPictureError; ValueError for others."""
    if coded.coding is Coding.JPEG:
        return build_jpeg(coded.data, _for_jpeg(carried), carried.dots, carried.further)
    if coded.coding is Coding.PNG:
        return build_png(coded.data, _for_png(carried))
    if coded.coding is Coding.WEBP:
        return build_webp(coded.data, _for_webp(carried))
    raise ValueError(f"{coded.coding} has no files of its own")


def _for_jpeg(carried: Carried) -> list[tuple[Role, bytes]]:
    metadata = (
        (Role.EXIF, carried.exif),
        (Role.XMP, carried.xmp),
        (Role.XMP_MORE, carried.xmp_more),
        (Role.IMAGE_RESOURCES, carried.image_resources),
        (Role.PROFILE, carried.profile),
        *((Role.TEXT, comment) for comment in carried.comments),
    )
    return [(role, content) for role, content in metadata if content]


def _for_webp(carried: Carried) -> list[tuple[Role, bytes]]:
    metadata = (
        (Role.PROFILE, carried.profile),
        (Role.EXIF, carried.exif),
        (Role.XMP, carried.xmp),
    )
    return [(role, content) for role, content in metadata if content]


def _for_png(carried: Carried) -> list[tuple[str, bytes]]:
    chunks: list[tuple[str, bytes]] = []
    if carried.profile:
        chunks.append(("iCCP", _PROFILE_HEAD + zlib.compress(carried.profile, 9)))
    if carried.dots is not None:
        across, down = (max(1, round(dot / _INCH_PER_METRE)) for dot in carried.dots)
        chunks.append(("pHYs", struct.pack(">IIB", across, down, 1)))
    chunks += carried.chunks
    if carried.exif:
        chunks.append(("eXIf", carried.exif))
    if carried.xmp:
        chunks.append(("iTXt", b"XML:com.adobe.xmp\0\0\0\0\0" + carried.xmp))
    return chunks
