"""The weight sheet of a TIFF file."""

from collections.abc import Iterator
from dataclasses import dataclass

from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import Directory, TiffFile
from lighten.formats.tiff.kinds import TIFF, TIFF_EXTRAS
from lighten.formats.tiff.open_file import open_tiff
from lighten.formats.tiff.page import Photometric, TiffPage, pages_of, previews_of
from lighten.formats.tiff.stored_page import stored_page
from lighten.model.extras import EXTRAS
from lighten.model.kinds import ExtraKind, PartKind, PictureClass
from lighten.model.source import Progress, Source
from lighten.model.treatments import ASSUMED_CM
from lighten.model.weights import Part, PictureFacts, Placement, WeightSheet, with_structure
from lighten.parallel import open_workers
from lighten.pictures.metadata.exif import parse_time
from lighten.pictures.recoding.look import LookJob, look_at

__all__ = ["assumed_pt", "taken_at", "weigh_tiff"]

_POINTS_PER_CM = 72 / 2.54
_RGB = 3
_STRUCTURE = "structure"
# Between values that begin at even places.
_PADDING_BYTES = 1


def weigh_tiff(source: Source, progress: Progress) -> WeightSheet:
    """Weigh each page's pixels and profile, previews, and other data, adding up to the file.

    Raises: UnreadableFileError, LimitExceededError.
    """
    with open_tiff(source) as file:
        pages = pages_of(file)
        weights = _weights(file, pages)
        parts: list[Part] = []
        with open_workers() as workers:
            jobs = (
                LookJob(picture=stored_page(file, page), is_alone=True)
                for page in pages
                if not page.obstacle
            )
            looks = workers.in_threads(look_at, jobs)
            for page in pages:
                look = None if page.obstacle else next(looks)
                parts += _of_page(page, look or PictureClass.PHOTO, weights)
                progress(page.number / len(pages))
        return WeightSheet(
            format="tiff",
            media_type=TIFF.media_type,
            size_bytes=file.size_bytes,
            pages=len(pages),
            parts=with_structure([*parts, *_extras(weights)], file.size_bytes),
            taken_at=taken_at(file, pages[0].directory),
            remarks=(*file.remarks, *_whole_obstacle(pages)),
        )


def _whole_obstacle(pages: tuple[TiffPage, ...]) -> tuple[str, ...]:
    obstacles = {page.obstacle for page in pages}
    return tuple(obstacles) if len(obstacles) == 1 and "" not in obstacles else ()


def taken_at(file: TiffFile, directory: Directory) -> str:
    """Return when a page was made, as "2026-05-04 05:12:00"; "" if unknown."""
    entry = directory.entries.get(tags.TIME)
    return "" if entry is None else parse_time(file.raw(entry))


def _of_page(page: TiffPage, look: PictureClass, weights: dict[str, int]) -> Iterator[Part]:
    yield Part(
        id=page.id,
        kind=PartKind.PICTURE,
        size_bytes=weights.get(page.id, 0),
        name=f"Page {page.number}",
        picture=_facts(page, look),
    )
    yield Part(
        id=f"profile:{page.number}",
        kind=PartKind.PROFILE,
        size_bytes=weights.get(f"profile:{page.number}", 0),
        name=f"Colour profile of page {page.number}",
    )


def _facts(page: TiffPage, look: PictureClass) -> PictureFacts:
    width_pt, height_pt = page.own_pt or assumed_pt(page)
    return PictureFacts(
        width_px=page.width_px,
        height_px=page.height_px,
        coding=page.coding_title,
        colour=page.colour_title,
        bits=page.bits,
        is_lossy=page.is_lossy,
        has_colour=page.photometric not in (Photometric.WHITE_IS_ZERO, Photometric.BLACK_IS_ZERO),
        has_palette=page.has_palette,
        # Exactly packed samples of 16 bits can be packed again.
        may_repack=not page.is_lossy,
        is_alone=True,
        has_assumed_size=page.own_pt is None,
        rgb_profile_bytes=len(page.profile) if page.colours == _RGB else 0,
        mask="within" if page.extra_samples else "",
        picture_class=look,
        placements=(Placement(width_pt=width_pt, height_pt=height_pt, page=page.number),),
        near=f"page {page.number}",
        untouchable=page.obstacle,
    )


