"""A picture that was coded anew, as a member of a package."""

from dataclasses import dataclass, field, replace

from lighten.containers.pictures.member_file import SCREEN_DOTS
from lighten.model.kinds import ExtraKind
from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.files import PictureFile, build_picture_file
from lighten.pictures.metadata.carried import carried_by
from lighten.pictures.metadata.exif import ExifChange
from lighten.pictures.pixels.colours import is_srgb

__all__ = ["BuiltPicture", "build_member_picture"]

_SUFFIXES = {
    Coding.JPEG: ("jpeg", "image/jpeg"),
    Coding.PNG: ("png", "image/png"),
    Coding.WEBP: ("webp", "image/webp"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class BuiltPicture:
    """A whole picture file. suffix: the ending for it, without a dot."""

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
    """Build the file, with a resolution that keeps the size at which the picture was shown.

    shown_px: of the old picture, what the new one shows. needs_dots: the document measures in
    them. The declared orientation stays, for readers that obey it.
    Raises: BadPictureError where its Exif is longer than the new coding can carry.
    """
    dots = file.dots or ((SCREEN_DOTS, SCREEN_DOTS) if needs_dots else None)
    share = coded.width_px / shown_px[0]
    if dots is not None:
        dots = dots[0] * share, dots[1] * coded.height_px / shown_px[1]
    size = (coded.width_px, coded.height_px)
    change = ExifChange(
        dropped=() if keeps_metadata else frozenset(ExtraKind),
        size_px=size if size != (file.width_px, file.height_px) else None,
        share=share,
    )
    is_needed = keeps_metadata or not (file.profile and is_srgb(file.profile))
    carried = carried_by(file, change, coded.coding, keeps_profile=keeps_profile and is_needed)
    suffix, media_type = _SUFFIXES[coded.coding]
    return BuiltPicture(
        content=build_picture_file(coded, replace(carried, dots=dots)),
        suffix=suffix,
        media_type=media_type,
    )
