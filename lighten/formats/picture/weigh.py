"""The weight sheet of a picture file."""

from dataclasses import replace

from lighten.formats.picture.kinds import PICTURE_EXTRAS, kind_named
from lighten.formats.picture.open_file import PICTURE_ID, open_picture
from lighten.model.extras import EXTRAS
from lighten.model.kinds import PartKind, PictureClass
from lighten.model.source import Progress, Source
from lighten.model.treatments import ASSUMED_CM
from lighten.model.weights import Part, PictureFacts, Placement, WeightSheet, with_structure
from lighten.pictures.files import (
    PictureFile,
    Role,
    obstacle_of,
    picture_facts,
    stored_picture,
)
from lighten.pictures.metadata.carried import exif_of, metadata_weights
from lighten.pictures.metadata.exif import exif_dots, exif_time
from lighten.pictures.recoding.look import LookJob, look_at

__all__ = ["scanned_pt", "shown_pt", "weigh_picture"]

_POINTS_PER_CM = 72 / 2.54
# Stamps are declared for scanned film, for icons, and where inches and centimetres are mixed up;
# at 150 ppi little would be left of them.
_LEAST_DECLARED_CM = 5.0
_POINTS_PER_INCH = 72.0
# Of an inch: what scanners scan at.
_SCANNED_DOTS = 50.0, 2400.0
# What cameras and programs write who know nothing of a size (common practice, no source).
_DEFAULT_DOTS = {72.0, 96.0}


def weigh_picture(source: Source, progress: Progress) -> WeightSheet:
    """Weigh the picture, its colour profile and metadata; the parts add up to the file.

    Raises: UnreadableFileError, LimitExceededError.
    """
    file = open_picture(source)
    progress(0.3)
    picture = Part(
        id=PICTURE_ID,
        kind=PartKind.PICTURE,
        size_bytes=sum(block.size_bytes for block in file.of_role(Role.PICTURE)),
        name="The picture",
        picture=_facts(file),
    )
    profile = Part(
        id="profile",
        kind=PartKind.PROFILE,
        size_bytes=sum(block.size_bytes for block in file.of_role(Role.PROFILE)),
        name="Colour profile",
    )
    size_bytes = len(file.data)
    progress(1.0)
    return WeightSheet(
        format="picture",
        media_type=kind_named(file.kind).media_type,
        size_bytes=size_bytes,
        pages=None,
        parts=with_structure([picture, profile, *_extras(file)], size_bytes),
        taken_at=exif_time(exif_of(file)),
        remarks=(obstacle_of(file),) if obstacle_of(file) else (),
    )


def _facts(file: PictureFile) -> PictureFacts:
    placement, is_assumed = _shown(file)
    picture_class = PictureClass.PHOTO
    if not obstacle_of(file):
        picture_class = look_at(LookJob(picture=stored_picture(file), is_alone=True)) or (
            PictureClass.PHOTO
        )
    return replace(
        picture_facts(file, picture_class),
        is_alone=True,
        has_assumed_size=is_assumed,
        placements=(placement,),
    )


def shown_pt(file: PictureFile) -> tuple[float, float]:
    """Return the assumed size in points, before rotation."""
    placement, _ = _shown(file)
    return placement.width_pt, placement.height_pt


def scanned_pt(file: PictureFile) -> tuple[float, float]:
    """Return the scanned size by the file's resolution, else as `shown_pt`."""
    dots = _dots(file)
    if (
        dots is None
        or _DEFAULT_DOTS.issuperset(map(round, dots))
        or not all(_SCANNED_DOTS[0] <= one <= _SCANNED_DOTS[1] for one in dots)
    ):
        return shown_pt(file)
    return (
        file.width_px / dots[0] * _POINTS_PER_INCH,
        file.height_px / dots[1] * _POINTS_PER_INCH,
    )


def _shown(file: PictureFile) -> tuple[Placement, bool]:
    """Return the size at which it is assumed to be shown, and whether the file declares none.

    With its longer side as long as that of a page, unless a tag of its own says less, and not so
    little that nobody would show it so.
    """
    longest_px = max(file.width_px, file.height_px)
    longest_pt = ASSUMED_CM * _POINTS_PER_CM
    dots, is_assumed = _dots(file), True
    if dots is not None and min(dots) > 0:
        declared_pt = max(file.width_px / dots[0], file.height_px / dots[1]) * _POINTS_PER_INCH
        if _LEAST_DECLARED_CM * _POINTS_PER_CM <= declared_pt < longest_pt:
            longest_pt, is_assumed = declared_pt, False
    share = longest_pt / longest_px
    placement = Placement(width_pt=file.width_px * share, height_pt=file.height_px * share)
    return placement, is_assumed


def _dots(file: PictureFile) -> tuple[float, float] | None:
    return exif_dots(exif_of(file)) or file.dots


def _extras(file: PictureFile) -> list[Part]:
    weights = metadata_weights(file)
    return [
        Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=weights.get(kind, 0),
            name=EXTRAS[kind].title,
            extra=kind,
        )
        for kind in PICTURE_EXTRAS
    ]