def assumed_pt(page: TiffPage) -> tuple[float, float]:
    """Return the assumed size of a page without resolution."""
    share = ASSUMED_CM * _POINTS_PER_CM / max(1, page.width_px, page.height_px)
    return max(1, page.width_px) * share, max(1, page.height_px) * share


def _extras(weights: dict[str, int]) -> list[Part]:
    return [
        Part(
            id=f"extra:{kind}",
            kind=PartKind.EXTRA,
            size_bytes=weights.get(f"extra:{kind}", 0),
            name=EXTRAS[kind].title,
            extra=kind,
        )
        for kind in TIFF_EXTRAS
    ]


@dataclass(frozen=True, slots=True, order=True)
class _Claim:
    """Bytes of the file that belong to a part."""

    start: int
    end: int
    owner: str


def _weights(file: TiffFile, pages: tuple[TiffPage, ...]) -> dict[str, int]:
    """Return bytes by part id; each byte counts once, and the remainder is structure."""
    weights: dict[str, int] = {}
    leftovers = f"extra:{ExtraKind.LEFTOVERS}"
    at = 16 if file.is_big else 8
    for claim in sorted(_claims(file, pages)):
        gap = claim.start - at
        if gap > _PADDING_BYTES:
            weights[leftovers] = weights.get(leftovers, 0) + gap
        if claim.end > at:
            start = max(at, claim.start)
            weights[claim.owner] = weights.get(claim.owner, 0) + claim.end - start
            at = claim.end
    if file.size_bytes - at > _PADDING_BYTES:
        weights[leftovers] = weights.get(leftovers, 0) + file.size_bytes - at
    return weights


def _claims(file: TiffFile, pages: tuple[TiffPage, ...]) -> Iterator[_Claim]:
    previews = {one.start for one in previews_of(file)}
    for page in pages:
        for offset, length in page.chunks:
            yield _Claim(offset, offset + length, page.id)
        yield from _of_directory(page.directory, page.number, previews)
    for directory in file.pages:
        if directory.start in previews:
            yield from _of_preview(file, directory)
        for below in directory.below.get(tags.SUB_IFDS, ()):
            yield from _of_preview(file, below)


def _of_directory(directory: Directory, number: int, previews: set[int]) -> Iterator[_Claim]:
    yield _Claim(directory.start, directory.end, _STRUCTURE)
    for entry in directory.entries.values():
        if entry.size_bytes:
            yield _Claim(entry.start, entry.end, _owner(entry.tag, number))
    for tag, directories in directory.below.items():
        for below in directories:
            if below.start not in previews:
                yield from _all_of(below, _owner(tag, number))


def _owner(tag: int, number: int) -> str:
    if tag == tags.PROFILE:
        return f"profile:{number}"
    extra = tags.extra_of_tag(tag)
    return _STRUCTURE if extra is None else f"extra:{extra}"


def _all_of(directory: Directory, owner: str) -> Iterator[_Claim]:
    """Return a directory with its values; a maker's note is an extra."""
    yield _Claim(directory.start, directory.end, owner)
    for entry in directory.entries.values():
        if entry.size_bytes:
            is_note = entry.tag == tags.MAKERS_NOTE
            note = f"extra:{ExtraKind.MAKERS_NOTES}"
            yield _Claim(entry.start, entry.end, note if is_note else owner)
    for directories in directory.below.values():
        for below in directories:
            yield from _all_of(below, owner)


def _of_preview(file: TiffFile, directory: Directory) -> Iterator[_Claim]:
    owner = f"extra:{ExtraKind.THUMBNAILS}"
    yield from _all_of(directory, owner)
    for offsets, lengths in (
        (tags.STRIP_OFFSETS, tags.STRIP_BYTES),
        (tags.TILE_OFFSETS, tags.TILE_BYTES),
    ):
        starts, sizes = file.numbers(directory, offsets), file.numbers(directory, lengths)
        for start, size in zip(starts, sizes, strict=False):
            yield _Claim(start, min(start + size, file.size_bytes), owner)
