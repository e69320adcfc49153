"""Pages of two documents side by side; runs in a worker process."""

from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from lighten.contract import Box, PageView, Reading, Source
from lighten.errors import UnreadableFileError
from lighten.pictures.likeness import WINDOW_PX, Comparison, compare, luma, tones_alike
from lighten.proofs import PageProof, PictureProof
from lighten.proving.leave import Leave
from lighten.registry import format_named
from lighten.weights import ExtraKind

__all__ = ["Asked", "PageBatch", "TreatedBox", "compare_pages"]

# About what a screen shows; text and thin lines are still told apart.
PROOF_DPI = 100.0
_POINTS_PER_INCH = 72.0
# A pixel off by more than this of 255 is not rounding, and this share of them is not an edge
# that fell differently (bounds found on faulty copies, at 72 dpi and up).
_STRAY_STEP = 64
_BOUNDS = 0.001, 0.98
# Of pages whose lines were given other widths, as the person asked.
_REDRAWN_BOUNDS = 0.05, 0.8
_EDGE_PX = 2


class Asked(StrEnum):
    """What a treated picture was meant to keep."""

    SAME_LOOKS = "same-looks"
    OTHER_LOOKS = "other-looks"  # fewer colours, filters: what it shows stays
    OTHER_PICTURE = "other-picture"  # whatever the person brought


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatedBox:
    """Where a page shows a treated picture; box in points from the page's lower left."""

    part_id: str
    box: Box
    asked: Asked = Asked.SAME_LOOKS


