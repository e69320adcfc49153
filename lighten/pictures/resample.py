"""Fewer pixels for the same picture."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["resample"]


def resample(pixels: NDArray[np.uint8], size_px: tuple[int, int]) -> NDArray[np.uint8]:
    """The picture at `size_px` (width, height), with a Lanczos window of three lobes.

    pixels: (height, width) or (height, width, 3) uint8; comes back as it is if the size is its own.
    """
    if (pixels.shape[1], pixels.shape[0]) == size_px:
        return pixels
    import pyvips

    width_px, height_px = size_px
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    small = image.thumbnail_image(width_px, height=height_px, size="force").numpy()
    return np.asarray(small if pixels.ndim == 3 else small.reshape(height_px, width_px))
