"""Pictures to a PDF, a page each, in the coding they have wherever a PDF knows it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from lighten.gathering.page_sizes import PageSize
from lighten.model.errors import LimitExceededError
from lighten.model.source import Progress, Source, no_progress
from lighten.pictures.pixels.page_corners import Corners

__all__ = ["Gathered", "gather"]

_MOST_PICTURES = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathered:
    """A document of pictures. remarks: by the name of a picture, what a person should know."""

    path: Path
    pages: int
    remarks: Mapping[str, str] = field(default_factory=dict)


def gather(
    pictures: Sequence[Source],
    out: Path,
    page: PageSize = PageSize.OWN,
    progress: Progress = no_progress,
    *,
    turns: Mapping[int, int] | None = None,
    corners: Mapping[int, Corners] | None = None,
    finds_sheets: bool = False,
) -> Gathered:
    """Write a PDF to `out` of pictures in this order, each upright, with all its pixels.

    A TIFF has a page for each of its own.

    Metadata about camera and place is not copied. turns: by number of page, counted from
    1, degrees with the clock. corners: likewise, of the sheet of paper in a photo that is to be the
    page; finds_sheets: they are searched where none are given.
    Raises: FileExistsError; UnreadableFileError; LimitExceededError; ValueError for other than
    right angles, corners of no sheet, and pages that are not there.
    """
    from lighten.gathering.loose_pictures import loose_pictures
    from lighten.gathering.picture_pages import PageTurn, PicturePages

    if out.exists():
        raise FileExistsError(out)
    if len(pictures) > _MOST_PICTURES:
        raise _too_many(f"{len(pictures):,} pictures, more")
    turns, corners = turns or {}, corners or {}
    remarks: dict[str, str] = {}
    pages = PicturePages(page)
    for done, source in enumerate(pictures, start=1):
        for picture in loose_pictures(source):
            if len(pages) == _MOST_PICTURES:
                raise _too_many("more pages")
            number = len(pages) + 1
            look = PageTurn(
                degrees=turns.get(number, 0),
                corners=corners.get(number),
                finds_sheet=finds_sheets,
            )
            if remark := pages.add(picture, look):
                remarks[picture.name] = remark
        progress(done / len(pictures), "gathering")
    if unknown := sorted(page for page in {*turns, *corners} if not 1 <= page <= len(pages)):
        raise ValueError(f"there is no page {unknown[0]}")
    partial = out.with_name(f"{out.name}.partial")
    try:
        pages.save(partial)
        partial.replace(out)
    finally:
        partial.unlink(missing_ok=True)
    return Gathered(path=out, pages=len(pages), remarks=remarks)


def _too_many(what: str) -> LimitExceededError:
    return LimitExceededError(f"{what} than {_MOST_PICTURES:,} at once. Gather fewer.")