# A picture below that has lost what it shows, whatever the treatment asked for.
_LEAST = {Asked.SAME_LOOKS: 0.75, Asked.OTHER_LOOKS: 0.5, Asked.OTHER_PICTURE: 0.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class PageBatch:
    """Some pages to compare, with the treated pictures on each, and what may be missing."""

    format: str
    original: Source
    copy: Source
    pages: tuple[tuple[int, tuple[TreatedBox, ...]], ...]
    leave: Leave = field(default_factory=Leave)


def compare_pages(batch: PageBatch) -> tuple[PageProof, ...]:
    """Every page of the batch, looked at in both documents."""
    format_ = format_named(batch.format)
    with format_.read(batch.original) as original, format_.read(batch.copy) as copy:
        return tuple(
            _compare(original, copy, page, boxes, batch.leave) for page, boxes in batch.pages
        )


def _compare(
    original: Reading, copy: Reading, page: int, boxes: tuple[TreatedBox, ...], leave: Leave
) -> PageProof:
    try:
        before = original.view(page, PROOF_DPI)
    except UnreadableFileError:
        return _undrawable(page, "cannot be drawn in the original, so it was not compared")
    try:
        after = copy.view(page, PROOF_DPI)
    except UnreadableFileError:
        return _undrawable(page, "cannot be drawn in the copy")
    if before.pixels.shape != after.pixels.shape:
        return _undrawable(page, "has another size in the copy")
    free = original.comment_boxes(page) if ExtraKind.COMMENTS in leave.dropped else ()
    return _judge(page, before, after, boxes, free=free, leave=leave)


def _undrawable(page: int, fault: str) -> PageProof:
    return PageProof(
        page=page, likeness=0.0, stray=1.0, is_text_same=False, faults=(f"page {page} {fault}",)
    )


def _judge(
    page: int,
    before: PageView,
    after: PageView,
    boxes: tuple[TreatedBox, ...],
    *,
    free: tuple[Box, ...],
    leave: Leave,
) -> PageProof:
    """Strict outside the treated pictures, by the picture's own measure inside them.

    free: where comments were, and anything may be now.
    """
    is_text_same = leave.is_text_kept(before.text, after.text)
    faults = [] if is_text_same else [f"page {page}: its text is not the same"]
    whole, stray, pictures = 1.0, 0.0, tuple(_unchanged(page, treated) for treated in boxes)
    if not np.array_equal(before.pixels, after.pixels):
        found = compare(before.pixels, after.pixels)
        outside = _outside(
            before.pixels.shape[:2], before.dpi, (*(treated.box for treated in boxes), *free)
        )
        whole, stray = float(found.similar.mean()), _stray(before, after, outside)
        elsewhere = found.similar[_whole_windows(outside, found.similar.shape)]
        most_stray, least_alike = _REDRAWN_BOUNDS if leave.is_redrawn else _BOUNDS
        if stray > most_stray or (elsewhere.size and elsewhere.mean() < least_alike):
            faults.append(f"page {page}: looks different outside the treated pictures")
        pictures = tuple(
            _judged(_judge_picture(page, before, after, found, box), box.asked) for box in boxes
        )
    faults += [
        f"page {page}: {picture.part_id.replace(':', ' ')} has lost what it shows"
        for picture in pictures
        if picture.is_lost
    ]
    return PageProof(
        page=page,
        likeness=whole,
        stray=stray,
        is_text_same=is_text_same,
        pictures=pictures,
        faults=tuple(faults),
    )


def _judged(picture: PictureProof, asked: Asked) -> PictureProof:
    return replace(picture, is_lost=picture.likeness < _LEAST[asked])


def _unchanged(page: int, treated: TreatedBox) -> PictureProof:
    return PictureProof(part_id=treated.part_id, page=page, likeness=1.0)


def _judge_picture(
    page: int, before: PageView, after: PageView, found: Comparison, treated: TreatedBox
) -> PictureProof:
    """The likeness of the windows that lie in the picture's box; tiny pictures are let be.

    Where other looks were asked for, only light and dark have to lie where they lay.
    """
    rows, columns = _window(before.pixels.shape[:2], before.dpi, treated.box, grow=0)
    rows, columns = (
        slice(-(-side.start // WINDOW_PX), side.stop // WINDOW_PX) for side in (rows, columns)
    )
    if rows.start >= rows.stop or columns.start >= columns.stop:
        return _unchanged(page, treated)
    if treated.asked is not Asked.SAME_LOOKS:
        alike = tones_alike(luma(before.pixels), luma(after.pixels), rows, columns)
        return PictureProof(part_id=treated.part_id, page=page, likeness=alike)
    return PictureProof(part_id=treated.part_id, page=page, likeness=found.likeness(rows, columns))


def _outside(shape: tuple[int, ...], dpi: float, boxes: tuple[Box, ...]) -> NDArray[np.bool_]:
    """True where no treated picture and no comment is, with a little margin for its edge."""
    mask = np.ones(shape, np.bool_)
    for box in boxes:
        rows, columns = _window((shape[0], shape[1]), dpi, box, grow=_EDGE_PX)
        mask[rows, columns] = False
    return mask


def _whole_windows(mask: NDArray[np.bool_], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """The windows of the similarity map that are true throughout."""
    height, width = shape[0], shape[1]
    rows, columns = mask.shape[0] // height, mask.shape[1] // width
    cut = mask[: height * rows, : width * columns]
    whole: NDArray[np.bool_] = np.all(cut.reshape(height, rows, width, columns), axis=(1, 3))
    return whole


def _window(shape: tuple[int, int], dpi: float, box: Box, *, grow: int) -> tuple[slice, slice]:
    """The rows and columns of a box in points, cut to the page."""
    scale = dpi / _POINTS_PER_INCH
    left, low, right, high = (side * scale for side in box)
    rows = slice(
        max(0, int(shape[0] - high) - grow), max(0, min(shape[0], int(shape[0] - low) + 1 + grow))
    )
    columns = slice(max(0, int(left) - grow), max(0, min(shape[1], int(right) + 1 + grow)))
    return rows, columns


def _stray(before: PageView, after: PageView, outside: NDArray[np.bool_]) -> float:
    """The share of pixels outside treated pictures that are far off."""
    if not outside.any():
        return 0.0
    off = (np.abs(luma(before.pixels) - luma(after.pixels)) > _STRAY_STEP) & outside
    return float(off.mean())
