"""A picture re-encoded as a page of a TIFF."""

import struct
import zlib
from collections.abc import Mapping

import numpy as np

from lighten.formats.tiff import tags
from lighten.formats.tiff.page import Compression, Photometric
from lighten.formats.tiff.write import Field, longs, shorts
from lighten.pictures.coding.coded import CodedPicture, Coding

__all__ = ["chunk_of", "pixel_fields"]

_RATIO = 5
# Luma from 0 to 255, chroma about 128 (TIFF 6.0, section 20; as JFIF has them).
_JFIF_RANGE = (0, 1, 255, 1, 128, 1, 255, 1, 128, 1, 255, 1)
_BASELINE_SOFS = (b"\xff\xc0", b"\xff\xc1", b"\xff\xc2")


def pixel_fields(
    coded: CodedPicture, order: str, *, extra_samples: Field | None = None, is_inks: bool = False
) -> Mapping[int, Field]:
    """Return the tags that describe its one strip. order: "<" or ">".

    extra_samples: what a last sample means, where there is one. Raises: ValueError for codings
    that TIFF has not.
    """
    samples = 1 if coded.palette is not None else coded.colours
    compression, photometric = _coding(coded, is_inks=is_inks)
    fields = {
        tags.WIDTH: longs(order, coded.width_px),
        tags.HEIGHT: longs(order, coded.height_px),
        tags.BITS: shorts(order, *[coded.bits] * samples),
        tags.COMPRESSION: shorts(order, compression),
        tags.PHOTOMETRIC: shorts(order, photometric),
        tags.SAMPLES: shorts(order, samples),
        tags.ROWS_PER_STRIP: longs(order, coded.height_px),
    }
    if coded.coding is Coding.FLATE and coded.predictor != 1:
        fields[tags.PREDICTOR] = shorts(order, coded.predictor)
    if coded.palette is not None:
        fields[tags.COLOUR_MAP] = _colour_map(coded, order)
    if photometric == Photometric.YCBCR:
        fields[tags.YCBCR_SUBSAMPLING] = shorts(order, *_subsampling(coded.data))
        fields[532] = Field(type=_RATIO, data=struct.pack(f"{order}12I", *_JFIF_RANGE))
    if extra_samples is not None:
        fields[tags.EXTRA_SAMPLES] = extra_samples
    return fields


def chunk_of(coded: CodedPicture, order: str) -> bytes:
    """Return the page's one strip. Samples of 16 bits are in the byte order of the file."""
    if coded.bits != 16 or order == "<":
        return coded.data
    swapped = np.frombuffer(zlib.decompress(coded.data), "<u2").astype(">u2").tobytes()
    return zlib.compress(swapped, 9)


def _coding(coded: CodedPicture, *, is_inks: bool) -> tuple[Compression, Photometric]:
    if coded.coding is Coding.GROUP_4:
        return Compression.GROUP_4, Photometric.WHITE_IS_ZERO
    if coded.coding is Coding.JPEG:
        grey = coded.colours == 1
        return Compression.JPEG, Photometric.BLACK_IS_ZERO if grey else Photometric.YCBCR
    if coded.coding is not Coding.FLATE:
        raise ValueError(f"{coded.coding} is no coding of TIFF")
    if coded.palette is not None:
        return Compression.DEFLATE, Photometric.PALETTE
    if is_inks:
        return Compression.DEFLATE, Photometric.INKS
    colour = coded.colours >= 3
    return Compression.DEFLATE, Photometric.RGB if colour else Photometric.BLACK_IS_ZERO


def _colour_map(coded: CodedPicture, order: str) -> Field:
    """Return all reds, all greens, all blues, 16 bits each (TIFF 6.0, section 5)."""
    entries = np.frombuffer(coded.palette or b"", np.uint8).reshape(-1, coded.colours)
    whole = np.zeros((1 << coded.bits, 3), np.uint16)
    whole[: len(entries)] = entries
    # 255 is as light as 65,535.
    return shorts(order, *(whole * np.uint16(257)).T.ravel().tolist())


def _subsampling(jpeg: bytes) -> tuple[int, int]:
    """Return the number of luma samples to a chroma one, across and down (ITU-T T.81, B.2.2)."""
    at = min(place for place in map(jpeg.find, _BASELINE_SOFS) if place >= 0)
    factors = jpeg[at + 11]
    return factors >> 4, factors & 15
