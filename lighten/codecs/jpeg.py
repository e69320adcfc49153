"""JPEG (ITU-T T.81): decoding at reduced size, encoding with trellis quantisation."""

import io
import math
from enum import StrEnum
from functools import cache

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jpeg_repacking import repack_beside

__all__ = [
    "Chroma",
    "coarseness",
    "coarseness_at",
    "decode_jpeg",
    "decode_jpeg_luma",
    "encode_jpeg",
    "glimpse_jpeg",
    "repack_jpeg",
]

# The encoder's table tuned for multi-scale structural similarity: at equal SSIMULACRA2 it takes
# 7 to 15 % off the tables of ITU-T T.81, annex K (docs/decisions/0010).
_QUANT_TABLE = 2
# Above that trellis quantisation wins nothing for three times the time. Looking for the best scans
# wins 1 to 3 % at half as much time again, and is left (13 pictures, at equal SSIMULACRA2).
_TRELLIS_UP_TO = 85


class Chroma(StrEnum):
    """Resolution of colour: half in both directions, or full."""

    HALVED = "4:2:0"
    FULL = "4:4:4"


def encode_jpeg(
    pixels: NDArray[np.uint8],
    *,
    quality: int,
    chroma: Chroma,
    is_progressive: bool = True,
    is_draft: bool = False,
) -> bytes:
    """A JPEG without metadata. The same input gives the same bytes.

    pixels: (height, width) grey, (height, width, 3) sRGB, or (height, width, 4) inks as PDF
    takes them; uint8. quality: 1 to 100. is_progressive: 2 % lighter, and not for every reader of
    what it stands in. is_draft: ten times as quick, about a quarter heavier,
    looks the same; see `share_of_draft`.
    """
    import pyvips

    colours = 1 if pixels.ndim == 2 else pixels.shape[2]
    # The writer turns inks round; see decode_jpeg.
    samples = 255 - pixels if colours == 4 else pixels
    image = pyvips.Image.new_from_array(np.ascontiguousarray(samples))
    interpretation = {1: "b-w", 3: "srgb", 4: "cmyk"}[colours]
    data: bytes = image.copy(interpretation=interpretation).jpegsave_buffer(
        Q=quality,
        interlace=is_progressive and not is_draft,
        trellis_quant=not is_draft and quality <= _TRELLIS_UP_TO,
        overshoot_deringing=True,
        optimize_coding=True,
        quant_table=_QUANT_TABLE,
        subsample_mode="off" if chroma is Chroma.FULL else "on",
        keep="none",
    )
    return data


def share_of_draft(size_bytes: int, pixels: int, quality: int) -> float:
    """Predict the share of its draft's bytes that a JPEG will weigh, about 0.87; small ones gain
    less.

    Above the quality that trellis quantisation is used for, about .95. Fitted to 92 pictures at six
    qualities: single ones are off by 4 %, there by 2 %.
    """
    bits_a_pixel = 8 * size_bytes / max(1, pixels)
    if quality > _TRELLIS_UP_TO:
        return min(1.0, 0.947 + 358 / size_bytes + 0.0075 * math.log(bits_a_pixel))
    coarseness = _TRELLIS_UP_TO - quality
    share = 0.871 + 497 / size_bytes - 0.0253 * math.log(bits_a_pixel) - 0.0013 * coarseness
    return min(1.0, share)


def decode_jpeg(data: bytes, *, at_least: tuple[int, int] | None = None) -> NDArray[np.uint8]:
    """The samples of a JPEG, whole or no smaller than `at_least` on either side.

    Returns (height, width) grey, or (height, width, 3) sRGB or 4 inks as they are stored; uint8.
    Raises: OSError if damaged or cut short; ValueError for other colours.
    """
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        if image.mode not in ("L", "RGB", "CMYK"):
            raise ValueError(f"a JPEG in {image.mode}")
        if image.mode == "CMYK" and "adobe" not in image.info:
            raise ValueError("a JPEG in CMYK that does not say which way round its inks are")
        if at_least is not None:
            image.draft(image.mode, at_least)
        # The reader turns inks round, as files with Adobe's mark have them; PDF takes the
        # samples as they are stored (ISO 32000-1, 7.4.8).
        return 255 - np.asarray(image) if image.mode == "CMYK" else np.asarray(image)


def coarseness(data: bytes) -> float:
    """Return the mean logarithm of a JPEG's luma quantisation table; 0 for a lossless one.

    Raises: OSError if damaged.
    """
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        tables = image.quantization  # type: ignore[attr-defined] # of JPEG images
    return math.fsum(math.log(max(1, step)) for step in tables[min(tables)]) / 64


@cache
def coarseness_at(quality: int) -> float:
    """Return the coarseness of the table that `encode_jpeg` uses at a quality."""
    sample = np.zeros((8, 8), np.uint8)
    return coarseness(encode_jpeg(sample, quality=quality, chroma=Chroma.HALVED))


def repack_jpeg(data: bytes) -> bytes:
    """Write the same coefficients with the best Huffman codes, progressive, without any metadata.

    Adobe's mark, which says how colours are to be read, stays. Raises: OSError if damaged.
    """
    return repack_beside(data)


def decode_jpeg_luma(data: bytes) -> NDArray[np.uint8]:
    """Decode the luma of a JPEG, or the mean of its inks: (height, width) uint8. Raises: as
    `decode_jpeg`.
    """
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        if image.mode == "CMYK":
            return np.asarray((255 - np.asarray(image)).mean(axis=2), np.uint8)
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
