"""The colours that the strokes of a page have, apart from the paper that they lie on."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.scans.fill import filled

__all__ = ["ink_colours", "only_colour"]

Floats = NDArray[np.float32]
Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]

# Strokes of one ink differ that much and no more, of 255, in nearly all places.
_ONE_INK_WITHIN, _NEARLY_ALL = 24.0, 99.0
# What is that much lighter than the darkness of its stroke is mixed with paper.
_CORE_STEP = 12


def ink_colours(
    pixels: Pixels, ink: Marks, light: Floats, core: Floats, size_px: tuple[int, int]
) -> tuple[Pixels, Marks]:
    """Return the strokes' colours at (width, height) pixels, and where there are any.

    pixels: (height, width) or (height, width, 3), of which each covers as many of `ink` either way.
    ink, light, core: (tall, wide), see `find_ink`. Where there are no strokes the colours go on as
    those around.
    """
    width, height = size_px
    channels = np.ascontiguousarray(pixels[..., None] if pixels.ndim == 2 else pixels)
    sums = np.zeros((height, width, channels.shape[2]), np.float32)
    shares = np.zeros((height, width), np.float32)
    _gather_inks(channels, ink, light, core, (sums, shares))
    colours = np.clip(np.rint(filled(sums, shares)), 0, 255).astype(np.uint8)
    return np.ascontiguousarray(colours[..., 0] if pixels.ndim == 2 else colours), shares > 0


def only_colour(colours: Pixels, is_inked: Marks) -> tuple[int, ...] | None:
    """Return the strokes' only colour; None if there are several."""
    channels = 1 if colours.ndim == 2 else colours.shape[2]
    those = colours[is_inked].reshape(-1, channels).astype(np.float32)
    if not len(those):
        return (0,) * channels
    middle = np.median(those, axis=0)
    off = np.abs(those - middle).max(axis=1)
    if np.percentile(off, _NEARLY_ALL) > _ONE_INK_WITHIN:
        return None
    return tuple(int(sample) for sample in middle)


@compiled
def _gather_inks(
    pixels: Pixels, ink: Marks, light: Floats, core: Floats, out: tuple[Floats, Floats]
) -> None:  # pragma: no cover - compiled
    """Pixels at the edge of a stroke are mixed with paper: those near its own darkness count."""
    sums, shares = out
    tall, wide = ink.shape
    height, width, channels = pixels.shape
    rows, columns = shares.shape
    for y in range(tall):
        row, at_row = y * height // tall, y * rows // tall
        for x in range(wide):
            if not ink[y, x] or light[y, x] > core[y, x] + _CORE_STEP:
                continue
            column, at_column = x * width // wide, x * columns // wide
            shares[at_row, at_column] += 1
            for channel in range(channels):
                sums[at_row, at_column, channel] += pixels[row, column, channel]
