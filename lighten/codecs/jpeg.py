"""JPEG (ITU-T T.81): decoding at reduced size, encoding with trellis quantisation."""

import io
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

__all__ = ["Chroma", "decode_jpeg", "decode_jpeg_luma", "encode_jpeg", "glimpse_jpeg"]

# The tables of ITU-T T.81, annex K. Others looked better at equal numbers, and worse at equal
# bytes by structural similarity to the original (docs/decisions/0004).
_QUANT_TABLE = 0
# Looking for the best scans wins 1 to 4 % on small pictures, less on large ones, at half as much
# time again.
_SCANS_SEARCHED_UP_TO_PX = 300_000


class Chroma(StrEnum):
    """How colour is stored: at half the fineness both ways, or in full."""

    HALVED = "4:2:0"
    FULL = "4:4:4"


def encode_jpeg(pixels: NDArray[np.uint8], *, quality: int, chroma: Chroma) -> bytes:
    """A progressive JPEG without metadata. The same input gives the same bytes.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8. quality: 1 to 100.
    """
    import pyvips

    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    interpretation = "b-w" if pixels.ndim == 2 else "srgb"
    data: bytes = image.copy(interpretation=interpretation).jpegsave_buffer(
        Q=quality,
        interlace=True,
        trellis_quant=True,
        overshoot_deringing=True,
        optimize_scans=pixels.shape[0] * pixels.shape[1] <= _SCANS_SEARCHED_UP_TO_PX,
        optimize_coding=True,
        quant_table=_QUANT_TABLE,
        subsample_mode="off" if chroma is Chroma.FULL else "on",
        keep="none",
    )
    return data


def decode_jpeg(data: bytes, *, at_least: tuple[int, int] | None = None) -> NDArray[np.uint8]:
    """The pixels of a grey or colour JPEG, whole or no smaller than `at_least` on either side.

    Returns (height, width) or (height, width, 3) uint8.
    Raises: OSError if damaged or cut short; ValueError if it has four colours.
    """
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        if image.mode not in ("L", "RGB"):
            raise ValueError(f"a JPEG in {image.mode}")
        if at_least is not None:
            image.draft(image.mode, at_least)
        return np.asarray(image)


def decode_jpeg_luma(data: bytes) -> NDArray[np.uint8]:
    """Its luma alone, (height, width) uint8: quicker than the colours. Raises: as `decode_jpeg`."""
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        image.draft("L", image.size)
        return np.asarray(image.convert("L"))


def glimpse_jpeg(data: bytes, *, longest_px: int) -> NDArray[np.uint8]:
    """A band across the picture, a third of the way down, at reduced size; quicker than the whole.

    Returns (height, width) or (height, width, 3) uint8. Raises: OSError if damaged.
    """
    import pyvips

    try:
        shrink = next(step for step in (8, 4, 2, 1) if longest_px >= 256 * step or step == 1)
        image = pyvips.Image.jpegload_buffer(data, access="sequential", shrink=shrink)
        # All above the band must be decoded as well.
        top, rows = image.height // 3, max(1, image.height // 6)
        band = image.crop(0, top, image.width, rows).numpy()
    except pyvips.Error as error:
        raise OSError("a damaged JPEG") from error
    return np.asarray(band[..., 0] if band.ndim == 3 and band.shape[2] == 1 else band)
