"""Pages of two documents side by side; runs in a worker process."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from lighten.contract import LockstepReading, PagedReading, PageView
from lighten.model.errors import UnreadableFileError
from lighten.model.proofs import Box, PageProof, PictureProof
from lighten.model.source import Source
from lighten.pictures.pixels.filters import level
from lighten.pictures.pixels.planes import luma
from lighten.pictures.scores.held_text import TILE_PX
from lighten.pictures.scores.likeness import WINDOW_PX, Comparison, compare, tones_alike
from lighten.proving.page_regions import (
    POINTS_PER_INCH,
    changed_block,
    outside_mask,
    pixel_window,
    points_box,
    stray_share,
    whole_windows,
    worst_box,
)
from lighten.proving.permitted_losses import PermittedLosses
from lighten.proving.read_boxes import cut_score, read_box
from lighten.proving.read_picture import PictureRead
from lighten.proving.treated import Intent, below, blurred_places, is_lost, score_of
from lighten.proving.treated_boxes import TreatedBox
from lighten.registry import format_named

__all__ = ["PageBatch", "compare_pages", "equal_page"]

# About the resolution of a screen; text and thin lines remain distinct.
PROOF_DPI = 100.0
_BOUNDS = 0.001, 0.98
# Of pages whose lines were given other widths, as the person asked.
_REDRAWN_BOUNDS = 0.05, 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class PageBatch:
    """Some pages to compare, with the treated pictures on each, and what may be missing.

    text_only: pages that are drawn from the same contents, of which only text is to be read.
    """

    format: str
    original: Source
    copy: Source
    pages: tuple[tuple[int, tuple[TreatedBox, ...]], ...]
    permitted: PermittedLosses = field(default_factory=PermittedLosses)
    text_only: frozenset[int] = frozenset()


def compare_pages(batch: PageBatch) -> tuple[PageProof, ...]:
    """Every page of the batch, looked at in both documents."""
    format_ = format_named(batch.format)
    with format_.read(batch.original) as original, format_.read(batch.copy) as copy:
        assert isinstance(original, PagedReading) and isinstance(copy, PagedReading)
        return tuple(
            equal_page(page, original.page_sizes[page - 1], boxes)
            if page in batch.text_only and _have_same_text(original, copy, page)
            else replace(
                _compare(original, copy, page, boxes, batch.permitted),
                size_pt=original.page_sizes[page - 1],
            )
            for page, boxes in batch.pages
        )


def equal_page(page: int, size_pt: tuple[float, float], boxes: Iterable[TreatedBox]) -> PageProof:
    """Return the proof of a page on which nothing differs."""
    return PageProof(
        page=page,
        likeness=1.0,
        stray=0.0,
        is_text_same=True,
        size_pt=size_pt,
        pictures=tuple(_unchanged(page, treated) for treated in boxes),
    )


def _have_same_text(original: PagedReading, copy: PagedReading, page: int) -> bool:
    try:
        assert isinstance(original, LockstepReading) and isinstance(copy, LockstepReading)
        return original.page_text(page) == copy.page_text(page)
    except UnreadableFileError:
        return False


def _compare(
    original: PagedReading,
    copy: PagedReading,
    page: int,
    boxes: tuple[TreatedBox, ...],
    permitted: PermittedLosses,
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
    for treated in boxes:
        before = _turned(before, treated)
    free = original.annotation_boxes(page, permitted.dropped)
    reads = tuple(
        replace(
            read_box(original, copy, page, treated), score=cut_score(original, copy, page, treated)
        )
        for treated in boxes
    )
    return _judge(
        page, before, after, tuple(zip(boxes, reads, strict=True)), free=free, permitted=permitted
    )


def _turned(view: PageView, treated: TreatedBox) -> PageView:
    """The original page as a straightened scan has turned it."""
    left, low, right, high = (side * view.dpi / POINTS_PER_INCH for side in treated.box)
    middle = (left + right) / 2, view.pixels.shape[0] - (low + high) / 2
    return replace(view, pixels=level(view.pixels, treated.turned_degrees, middle))


def _undrawable(page: int, fault: str) -> PageProof:
    return PageProof(
        page=page, likeness=0.0, stray=1.0, is_text_same=False, faults=(f"page {page} {fault}",)
    )


def _judge(
    page: int,
    before: PageView,
    after: PageView,
    treated_boxes: tuple[tuple[TreatedBox, PictureRead], ...],
    *,
    free: tuple[Box, ...],
    permitted: PermittedLosses,
) -> PageProof:
    """Judge a page strictly outside the treated pictures, and by the picture's own measure inside
    them.

    free: where annotations were that were to go, and anything may be now.
    """
    is_text_same = permitted.is_text_kept(before.text, after.text)
    boxes = tuple(treated for treated, _ in treated_boxes)
    faults = [] if is_text_same else [f"page {page}: its text is not the same"]
    whole, stray, worst = 1.0, 0.0, None
    pictures = tuple(_unchanged(page, treated) for treated in boxes)
    if not np.array_equal(before.pixels, after.pixels):
        comparison = compare(before.pixels, after.pixels)
        outside = outside_mask(
            before.pixels.shape[:2],
            before.dpi,
            (*(treated.visible_box for treated in boxes), *free),
        )
        whole, stray = float(comparison.similar.mean()), stray_share(before, after, outside)
        elsewhere = comparison.similar[whole_windows(outside, comparison.similar.shape)]
        most_stray, least_alike = _REDRAWN_BOUNDS if permitted.is_redrawn else _BOUNDS
        if stray > most_stray or (elsewhere.size and elsewhere.mean() < least_alike):
            faults.append(f"page {page}: looks different outside the treated pictures")
        elif not permitted.is_redrawn:
            faults += changed_block(page, before, after, outside)
        pictures = tuple(
            _judge_picture(page, (before, after), comparison, treated, read)
            for treated, read in treated_boxes
        )
        worst = worst_box(before, comparison)
    faults += [f"page {page}: {fault}" for picture in pictures for fault in picture.faults]
    return PageProof(
        page=page,
        likeness=whole,
        stray=stray,
        is_text_same=is_text_same,
        worst=worst,
        pictures=pictures,
        faults=tuple(faults),
    )


def _unchanged(page: int, treated: TreatedBox) -> PictureProof:
    return PictureProof(
        part_id=treated.part_id, page=page, likeness=1.0, score=100.0, box=treated.visible_box
    )


def _judge_picture(
    page: int,
    both: tuple[PageView, PageView],
    comparison: Comparison,
    treated: TreatedBox,
    read: PictureRead,
) -> PictureProof:
    """Judge a picture's box on the two pages; tiny pictures are skipped.

    Where other looks were asked for, only light and dark have to lie where they lay.
    """
    before, after = both
    rows, columns = pixel_window(before.pixels.shape[:2], before.dpi, treated.visible_box, grow=0)
    windows = [
        slice(-(-side.start // WINDOW_PX), side.stop // WINDOW_PX) for side in (rows, columns)
    ]
    if any(side.start >= side.stop for side in windows):
        return _unchanged(page, treated)
    one, other = before.pixels[rows, columns], after.pixels[rows, columns]
    if treated.intent is Intent.SAME_LOOKS:
        alike, score = (
            comparison.likeness(*windows),
            score_of(one, other, is_cut=treated.is_cut) if read.score is None else read.score,
        )
    else:
        alike, score = tones_alike(luma(before.pixels), luma(after.pixels), *windows), None
    blurred: tuple[Box, ...] = ()
    if treated.holds_text and treated.intent is Intent.OTHER_LOOKS:
        blurred = tuple(_blurred(before, rows, columns, one, other))
    has_gone = is_lost(alike, score, treated.intent)
    faults = (
        [f"{treated.name} has lost what it shows"]
        if has_gone
        else [
            *read.faults,
            *([f"text in {treated.name} has become hard to read"] if blurred else ()),
            *below(treated.name, score, treated.least_score),
        ]
    )
    return PictureProof(
        part_id=treated.part_id,
        page=page,
        likeness=alike,
        score=score,
        box=treated.visible_box,
        is_lost=has_gone,
        places=(*read.places, *blurred),
        faults=tuple(faults),
        tint=read.tint,
        unreadable=read.unreadable,
        may_be_unreadable=treated.may_lose_words,
    )


def _blurred(
    view: PageView,
    rows: slice,
    columns: slice,
    one: NDArray[np.uint8],
    other: NDArray[np.uint8],
) -> Iterator[Box]:
    """Return boxes of text that can no longer be read, in points of the page."""
    for row, column in blurred_places(one, other):
        top, left = rows.start + row * TILE_PX, columns.start + column * TILE_PX
        yield points_box(view, left, top, left + TILE_PX, top + TILE_PX)
