"""Pages of two documents side by side; runs in a worker process."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from lighten.contract import PagedReading, PageView
from lighten.model.errors import UnreadableFileError
from lighten.model.proofs import Box, PageProof, PictureProof
from lighten.model.source import Source
from lighten.pictures.pixels.filters import level
from lighten.pictures.pixels.planes import luma
from lighten.pictures.pixels.sizes import SCREEN_PPI, pixels_at
from lighten.pictures.scores.held_text import TILE_PX
from lighten.pictures.scores.likeness import WINDOW_PX, Comparison, compare, tones_alike
from lighten.pictures.words.legibility import ENOUGH_PPI, READ_PPI
from lighten.proving.permitted_losses import PermittedLosses
from lighten.proving.pictures import are_same_shape, at_size
from lighten.proving.read_picture import PictureRead, Place, read_picture, unreadable_words
from lighten.proving.treated import Intent, below, blurred_places, is_lost, score_of
from lighten.registry import format_named

__all__ = ["PageBatch", "TreatedBox", "compare_pages"]

# About the resolution of a screen; text and thin lines remain distinct.
PROOF_DPI = 100.0
_POINTS_PER_INCH = 72.0
# A pixel off by more than this of 255 is not rounding, and this share of them is not an edge
# that fell differently (bounds found on faulty copies, at 72 dpi and up).
_STRAY_STEP = 64
_BOUNDS = 0.001, 0.98
# One sign that is gone is too small a share of a page to be seen by these: the mean of each channel
# over a block of so many pixels, 2 mm, moves by less where nothing has changed but smoothed edges.
_BLOCK_PX, _MOST_BLOCK_STEP = 8, 24.0
# Of pages whose lines were given other widths, as the person asked.
_REDRAWN_BOUNDS = 0.05, 0.8
_EDGE_PX = 2
# How much finer than a screen pictures that were cut are drawn, to be scored; none with more pixels
# on the screen, as memory is limited.
_DRAWN_FINER, _MOST_DRAWN_FINER_PX = 3, 4_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatedBox:
    """Place where a page shows a treated picture; boxes in points from the page's lower left.

    box: of all of it. visible_box: what clipping leaves of it. name: for messages. read_px: over
    how many pixels it is read; None where it need not be, as it is read elsewhere. is_plain: all
    of it is there, and no mask hides any. is_cut: what was hidden is gone, and the rest lies a
    fraction of a pixel beside where it lay, which is not seen. holds_text: it is the page, as a
    scan. least_score: what it is to look like at least. is_layered: it has become paper, strokes
    and pictures apart. turned_degrees: with the clock, of a scan that was straightened, and its
    page with it. ppi: how fine it is in the copy. original_px: width and height in the original.
    may_lose_words: a person chose fewer pixels than its small print needs.
    """

    part_id: str
    box: Box
    visible_box: Box
    name: str = "a picture"
    intent: Intent = Intent.SAME_LOOKS
    read_px: tuple[int, int] | None = None
    is_plain: bool = False
    is_cut: bool = False
    holds_text: bool = False
    least_score: float = 0.0
    is_layered: bool = False
    turned_degrees: float = 0.0
    ppi: float | None = None
    original_px: tuple[int, int] = (0, 0)
    may_lose_words: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PageBatch:
    """Some pages to compare, with the treated pictures on each, and what may be missing."""

    format: str
    original: Source
    copy: Source
    pages: tuple[tuple[int, tuple[TreatedBox, ...]], ...]
    permitted: PermittedLosses = field(default_factory=PermittedLosses)


def compare_pages(batch: PageBatch) -> tuple[PageProof, ...]:
    """Every page of the batch, looked at in both documents."""
    format_ = format_named(batch.format)
    with format_.read(batch.original) as original, format_.read(batch.copy) as copy:
        assert isinstance(original, PagedReading) and isinstance(copy, PagedReading)
        return tuple(
            replace(
                _compare(original, copy, page, boxes, batch.permitted),
                size_pt=original.page_sizes[page - 1],
            )
            for page, boxes in batch.pages
        )


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
            _read(original, copy, page, treated), score=_cut_score(original, copy, page, treated)
        )
        for treated in boxes
    )
    return _judge(
        page, before, after, tuple(zip(boxes, reads, strict=True)), free=free, permitted=permitted
    )


def _turned(view: PageView, treated: TreatedBox) -> PageView:
    """The original page as a straightened scan has turned it."""
    left, low, right, high = (side * view.dpi / _POINTS_PER_INCH for side in treated.box)
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
    """Strict outside the treated pictures, by the picture's own measure inside them.

    free: where annotations were that were to go, and anything may be now.
    """
    is_text_same = permitted.is_text_kept(before.text, after.text)
    boxes = tuple(treated for treated, _ in treated_boxes)
    faults = [] if is_text_same else [f"page {page}: its text is not the same"]
    whole, stray, worst = 1.0, 0.0, None
    pictures = tuple(_unchanged(page, treated) for treated in boxes)
    if not np.array_equal(before.pixels, after.pixels):
        comparison = compare(before.pixels, after.pixels)
        outside = _outside(
            before.pixels.shape[:2],
            before.dpi,
            (*(treated.visible_box for treated in boxes), *free),
        )
        whole, stray = float(comparison.similar.mean()), _stray(before, after, outside)
        elsewhere = comparison.similar[_whole_windows(outside, comparison.similar.shape)]
        most_stray, least_alike = _REDRAWN_BOUNDS if permitted.is_redrawn else _BOUNDS
        if stray > most_stray or (elsewhere.size and elsewhere.mean() < least_alike):
            faults.append(f"page {page}: looks different outside the treated pictures")
        elif not permitted.is_redrawn:
            faults += _changed_block(page, before, after, outside)
        pictures = tuple(
            _judge_picture(page, (before, after), comparison, treated, read)
            for treated, read in treated_boxes
        )
        worst = _worst_place(before, comparison)
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


def _read(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> PictureRead:
    """Read text in the picture, at the pixels of the copy."""
    if treated.read_px is None:
        return PictureRead()
    width_pt, height_pt = original.page_sizes[page - 1]
    left, low, right, high = treated.visible_box if treated.is_cut else treated.box
    box = (max(0.0, left), max(0.0, low), min(width_pt, right), min(height_pt, high))
    share = treated.read_px[0] / (right - left), treated.read_px[1] / (high - low)
    try:
        stored = _stored(original, copy, page, treated)
        is_drawn = stored is None
        if stored is None:
            size = (round((box[2] - box[0]) * share[0]), round((box[3] - box[1]) * share[1]))
            if min(size) < 1:
                return PictureRead()
            before = level(original.render_region_at_size(page, box, size), treated.turned_degrees)
            pixels = before, copy.render_region_at_size(page, box, size)
        else:
            box = treated.box
            pixels = stored[0], at_size(stored[1], treated.read_px)
        finest = _at_reading_size(original, page, treated, box, stored)
    except UnreadableFileError:
        return PictureRead(faults=(f"{treated.name} cannot be drawn",))

    def to_points(place: Place) -> tuple[Box, float]:
        sides = (
            box[0] + place[0] / share[0],
            box[3] - place[3] / share[1],
            box[0] + place[2] / share[0],
            box[3] - place[1] / share[1],
        )
        in_points: Box = tuple(round(side, 1) for side in sides)  # type: ignore[assignment] # four
        return in_points, height_pt - in_points[3]

    read = read_picture(
        *pixels,
        name=treated.name,
        ppi=share[0] * _POINTS_PER_INCH,
        intent=treated.intent,
        to_points=to_points,
        is_drawn=is_drawn,
        is_layered=treated.is_layered,
    )
    if finest is None:
        return read
    unreadable, places = unreadable_words(
        finest,
        stored[1] if stored is not None else pixels[1],
        name=treated.name,
        to_points=partial(_to_points, box, finest.shape[1], height_pt),
    )
    return replace(
        read,
        faults=(*read.faults, *filter(None, (unreadable,))),
        places=(*read.places, *places),
        unreadable=unreadable,
    )


def _cut_score(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> float | None:
    """Score a cut picture at the resolution of a screen; None for others, tiny and huge ones.

    Its pixels lie a fraction beside where they lay, and a reader that draws few pixels takes others
    of them: both are drawn finely and brought to the screen's pixels by their means.
    """
    if not treated.is_cut or treated.intent is not Intent.SAME_LOOKS:
        return None
    width_pt, height_pt = original.page_sizes[page - 1]
    left, low, right, high = treated.visible_box
    box = (max(0.0, left), max(0.0, low), min(width_pt, right), min(height_pt, high))
    if box[0] >= box[2] or box[1] >= box[3]:
        return None
    width, height = pixels_at((box[2] - box[0], box[3] - box[1]), SCREEN_PPI)
    if width * height > _MOST_DRAWN_FINER_PX:
        return None
    size = width * _DRAWN_FINER, height * _DRAWN_FINER
    try:
        drawn = (
            original.render_region_at_size(page, box, size),
            copy.render_region_at_size(page, box, size),
        )
    except UnreadableFileError:
        return None
    blocks = height, _DRAWN_FINER, width, _DRAWN_FINER, 3
    one, other = (
        np.round(pixels.reshape(blocks).mean(axis=(1, 3))).astype(np.uint8) for pixels in drawn
    )
    return score_of(one, other, is_cut=True)


def _to_points(box: Box, across_px: int, height_pt: float, place: Place) -> tuple[Box, float]:
    """A place of a picture `across_px` wide in its box, and how far below the upper edge it is."""
    share = (box[2] - box[0]) / across_px
    left, top, right, low = (side * share for side in place)
    sides = (box[0] + left, box[3] - low, box[0] + right, box[3] - top)
    in_points: Box = tuple(round(side, 1) for side in sides)  # type: ignore[assignment] # four
    return in_points, height_pt - in_points[3]


def _at_reading_size(
    original: PagedReading,
    page: int,
    treated: TreatedBox,
    box: Box,
    stored: tuple[NDArray[np.uint8], NDArray[np.uint8]] | None,
) -> NDArray[np.uint8] | None:
    """The original as finely as words are looked for; None where the copy is fine enough for any.

    stored: both as they are stored; None where they have to be drawn.
    """
    ppi = treated.ppi
    if treated.intent not in (Intent.SAME_LOOKS, Intent.GREY) or ppi is None or ppi >= ENOUGH_PPI:
        return None
    sides_pt = box[2] - box[0], box[3] - box[1]
    finest = pixels_at(sides_pt, READ_PPI)
    if stored is not None:
        before = stored[0]
        height = min(before.shape[0], finest[1])
        return before if before.shape[1] <= finest[0] else at_size(before, (finest[0], height))
    # No finer than the original is.
    own_ppi = _POINTS_PER_INCH * treated.original_px[0] / (treated.box[2] - treated.box[0])
    size = pixels_at(sides_pt, min(READ_PPI, max(ppi, own_ppi)))
    return level(original.render_region_at_size(page, box, size), treated.turned_degrees)


def _stored(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]] | None:
    """Both as they are stored, which no drawing has softened; None where they have to be drawn."""
    if treated.turned_degrees:
        return None
    after = copy.embedded_image(page, treated.box)
    before = original.embedded_image(page, treated.box) if after is not None else None
    if before is None or after is None or not are_same_shape(before, after):
        return None
    if np.array_equal(before, after):
        return before, after
    if not treated.is_plain or treated.read_px is None:
        return None
    return before, after


def _judge_picture(
    page: int,
    both: tuple[PageView, PageView],
    comparison: Comparison,
    treated: TreatedBox,
    read: PictureRead,
) -> PictureProof:
    """The picture's box in the two pages; tiny pictures are let be.

    Where other looks were asked for, only light and dark have to lie where they lay.
    """
    before, after = both
    rows, columns = _window(before.pixels.shape[:2], before.dpi, treated.visible_box, grow=0)
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
        yield _box(view, left, top, left + TILE_PX, top + TILE_PX)


def _worst_place(view: PageView, comparison: Comparison) -> Box | None:
    """The place of the page, about as large as a word, where the two are least alike."""
    similar = comparison.similar
    if not similar.size or similar.min() >= 1:
        return None
    row, column = np.unravel_index(int(np.argmin(similar)), similar.shape)
    left, top = int(column) * WINDOW_PX, int(row) * WINDOW_PX
    return _box(view, left, top, left + WINDOW_PX, top + WINDOW_PX)


def _box(view: PageView, left: int, top: int, right: int, low: int) -> Box:
    """Pixels of a page, in points from its lower left."""
    share, height = _POINTS_PER_INCH / view.dpi, view.pixels.shape[0]
    sides = (left, height - low, right, height - top)
    return tuple(round(side * share, 1) for side in sides)  # type: ignore[return-value] # four


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


def _changed_block(
    page: int, before: PageView, after: PageView, outside: NDArray[np.bool_]
) -> Iterator[str]:
    """Yield the fault of the block outside treated pictures that differs most, if it differs."""
    rows, columns = (side // _BLOCK_PX for side in outside.shape)
    if not rows or not columns:
        return
    height, width = rows * _BLOCK_PX, columns * _BLOCK_PX
    off = before.pixels[:height, :width].astype(np.int16) - after.pixels[:height, :width]
    means = off.reshape(rows, _BLOCK_PX, columns, _BLOCK_PX, 3).mean(axis=(1, 3))
    # At the edge of what may change, drawing changes too.
    steps = np.abs(means).max(axis=2) * _whole_windows(outside, (rows, columns))
    if steps.max() > _MOST_BLOCK_STEP:
        row, column = np.unravel_index(int(steps.argmax()), steps.shape)
        mm = 25.4 / before.dpi * _BLOCK_PX
        yield (
            f"page {page}: something small looks different, {column * mm:.0f} mm from the left and "
            f"{row * mm:.0f} from the top"
        )


def _stray(before: PageView, after: PageView, outside: NDArray[np.bool_]) -> float:
    """The share of pixels outside treated pictures that are far off."""
    if not outside.any():
        return 0.0
    off = (np.abs(luma(before.pixels) - luma(after.pixels)) > _STRAY_STEP) & outside
    return float(off.mean())
