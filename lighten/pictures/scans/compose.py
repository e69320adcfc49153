"""Layers as a reader lays them over one another."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.coding.coded import CodedPicture, decode_coded
from lighten.pictures.coding.layered import LayeredPicture

__all__ = ["compose", "laid_over", "stretched"]

Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]


def compose(layered: LayeredPicture) -> Pixels:
    """Compose the page of its layers: (height, width[, 3]) uint8, as many pixels as the strokes
    have.
    """
    page = stretched(decode_coded(layered.paper), (layered.width_px, layered.height_px))
    if layered.ink is not None:
        page = laid_over(page, decode_coded(layered.ink.strokes) == 0, layered.ink.colour)
    if layered.pictures is not None:
        places = decode_coded(layered.pictures.places) == 0
        page = laid_over(page, places, layered.pictures.picture)
    return page


def laid_over(page: Pixels, strokes: Marks, colour: tuple[int, ...] | CodedPicture) -> Pixels:
    """Composite strokes of a colour, or of a picture's colours, over the page."""
    out = page.copy()
    if isinstance(colour, CodedPicture):
        seen = stretched(decode_coded(colour), (page.shape[1], page.shape[0]))
        # Where pictures of a page in colour have none, they are grey.
        out[strokes] = seen[strokes][:, None] if seen.ndim < out.ndim else seen[strokes]
    else:
        out[strokes] = colour if page.ndim == 3 else colour[0]
    return out


def stretched(pixels: Pixels, size_px: tuple[int, int]) -> Pixels:
    """Resize to (width, height) pixels by linear interpolation."""
    from PIL import Image

    if (pixels.shape[1], pixels.shape[0]) == size_px:
        return pixels
    image = Image.fromarray(pixels)
    return np.asarray(image.resize(size_px, Image.Resampling.BILINEAR))
