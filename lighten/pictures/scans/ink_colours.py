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


def ink_colours(
    pixels: Pixels, ink: Marks, light: Floats, paper: Pixels, size_px: tuple[int, int]
) -> tuple[Pixels, Marks]:
    """The colour of the strokes in each place, at (width, height) pixels, and where there are any.

    pixels: (height, width) or (height, width, 3), of which each covers as many of `ink` either way.
    ink, light: (tall, wide). paper: bare, of any fineness, with as many channels as `pixels`.
    Where there are no strokes the colours go on as those around.
    """
    width, height = size_px
    channels = np.ascontiguousarray(pixels[..., None] if pixels.ndim == 2 else pixels)
    ground = np.ascontiguousarray(paper[..., None] if paper.ndim == 2 else paper)
    sums = np.zeros((height, width, channels.shape[2]), np.float32)
    shares = np.zeros((height, width), np.float32)
    _gather_inks(channels, ink, light, ground, (sums, shares))
    colours = np.clip(np.rint(filled(sums, shares)), 0, 255).astype(np.uint8)
    return np.ascontiguousarray(colours[..., 0] if pixels.ndim == 2 else colours), shares > 0


def only_colour(colours: Pixels, is_inked: Marks) -> tuple[int, ...] | None:
    """The colour of all strokes, where they have one; None where there are several."""
    those = colours[is_inked].reshape(int(is_inked.sum()), -1).astype(np.float32)
    if not len(those):
        return (0,) * (1 if colours.ndim == 2 else colours.shape[2])
    middle = np.median(those, axis=0)
    off = np.abs(those - middle).max(axis=1)
    if np.percentile(off, _NEARLY_ALL) > _ONE_INK_WITHIN:
        return None
    return tuple(int(sample) for sample in middle)


@compiled
def _gather_inks(
    pixels: Pixels, ink: Marks, light: Floats, paper: Pixels, out: tuple[Floats, Floats]
) -> None:  # pragma: no cover - compiled
    """A pixel at the edge of a stroke is mixed with paper: the darkest within two pixels tells its
    ink, if it goes off the paper in the same direction."""
    sums, shares = out
    tall, wide = ink.shape
    height, width, channels = pixels.shape
    low, across = paper.shape[0], paper.shape[1]
    rows, columns = shares.shape
    for y in range(tall):
        row, paper_row = y * height // tall, y * low // tall
        for x in range(wide):
            if not ink[y, x]:
                continue
            column, paper_column = x * width // wide, x * across // wide
            best_row, best_column, darkest = row, column, light[y, x]
            for near_y in range(max(0, y - 2), min(tall, y + 3)):
                for near_x in range(max(0, x - 2), min(wide, x + 3)):
                    if light[near_y, near_x] >= darkest or not ink[near_y, near_x]:
                        continue
                    near_row, near_column = near_y * height // tall, near_x * width // wide
                    along, own, other = np.float32(0), np.float32(0), np.float32(0)
                    for channel in range(channels):
                        ground = np.float32(paper[paper_row, paper_column, channel])
                        one = ground - np.float32(pixels[row, column, channel])
                        two = ground - np.float32(pixels[near_row, near_column, channel])
                        along += one * two
                        own += one * one
                        other += two * two
                    if along > np.float32(0.9) * np.sqrt(own * other):
                        best_row, best_column = near_row, near_column
                        darkest = light[near_y, near_x]
            at_row, at_column = y * rows // tall, x * columns // wide
            shares[at_row, at_column] += 1
            for channel in range(channels):
                sums[at_row, at_column, channel] += pixels[best_row, best_column, channel]
