"""Pictures to a PDF, a page each, in the coding they have wherever a PDF knows it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from lighten.errors import LimitExceededError
from lighten.gathering.page_sizes import PageSize
from lighten.source import Progress, Source, no_progress

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
) -> Gathered:
    """A PDF at `out` of pictures in this order, each the right way up, with all its pixels.

    What a picture tells of camera and place stays behind. turns: by number of page, counted from
    1, degrees with the clock.
    Raises: FileExistsError; UnreadableFileError; LimitExceededError; ValueError for other than
    right angles, and for pages that are not there.
    """
    from lighten.gathering.picture_pages import PicturePages

    if out.exists():
        raise FileExistsError(out)
    if len(pictures) > _MOST_PICTURES:
        raise LimitExceededError(
            f"{len(pictures):,} pictures, more than {_MOST_PICTURES:,} at once. Gather fewer."
        )
    turns = turns or {}
    if unknown := sorted(set(turns) - set(range(1, len(pictures) + 1))):
        raise ValueError(f"there is no page {unknown[0]} to turn")
    remarks: dict[str, str] = {}
    pages = PicturePages(page)
    for number, source in enumerate(pictures, start=1):
        if remark := pages.add(source, turns.get(number, 0)):
            remarks[source.name] = remark
        progress(number / len(pictures), "gathering")
    partial = out.with_name(f"{out.name}.partial")
    try:
        pages.save(partial)
        partial.replace(out)
    finally:
        partial.unlink(missing_ok=True)
    return Gathered(path=out, pages=len(pictures), remarks=remarks)
