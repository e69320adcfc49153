"""Text that is held as picture: whether it can still be read."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.pixels.planes import luma

__all__ = ["blurred_tiles"]

Floats = NDArray[np.float32]
# 8 mm of paper at 100 ppi: a word or two.
TILE_PX = 32
# A tile of ink has that much contrast at least, once paper and shading are taken away; in the
# copy its strokes must lie where they lay, and be as strong. Bounds found on scans that recognition
# still reads, at 100 ppi.
_INK_CONTRAST, _LEAST_TOGETHER, _LEAST_GAIN = 2.5, 0.8, 0.6
# The grain of old paper is no ink: squares have that much more contrast than the barest of them.
_GRAINS, _BAREST_PERCENTILE, _MOST_GRAIN = 2.0, 10.0, 8.0
# How far the colour of ink may move, out of 255, and from where on strokes are ink.
_MOST_TINT, _INK_STEP = 24.0, 20.0
_PAPER_PX = 8


def blurred_tiles(
    before: NDArray[np.uint8], after: NDArray[np.uint8]
) -> tuple[int, NDArray[np.bool_]]:
    """Return the number of tiles with ink, and the tiles that have lost it: (rows, columns).

    before, after: a page or part of one at 100 ppi, (height, width) or (height, width, 3) uint8.
    """
    one, other = _tiled(_strokes(luma(before))), _tiled(_strokes(luma(after)))
    contrast, kept = one.std(axis=2), other.std(axis=2)
    grain = _GRAINS * float(np.percentile(contrast, _BAREST_PERCENTILE)) if contrast.size else 0.0
    has_ink = contrast > max(_INK_CONTRAST, min(_MOST_GRAIN, grain))
    together = ((one - one.mean(axis=2)[..., None]) * (other - other.mean(axis=2)[..., None])).mean(
        axis=2
    )
    scale = np.maximum(contrast * kept, 1e-6)
    is_lost = (together / scale < _LEAST_TOGETHER) | (kept < _LEAST_GAIN * contrast)
    if before.ndim == 3:
        is_lost |= _tint_of_ink(before, after) > _MOST_TINT
    return int(has_ink.sum()), has_ink & is_lost


def _tint_of_ink(before: NDArray[np.uint8], after: NDArray[np.uint8]) -> Floats:
    """Return the shift of the colour of strokes against their paper, by tile."""
    ink = _tiled((np.abs(_strokes(luma(before))) > _INK_STEP).astype(np.float32))
    counts = np.maximum(ink.sum(axis=2), 1)
    moved = np.zeros(counts.shape, np.float32)
    for one, other in zip(_chroma(before), _chroma(after), strict=True):
        shift = (ink * (_tiled(one) - _tiled(other))).sum(axis=2) / counts
        moved = np.maximum(moved, np.abs(shift))
    return moved


def _chroma(pixels: NDArray[np.uint8]) -> list[Floats]:
    """Return Cb and Cr by ITU-R BT.601."""
    from PIL import Image

    planes = Image.fromarray(pixels).convert("YCbCr").split()[1:]
    return [np.asarray(plane).astype(np.float32) for plane in planes]


def _strokes(plane: Floats) -> Floats:
    """Return detail finer than paper and shading: the plane less its mean over some millimetres."""
    from PIL import Image, ImageFilter

    image = Image.fromarray(plane.astype(np.uint8))
    smooth = image.filter(ImageFilter.BoxBlur(_PAPER_PX))
    return plane - np.asarray(smooth, np.float32)


def _tiled(plane: Floats) -> Floats:
    """Return (rows, columns, pixels of a tile), without the remainder at the edges."""
    rows, columns = plane.shape[0] // TILE_PX, plane.shape[1] // TILE_PX
    cut = plane[: rows * TILE_PX, : columns * TILE_PX].reshape(rows, TILE_PX, columns, TILE_PX)
    return cut.transpose(0, 2, 1, 3).reshape(rows, columns, TILE_PX * TILE_PX)
