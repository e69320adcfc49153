"""The weight sheet of a package: every member a part, extras within members apart."""

from collections.abc import Callable, Iterable, Mapping, Sequence

from lighten.containers.extra_parts import extra_parts
from lighten.containers.package_document import PackageDocument
from lighten.containers.pictures import weigh_members
from lighten.model.kinds import ExtraKind
from lighten.model.source import Progress, share_of
from lighten.model.weights import Part, WeightSheet, with_structure

__all__ = ["Within", "weigh_package"]

# By member, the weight of extras that are only a part of it.
Within = Mapping[str, Mapping[ExtraKind, int]]


def weigh_package(
    document: PackageDocument,
    *,
    format_name: str,
    extras: Sequence[ExtraKind],
    unsized_pt: tuple[float, float],
    within: Callable[[], Within],
    other_parts: Callable[[Within], Iterable[Part]],
    progress: Progress,
) -> WeightSheet:
    """Weigh a package; the parts add up to the file's bytes.

    extras: in the order in which the sheet lists them. unsized_pt: how large a page shows what
    nothing says the size of. other_parts: of members that are no picture, no extra, no structure.
    Raises: UnreadableFileError if any member is not what it says.
    """
    archive = document.package.archive
    archive.check()
    progress(0.3)
    pictures = weigh_members(archive, document.pictures, unsized_pt, share_of(progress, 0.3, 0.8))
    inside = within()
    parts = [
        *pictures,
        *other_parts(inside),
        *extra_parts(document, extras, inside, pictures),
    ]
    progress(1.0)
    return WeightSheet(
        format=format_name,
        media_type=document.media_type,
        size_bytes=archive.size_bytes,
        pages=None,
        parts=with_structure(parts, archive.size_bytes),
        is_signed=document.package.is_signed,
        remarks=_outside(len(document.package.outside_pictures)),
    )


def _outside(pictures: int) -> tuple[str, ...]:
    """Return the remark on pictures that are linked to, in words for a person."""
    if not pictures:
        return ()
    what = "1 picture lies" if pictures == 1 else f"{pictures} pictures lie"
    return (
        f"{what} outside this file, and will not be sent with it. Insert into the document what "
        "the receiver is to see.",
    )
