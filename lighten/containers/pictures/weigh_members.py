"""The pictures of a package as parts of its weight sheet."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace

from lighten.containers.archive import Archive
from lighten.containers.pictures.member_file import METAFILE, SVG, member_picture
from lighten.model.kinds import PartKind, PictureClass
from lighten.model.source import Progress
from lighten.model.weights import Part, PictureFacts, Placement
from lighten.parallel import open_workers
from lighten.pictures.files import (
    BadPictureError,
    PictureFile,
    Role,
    obstacle_of,
    picture_facts,
    stored_picture,
)
from lighten.pictures.recoding.look import LookJob, look_at

__all__ = ["MemberPicture", "Showing", "metadata_bytes", "weigh_members"]

_UNREADABLE = "kept: it cannot be read"
_NO_PICTURE = "kept: a kind of picture that is not known here"
_TILED = "kept: its own size says how often it is repeated"
_TOO_LARGE = "kept: it has more pixels than can be worked on safely"
_PINNED = "kept: something in use leads to it, and how large it is shown is not known"
_MOST_PIXELS = 120_000_000
# It is shown so large that it is the page.
_COVERS_A_PAGE = 0.8
_COVERING_SIZE_PT = 595.0 * 842.0  # A4
_LONGEST_NAME = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Showing:
    """One showing of a picture.

    width_pt, height_pt: of the whole picture as shown; None where nothing says so.
    visible: left, top, right and bottom of what is in sight, as shares of its sides.
    near: words that stand by it, or "".
    """

    width_pt: float | None
    height_pt: float | None
    visible: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    near: str = ""
    is_tiled: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberPicture:
    """A member and all its showings.

    id: of its part: the place of its first showing, which is the same in every copy.
    repeats: members that hold the same bytes; their showings are counted here.
    is_pinned: something in use leads to it in a way that is not known here.
    """

    id: str
    member: str
    showings: tuple[Showing, ...]
    repeats: tuple[str, ...] = field(default=())
    is_pinned: bool = False


def weigh_members(
    archive: Archive,
    pictures: Iterable[MemberPicture],
    unsized_pt: tuple[float, float],
    progress: Progress,
) -> list[Part]:
    """Return a part for each picture member, with metadata weighed separately.

    unsized_pt: how large a page shows what nothing says the size of. Raises: as `Archive.content`.
    """
    listed = list(pictures)
    files = [_read(archive, picture.member) for picture in listed]
    parts = []
    with open_workers() as workers:
        classes = workers.in_threads(
            _class_of, (_look(file, one) for file, one in zip(files, listed, strict=True))
        )
        entries = zip(listed, files, classes, strict=True)
        for number, (picture, file, picture_class) in enumerate(entries, start=1):
            near = next(_words(picture.showings), "")
            facts = replace(_facts(file, picture, picture_class, unsized_pt), near=near)
            weight = archive.members[picture.member].weight
            if isinstance(file, PictureFile):
                weight -= metadata_bytes(archive, picture.member, file)
            parts.append(
                Part(
                    id=picture.id,
                    kind=PartKind.PICTURE,
                    size_bytes=weight,
                    name=f"Picture {number}, near “{near}”" if near else f"Picture {number}",
                    picture=facts,
                )
            )
            progress(number / len(listed))
    return parts


def metadata_bytes(archive: Archive, member: str, file: PictureFile) -> int:
    """Return the bytes of a picture that serve people and programs and not the eye, as weighed
    here.
    """
    if file.kind not in ("jpeg", "png", "webp"):
        return 0
    carried = sum(block.size_bytes for block in file.of_role(*_METADATA))
    stored = archive.members[member]
    return carried * len(stored.packed) // max(1, stored.size_bytes)


_METADATA = (
    *(Role.EXIF, Role.XMP, Role.XMP_MORE, Role.IMAGE_RESOURCES),
    *(Role.TEXT, Role.PREVIEW, Role.PRIVATE, Role.LEFTOVER),
)


def _read(archive: Archive, member: str) -> PictureFile | str | None:
    """Return the picture; None for an unknown kind, or the reason why it cannot be read."""
    content = archive.content(member)
    try:
        return member_picture(content)
    except BadPictureError:
        return _UNREADABLE


def _look(file: PictureFile | str | None, picture: MemberPicture) -> LookJob | None:
    if not isinstance(file, PictureFile) or obstacle_of(file):
        return None
    if file.width_px * file.height_px > _MOST_PIXELS:
        return None
    is_page = any(
        _visible_area(showing) >= _COVERS_A_PAGE * _COVERING_SIZE_PT for showing in picture.showings
    )
    return LookJob(picture=stored_picture(file), is_page=is_page)


def _visible_area(showing: Showing) -> float:
    """Return the area that is in sight of a picture, in square points; 0 where nothing says so."""
    left, top, right, bottom = showing.visible
    return (showing.width_pt or 0) * (showing.height_pt or 0) * (right - left) * (bottom - top)


def _class_of(job: LookJob | None) -> PictureClass:
    return (job and look_at(job)) or PictureClass.PHOTO


def _facts(
    file: PictureFile | str | None,
    picture: MemberPicture,
    picture_class: PictureClass,
    unsized_pt: tuple[float, float],
) -> PictureFacts:
    if not isinstance(file, PictureFile):
        placements = tuple(_placement(showing, (1, 1), unsized_pt) for showing in picture.showings)
        return PictureFacts(
            width_px=1,
            height_px=1,
            coding="unknown",
            colour="",
            bits=8,
            picture_class=picture_class,
            placements=placements,
            untouchable=file or _NO_PICTURE,
        )
    size = (file.width_px, file.height_px)
    obstacle = obstacle_of(file)
    if picture.is_pinned:
        obstacle = obstacle or _PINNED
    if any(showing.is_tiled for showing in picture.showings):
        obstacle = obstacle or _TILED
    if size[0] * size[1] > _MOST_PIXELS and file.kind not in (METAFILE, SVG):
        obstacle = obstacle or _TOO_LARGE
    return replace(
        picture_facts(file, picture_class),
        placements=tuple(_placement(showing, size, unsized_pt) for showing in picture.showings),
        visible=_in_sight(picture.showings),
        untouchable=obstacle,
    )


def _placement(
    showing: Showing, size_px: tuple[int, int], unsized_pt: tuple[float, float]
) -> Placement:
    if showing.width_pt and showing.height_pt:
        return Placement(width_pt=showing.width_pt, height_pt=showing.height_pt)
    share = min(most / side for most, side in zip(unsized_pt, size_px, strict=True))
    return Placement(width_pt=size_px[0] * share, height_pt=size_px[1] * share)


def _in_sight(showings: tuple[Showing, ...]) -> tuple[float, float, float, float]:
    """Return the part of a picture that any placement shows."""
    if not showings:
        return 0.0, 0.0, 1.0, 1.0
    lefts, tops, rights, bottoms = zip(*(showing.visible for showing in showings), strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


def _words(showings: tuple[Showing, ...]) -> Iterator[str]:
    for showing in showings:
        words = " ".join(showing.near.split())
        if words:
            short = words if len(words) <= _LONGEST_NAME else words[:_LONGEST_NAME].rstrip() + "…"
            yield short
