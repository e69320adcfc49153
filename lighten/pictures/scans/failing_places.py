"""Where layers no longer show what the page did."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.faults.tint import ciede2000, tile_colours
from lighten.pictures.held_text import TILE_PX, blurred_tiles

__all__ = ["LAYERS_READ_PPI", "failing_places"]

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


def failing_places(page: Pixels, layers: Pixels, ppi: float, shape: tuple[int, int]) -> Marks:
    """True for each square whose strokes, sharpness or colour differ.

    page: (height, width) or (height, width, 3) at `ppi`; layers: the same as finely or finer.
    shape: how many rows and columns of squares it has.
    """
    failing = np.zeros(shape, np.bool_)
    before, after = _both_at(page, layers, min(1.0, LAYERS_READ_PPI / ppi))
    for fault in find_faults(before, after, ppi=min(ppi, LAYERS_READ_PPI), judges_colour=False):
        if fault.place is not None and fault.strength > _LEAST_STRENGTH:
            left, top, right, low = fault.place
            # Half of what it names: it stands in the middle of that.
            across, down = (right - left) / 4, (low - top) / 4
            _mark(
                failing, (left + across, top + down, right - across, low - down), before.shape[:2]
            )
    before, after = (_as_rgb(part) for part in _both_at(page, layers, min(1.0, _LOOK_PPI / ppi)))
    _, blurred = blurred_tiles(before, after)
    for row, column in np.argwhere(blurred).tolist():
        left, top = column * TILE_PX, row * TILE_PX
        _mark(failing, (left + 1, top + 1, left + TILE_PX - 1, top + TILE_PX - 1), before.shape[:2])
    if page.ndim == 3:
        tints = ciede2000(*(tile_colours(pixels, *shape) for pixels in (before, after)))
        failing |= tints > _MOST_TINT
    return failing


def _mark(failing: Marks, box: tuple[float, float, float, float], size: tuple[int, ...]) -> None:
    """The squares that a box lies in; both in pixels of (height, width)."""
    down, across = failing.shape[0] / size[0], failing.shape[1] / size[1]
    left, top, right, low = box
    rows = slice(max(0, int(top * down)), int(low * down) + 1)
    failing[rows, max(0, int(left * across)) : int(right * across) + 1] = True


def _both_at(page: Pixels, layers: Pixels, share: float) -> tuple[Pixels, Pixels]:
    """Over that share of the page's pixels a side, each the mean of what it covers."""
    from PIL import Image

    size = max(1, round(page.shape[1] * share)), max(1, round(page.shape[0] * share))

    def at_size(pixels: Pixels) -> Pixels:
        if (pixels.shape[1], pixels.shape[0]) == size:
            return pixels
        return np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BOX))

    return at_size(page), at_size(layers)


def _as_rgb(pixels: Pixels) -> Pixels:
    return np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
