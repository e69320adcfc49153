"""JPEG 2000 (ITU-T T.800)."""

import io

import numpy as np
from numpy.typing import NDArray

__all__ = ["decode_jpeg2000", "encode_jpeg2000"]


def decode_jpeg2000(data: bytes, *, halvings: int = 0) -> NDArray[np.uint8]:
    """Decode a picture at full size, or halved `reductions` times.

    Returns (height, width[, n]) uint8: grey, grey and opacity, RGB, or RGB and opacity.
    Raises: OSError if damaged; ValueError for more than 8 bits or a profile of its own.
    """
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG2000"]) as image:
        if image.mode not in ("L", "LA", "RGB", "RGBA"):
            raise ValueError(f"a JPEG 2000 in {image.mode}")
        if image.info.get("icc_profile"):
            raise ValueError("a JPEG 2000 with a colour profile inside")
        image.reduce = halvings  # type: ignore[method-assign,assignment] # a property here
        return np.asarray(image)


def encode_jpeg2000(pixels: NDArray[np.uint8], *, decibels: float) -> bytes:
    """The pixels as a JP2 file of about that peak signal-to-noise ratio.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8.
    """
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(pixels).save(
        out,
        "JPEG2000",
        quality_mode="dB",
        quality_layers=[decibels],
        irreversible=True,
        mct=int(pixels.ndim == 3),
    )
    return out.getvalue()
