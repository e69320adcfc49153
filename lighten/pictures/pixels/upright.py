"""Pixels turned the way they are to be seen."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["upright"]


def upright(pixels: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """Turn stored (height, width[, n]) pixels upright.

    orientation: as the tag of TIFF 6.0, section 8, and of Exif 2.32, table 4, has it; what is not
    1 to 8 counts as 1.
    """
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return np.ascontiguousarray(pixels)
