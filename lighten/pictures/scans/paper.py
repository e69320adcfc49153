"""The paper of a page: how light it is everywhere, and its own picture without what lies on it."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import blurred, gaussian
from lighten.pictures.scans.fill import filled, spread

__all__ = ["bare_paper", "paper_light"]

Floats = NDArray[np.float32]
Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]

MM_PER_INCH = 25.4
# A square of that side has some paper in it, wherever there is text.
_CELL_MM = 1.0
# Of the pixels of a square, the share that paper is lighter than no more of them than that.
_PAPER_FROM = 0.8
# What is dark and no wider lies on the paper, of cells to each side; highlighter, which takes less
# of its light, goes with the paper.
_CLOSES_CELLS, _DARK = 3, 0.65


def paper_light(light: Floats, ppi: float) -> Floats:
    """Return the lightness of the paper under each pixel, 0 to 255: (height, width) as `light`.

    Whatever is dark and at most some 6 mm wide lies on it; shadows, stains and highlighter are its
    own.
    """
    cell = max(2, round(_CELL_MM / MM_PER_INCH * ppi))
    height, width = light.shape
    rows, columns = -(-height // cell), -(-width // cell)
    cells = np.empty((rows, columns), np.float32)
    _cell_lights(light, cell, _PAPER_FROM, np.empty(256, np.int64), cells)
    closed = _each_least(_each_most(cells, _CLOSES_CELLS), _CLOSES_CELLS)
    smooth = blurred(np.where(cells < _DARK * closed, closed, cells), gaussian(1.0))
    out = np.empty_like(light)
    spread(smooth, cell, out)
    return out


def bare_paper(pixels: Pixels, covered: Marks, size_px: tuple[int, int]) -> Pixels:
    """Return the paper at (width, height) pixels; covered areas continue their surroundings.

    pixels: (height, width) or (height, width, 3); covered: (height, width).
    """
    width, height = size_px
    channels = pixels[..., None] if pixels.ndim == 2 else pixels
    channels = np.ascontiguousarray(channels)
    sums = np.zeros((height, width, channels.shape[2]), np.float32)
    shares = np.zeros((height, width), np.float32)
    _gather(channels, covered, sums, shares)
    paper = np.clip(np.rint(filled(sums, shares)), 0, 255).astype(np.uint8)
    return np.ascontiguousarray(paper[..., 0] if pixels.ndim == 2 else paper)


@compiled
def _cell_lights(
    light: Floats, cell: int, share: float, counts: NDArray[np.int64], out: Floats
) -> None:  # pragma: no cover - compiled
    """counts: room for 256 numbers."""
    height, width = light.shape
    for row in range(out.shape[0]):
        top, low = row * cell, min(height, (row + 1) * cell)
        for column in range(out.shape[1]):
            left, right = column * cell, min(width, (column + 1) * cell)
            counts[:] = 0
            for y in range(top, low):
                for x in range(left, right):
                    counts[min(255, max(0, int(light[y, x])))] += 1
            below, level = 0, 0
            enough = share * (low - top) * (right - left)
            while level < 255 and below + counts[level] < enough:
                below += counts[level]
                level += 1
            out[row, column] = level


@compiled
def _gather(
    pixels: Pixels, covered: Marks, sums: Floats, shares: Floats
) -> None:  # pragma: no cover - compiled
    """Sum the uncovered pixels of each new pixel, and count them."""
    old_height, old_width, channels = pixels.shape
    height, width = shares.shape
    for y in range(old_height):
        row = y * height // old_height
        for x in range(old_width):
            if not covered[y, x]:
                column = x * width // old_width
                shares[row, column] += 1
                for channel in range(channels):
                    sums[row, column, channel] += pixels[y, x, channel]


def _each_most(cells: Floats, reach: int) -> Floats:
    for _ in range(2):  # columns, then rows
        padded = np.pad(cells.T, ((reach, reach), (0, 0)), mode="edge")
        cells = np.max([padded[at : at + cells.shape[1]] for at in range(2 * reach + 1)], axis=0)
    return np.ascontiguousarray(cells)


def _each_least(cells: Floats, reach: int) -> Floats:
    return -_each_most(-cells, reach)
