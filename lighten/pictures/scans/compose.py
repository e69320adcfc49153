"""Layers as a reader lays them over one another."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.coded import CodedPicture, decode_coded
from lighten.pictures.layered import LayeredPicture, Patch

__all__ = ["compose", "laid_over", "stretched", "with_patches"]

Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]


def compose(layered: LayeredPicture) -> Pixels:
    """(height, width) or (height, width, 3) uint8, as many pixels as the strokes have."""
    page = stretched(decode_coded(layered.paper), (layered.width_px, layered.height_px))
    for ink in layered.inks:
        page = laid_over(page, decode_coded(ink.strokes) == 0, ink.colour)
    return with_patches(page, layered.patches)


def with_patches(page: Pixels, patches: Sequence[Patch]) -> Pixels:
    """The page with pictures on it."""
    out = page.copy()
    for patch in patches:
        left, top, right, low = patch.box_px
        picture = stretched(decode_coded(patch.picture), (right - left, low - top))
        # Where a part of a page in colour has none, it is grey.
        is_grey = picture.ndim < out.ndim
        out[top:low, left:right] = picture[..., None] if is_grey else picture
    return out


def laid_over(page: Pixels, strokes: Marks, colour: tuple[int, ...] | CodedPicture) -> Pixels:
    """The page with strokes of that colour, or of what that picture shows where they are."""
    out = page.copy()
    if isinstance(colour, CodedPicture):
        out[strokes] = stretched(decode_coded(colour), (page.shape[1], page.shape[0]))[strokes]
    else:
        out[strokes] = colour if page.ndim == 3 else colour[0]
    return out


def stretched(pixels: Pixels, size_px: tuple[int, int]) -> Pixels:
    """As large as (width, height) pixels, between its own in straight lines."""
    from PIL import Image

    if (pixels.shape[1], pixels.shape[0]) == size_px:
        return pixels
    image = Image.fromarray(pixels)
    return np.asarray(image.resize(size_px, Image.Resampling.BILINEAR))
