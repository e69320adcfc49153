"""Search for regions where layers no longer show the content of the page."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.faults.tint import ciede2000, tile_colours
from lighten.pictures.pixels.colours import as_rgb
from lighten.pictures.scores.held_text import TILE_PX, blurred_tiles
from lighten.pictures.scores.likeness import likeness

__all__ = ["LAYERS_READ_PPI", "failing_places", "likeness_of"]

Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]

_MM_PER_INCH = 25.4
# As the proof reads pages, and as it looks at text (see `held_text`).
LAYERS_READ_PPI, _LOOK_PPI = 150.0, 100.0
# Crisp strokes differ a little from those of a scan wherever they are right; the proof, for which a
# reader draws them, has its bound above that.
_LEAST_STRENGTH = 1.1
# Of CIEDE2000, over a square: what is said of a whole page.
_MOST_TINT = 3.0
_NEARLY_THE_SAME = 0.9999


def failing_places(page: Pixels, layers: Pixels, ppi: float, square_px: int) -> Marks:
    """True for each square whose strokes, sharpness or colour differ: (rows, columns).

    page: (height, width) or (height, width, 3) at `ppi`; layers: the same as finely or finer.
    square_px: the side of a square, in pixels of the page.
    """
    height, width = page.shape[:2]
    failing = np.zeros((-(-height // square_px), -(-width // square_px)), np.bool_)
    before, after = _both_at(page, layers, min(1.0, LAYERS_READ_PPI / ppi))
    square = square_px * before.shape[0] / height
    for fault in find_faults(before, after, ppi=min(ppi, LAYERS_READ_PPI), judges_colour=False):
        if fault.place is not None and fault.strength > _LEAST_STRENGTH:
            left, top, right, low = fault.place
            # Half of what it names: it stands in the middle of that.
            across, down = (right - left) / 4, (low - top) / 4
            _mark(failing, (left + across, top + down, right - across, low - down), square)
    before, after = (as_rgb(part) for part in _both_at(page, layers, min(1.0, _LOOK_PPI / ppi)))
    square = square_px * before.shape[0] / height
    _, blurred = blurred_tiles(before, after)
    _mark_tiles(failing, blurred, (TILE_PX, TILE_PX), square)
    if page.ndim == 3:
        tints = ciede2000(*(tile_colours(pixels, *failing.shape) for pixels in (before, after)))
        sides = before.shape[1] / failing.shape[1], before.shape[0] / failing.shape[0]
        _mark_tiles(failing, tints > _MOST_TINT, sides, square)
    return failing


def likeness_of(page: Pixels, layers: Pixels, ppi: float) -> float:
    """Return the `likeness` in the compared regions; never 1, as grain is lost at least."""
    before, after = (as_rgb(part) for part in _both_at(page, layers, min(1.0, _LOOK_PPI / ppi)))
    return min(_NEARLY_THE_SAME, likeness(before, after))


def _mark_tiles(failing: Marks, tiles: Marks, sides: tuple[float, float], square: float) -> None:
    """Mark the squares under tiles of the given size."""
    across, down = sides
    for row, column in np.argwhere(tiles).tolist():
        left, top = column * across, row * down
        _mark(failing, (left + 1, top + 1, left + across - 1, top + down - 1), square)


def _mark(failing: Marks, box: tuple[float, float, float, float], square: float) -> None:
    """Mark the squares, `side` pixels wide, that a box covers."""
    left, top, right, low = (max(0, int(side / square)) for side in box)
    failing[top : low + 1, left : right + 1] = True


def _both_at(page: Pixels, layers: Pixels, share: float) -> tuple[Pixels, Pixels]:
    """Return both at a share of the page's resolution, averaged."""
    from PIL import Image

    size = max(1, round(page.shape[1] * share)), max(1, round(page.shape[0] * share))

    def at_size(pixels: Pixels) -> Pixels:
        if (pixels.shape[1], pixels.shape[0]) == size:
            return pixels
        return np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BOX))

    return at_size(page), at_size(layers)
