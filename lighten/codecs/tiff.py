"""Pixels of a TIFF of one page, through libtiff."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["decode_tiff"]


def decode_tiff(data: bytes) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Decode all pixels as stored, with palettes resolved and 0 for black where the file says which
    is.

    Returns (height, width) or (height, width, n) uint8, few bits spread to 0 to 255; uint16 where
    it has 16 bits. Raises: ValueError if damaged or cut short; where pixels are not packed, libtiff
    does not see that some are missing, and whoever reads the directories does.
    """
    import pyvips

    try:
        # Its own Orientation is read separately, and obeyed where it is shown.
        image = pyvips.Image.tiffload_buffer(data, autorotate=False, fail_on="truncated")
        samples = image.numpy()
    except pyvips.Error as error:
        raise ValueError("a TIFF that is damaged or cut short") from error
    if samples.dtype not in (np.uint8, np.uint16):
        raise ValueError("a TIFF of samples that are no light")
    if samples.ndim == 3 and samples.shape[2] == 1:
        samples = samples[..., 0]
    return np.ascontiguousarray(samples)
