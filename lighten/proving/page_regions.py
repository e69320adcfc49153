"""Boxes, windows and blocks of drawn pages: where two of them differ."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.contract import PageView
from lighten.model.proofs import Box
from lighten.pictures.pixels.planes import luma, tile_means
from lighten.pictures.scores.likeness import WINDOW_PX, Comparison

__all__ = [
    "POINTS_PER_INCH",
    "changed_block",
    "outside_mask",
    "pixel_window",
    "points_box",
    "stray_share",
    "whole_windows",
    "worst_box",
]

POINTS_PER_INCH = 72.0
# A pixel off by more than this of 255 is not rounding, and this share of them is not an edge
# that fell differently (bounds found on faulty copies, at 72 dpi and up).
_STRAY_STEP = 64
# One sign that is gone is too small a share of a page to be seen by these: the mean of each channel
# over a block of so many pixels, 2 mm, moves by less where nothing has changed but smoothed edges.
_BLOCK_PX, _MOST_BLOCK_STEP = 8, 24.0
_EDGE_PX = 2


def worst_box(view: PageView, comparison: Comparison) -> Box | None:
    """The place of the page, about as large as a word, where the two are least alike."""
    similar = comparison.similar
    if not similar.size or similar.min() >= 1:
        return None
    row, column = np.unravel_index(int(np.argmin(similar)), similar.shape)
    left, top = int(column) * WINDOW_PX, int(row) * WINDOW_PX
    return points_box(view, left, top, left + WINDOW_PX, top + WINDOW_PX)


def points_box(view: PageView, left: int, top: int, right: int, low: int) -> Box:
    """Convert a box from pixels to points from the page's lower left."""
    share, height = POINTS_PER_INCH / view.dpi, view.pixels.shape[0]
    sides = (left, height - low, right, height - top)
    return tuple(round(side * share, 1) for side in sides)  # type: ignore[return-value] # four


def outside_mask(shape: tuple[int, ...], dpi: float, boxes: tuple[Box, ...]) -> NDArray[np.bool_]:
    """True where no treated picture and no comment is, with a little margin for its edge."""
    mask = np.ones(shape, np.bool_)
    for box in boxes:
        rows, columns = pixel_window((shape[0], shape[1]), dpi, box, grow=_EDGE_PX)
        mask[rows, columns] = False
    return mask


def whole_windows(mask: NDArray[np.bool_], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """The windows of the similarity map that are true throughout."""
    height, width = shape[0], shape[1]
    rows, columns = mask.shape[0] // height, mask.shape[1] // width
    cut = mask[: height * rows, : width * columns]
    whole: NDArray[np.bool_] = np.all(cut.reshape(height, rows, width, columns), axis=(1, 3))
    return whole


def pixel_window(shape: tuple[int, int], dpi: float, box: Box, *, grow: int) -> tuple[slice, slice]:
    """The rows and columns of a box in points, cut to the page."""
    scale = dpi / POINTS_PER_INCH
    left, low, right, high = (side * scale for side in box)
    rows = slice(
        max(0, int(shape[0] - high) - grow), max(0, min(shape[0], int(shape[0] - low) + 1 + grow))
    )
    columns = slice(max(0, int(left) - grow), max(0, min(shape[1], int(right) + 1 + grow)))
    return rows, columns


def changed_block(
    page: int, before: PageView, after: PageView, outside: NDArray[np.bool_]
) -> Iterator[str]:
    """Yield the fault of the block outside treated pictures that differs most, if it differs."""
    rows, columns = (side // _BLOCK_PX for side in outside.shape)
    if not rows or not columns:
        return
    height, width = rows * _BLOCK_PX, columns * _BLOCK_PX
    one, other = (
        tile_means(view.pixels[:height, :width], rows, columns) for view in (before, after)
    )
    means = one - other
    # At the edge of what may change, drawing changes too.
    steps = np.abs(means).max(axis=2) * whole_windows(outside, (rows, columns))
    if steps.max() > _MOST_BLOCK_STEP:
        row, column = np.unravel_index(int(steps.argmax()), steps.shape)
        mm = 25.4 / before.dpi * _BLOCK_PX
        yield (
            f"page {page}: something small looks different, {column * mm:.0f} mm from the left and "
            f"{row * mm:.0f} from the top"
        )


def stray_share(before: PageView, after: PageView, outside: NDArray[np.bool_]) -> float:
    """The share of pixels outside treated pictures that are far off."""
    if not outside.any():
        return 0.0
    off = (np.abs(luma(before.pixels) - luma(after.pixels)) > _STRAY_STEP) & outside
    return float(off.mean())
