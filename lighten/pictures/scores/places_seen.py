"""A few places of a picture as they are shown, to be judged."""

import math

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.scores.visible_loss import tiles

__all__ = ["places_seen"]

# Pixels of the result to each side that a bicubic window takes in.
_REACH = 2

Pixels = NDArray[np.uint8]


def places_seen(pixels: Pixels, size: tuple[int, int]) -> list[Pixels]:
    """A few places of the picture, as a page viewer brings it to `size`."""
    share = pixels.shape[1] / size[0], pixels.shape[0] / size[1]
    return [_place_seen(pixels, place, share) for place in tiles(size)]


def _place_seen(
    pixels: Pixels, place: tuple[int, int, int, int], share: tuple[float, float]
) -> Pixels:
    from PIL import Image

    left, top, right, low = place
    if share == (1.0, 1.0):
        return pixels[top:low, left:right]
    # With what the window reaches beyond the place.
    margins = [math.ceil(_REACH * max(1.0, one)) for one in share]
    x, y = max(0, int(left * share[0]) - margins[0]), max(0, int(top * share[1]) - margins[1])
    part = pixels[
        y : math.ceil(low * share[1]) + margins[1], x : math.ceil(right * share[0]) + margins[0]
    ]
    box = left * share[0] - x, top * share[1] - y, right * share[0] - x, low * share[1] - y
    box = *box[:2], min(box[2], part.shape[1]), min(box[3], part.shape[0])
    size = right - left, low - top
    return np.asarray(Image.fromarray(part).resize(size, Image.Resampling.BICUBIC, box=box))
