"""HEIC (ISO/IEC 23008-12), decoded by libheif."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["decode_heic", "open_heic"]


def open_heic(data: bytes) -> Any:
    """Open a file for the facts of its first picture; pixels are decoded on request.

    It has `size`, the right way up, `mode`, `has_alpha` and `info`. Raises: ValueError if damaged.
    """
    import io

    import pi_heif

    try:
        return pi_heif.open_heif(io.BytesIO(data), convert_hdr_to_8bit=True)
    except (RuntimeError, ValueError, EOFError, SyntaxError, OSError) as error:
        raise ValueError("a HEIC that is damaged or cut short") from error


def decode_heic(data: bytes) -> NDArray[np.uint8]:
    """Decode to (height, width, 3) in sRGB or the picture's profile, or 4 channels with opacity
    last.

    Raises: ValueError if damaged or cut short.
    """
    opened = open_heic(data)
    try:
        # A copy: its own memory goes with it.
        return np.array(opened, np.uint8)
    except (RuntimeError, EOFError, OSError) as error:
        raise ValueError("a HEIC that is damaged or cut short") from error
