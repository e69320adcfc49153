"""Pixels turned the way they are to be seen."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["upright", "upright_box"]

Box = tuple[float, float, float, float]


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


def upright_box(box: Box, orientation: int) -> Box:
    """Turn a box within stored pixels as `upright` turns these.

    box: left, top, right, bottom as shares of the sides.
    """
    left, top, right, bottom = box
    if orientation in (5, 6, 7, 8):
        left, top, right, bottom = top, left, bottom, right
    if orientation in (2, 3, 6, 7):
        left, right = 1 - right, 1 - left
    if orientation in (3, 4, 7, 8):
        top, bottom = 1 - bottom, 1 - top
    return left, top, right, bottom
