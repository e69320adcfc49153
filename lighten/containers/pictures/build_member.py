"""A picture that was coded anew, as a member of a package."""

import struct
from dataclasses import dataclass, field

from lighten.containers.pictures.member_file import SCREEN_DOTS
from lighten.pictures.coded import CodedPicture, Coding
from lighten.pictures.colours import is_srgb
from lighten.pictures.files import (
    Carried,
    PictureFile,
    Role,
    build_picture_file,
)

__all__ = ["BuiltPicture", "build_member_picture"]

_SUFFIXES = {
    Coding.JPEG: ("jpeg", "image/jpeg"),
    Coding.PNG: ("png", "image/png"),
}
_EXIF_HEAD = b"Exif\0\0"
_ORIENTATION, _SHORT, _UPRIGHT, _MOST_ORIENTATION = 0x0112, 3, 1, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class BuiltPicture:
    content: bytes = field(repr=False)
    suffix: str
    media_type: str


def build_member_picture(
    file: PictureFile,
    coded: CodedPicture,
    *,
    shown_px: tuple[int, int],
    keeps_profile: bool,
    keeps_metadata: bool,
    needs_dots: bool,
) -> BuiltPicture:
    """The file, which takes as much room by its own dots as what it shows took before.

    shown_px: of the old picture, what the new one shows. needs_dots: the document measures in
    them. Which side is up stays as it was told, for readers that mind it.
    """
    dots = file.dots or ((SCREEN_DOTS, SCREEN_DOTS) if needs_dots else None)
    if dots is not None:
        dots = (
            dots[0] * coded.width_px / shown_px[0],
            dots[1] * coded.height_px / shown_px[1],
        )
    suffix, media_type = _SUFFIXES[coded.coding]
    is_needed = keeps_metadata or not (file.profile and is_srgb(file.profile))
    carried = Carried(
        profile=file.profile if keeps_profile and is_needed else b"",
        exif=_exif(file) if keeps_metadata else _orientation_alone(_exif(file)),
        xmp=_first(file, Role.XMP) if keeps_metadata else b"",
        dots=dots,
    )
    return BuiltPicture(
        content=build_picture_file(coded, carried), suffix=suffix, media_type=media_type
    )


def _first(file: PictureFile, role: Role) -> bytes:
    for block in file.of_role(role):
        return file.content(block)
    return b""


def _exif(file: PictureFile) -> bytes:
    return _first(file, Role.EXIF).removeprefix(_EXIF_HEAD)


def _orientation_alone(exif: bytes) -> bytes:
    """Exif that says which side is up and nothing else; none where it is the usual one."""
    order = {b"II": "<", b"MM": ">"}.get(exif[:2])
    if order is None or len(exif) < 10:
        return b""
    start = struct.unpack_from(f"{order}I", exif, 4)[0]
    if start + 2 > len(exif):
        return b""
    count = struct.unpack_from(f"{order}H", exif, start)[0]
    for number in range(count):
        at = start + 2 + 12 * number
        if at + 12 > len(exif):
            break
        tag, kind = struct.unpack_from(f"{order}2H", exif, at)
        value = struct.unpack_from(f"{order}H", exif, at + 8)[0]
        if tag == _ORIENTATION and kind == _SHORT and _UPRIGHT < value <= _MOST_ORIENTATION:
            entry = struct.pack("<2HI2H", _ORIENTATION, _SHORT, 1, value, 0)
            return b"II*\0" + struct.pack("<IH", 8, 1) + entry + b"\0\0\0\0"
    return b""
