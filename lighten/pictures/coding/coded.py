"""A picture re-encoded: its bytes, and its pixels from them."""

import io
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.bitonal import CCITT, JBIG2, BitonalParameters, decode_bitonal
from lighten.codecs.flate import PackedRows, unpack_rows, unpack_samples, unpack_tiff_rows
from lighten.codecs.jpeg import decode_jpeg
from lighten.codecs.jpeg2000 import decode_jpeg2000

__all__ = ["CodedPicture", "Coding", "Holder", "decode_coded"]


class Coding(StrEnum):
    """Coding of a picture's bytes."""

    JPEG = "jpeg"
    FLATE = "flate"
    GROUP_4 = "group-4"
    JBIG2 = "jbig2"
    JPEG_2000 = "jpeg-2000"
    PNG = "png"
    WEBP = "webp"


class Holder(StrEnum):
    """Container of a coded picture, which decides its possible codings."""

    STREAM = "stream"  # of a PDF
    FILE = "file"  # a whole picture file by itself: JPEG, PNG or WebP
    TIFF = "tiff"  # a page of one, that any reader of TIFF 6.0 and its supplements reads


@dataclass(frozen=True, slots=True, kw_only=True)
class CodedPicture:
    """Bytes and what is needed to read them.

    colours: samples a pixel; with a palette, samples an entry (and 1 a pixel).
    palette: entries of `colours` bytes, or None. predictor: as ISO 32000-1 table 10, or 1; samples
    of 16 bits are those of a TIFF, least significant byte first.
    likeness: to the pixels that were given, 0 to 1.
    share: of a draft, what its final coding is likely to weigh of it.
    """

    coding: Coding
    data: bytes
    width_px: int
    height_px: int
    colours: int
    bits: int
    palette: bytes | None = None
    predictor: int = 1
    likeness: float = 1.0
    share: float = 1.0

    @property
    def weight(self) -> int:
        """Return bytes of data and palette; for a draft, the predicted final bytes."""
        return round(len(self.data) * self.share) + len(self.palette or b"")


def decode_coded(picture: CodedPicture) -> NDArray[np.uint8]:
    """Decode a coded picture, palettes resolved: (height, width) or (height, width, n) uint8.

    Those of PNG and WebP on white where they are see-through.
    """
    match picture.coding:
        case Coding.JPEG:
            return decode_jpeg(picture.data)
        case Coding.JPEG_2000:
            return decode_jpeg2000(picture.data)
        case Coding.PNG | Coding.WEBP:
            return _on_white(picture.data)
        case Coding.GROUP_4:
            width, height = picture.width_px, picture.height_px
            parameters = BitonalParameters(dictionary=b"/K -1/Columns %d/Rows %d" % (width, height))
            levels = decode_bitonal(
                picture.data, CCITT, parameters, width_px=width, height_px=height
            )
        case Coding.JBIG2:
            levels = decode_bitonal(
                picture.data,
                JBIG2,
                BitonalParameters(),
                width_px=picture.width_px,
                height_px=picture.height_px,
            )
        case Coding.FLATE:
            levels = _unpacked(picture)
    if picture.palette is not None:
        entries = np.frombuffer(picture.palette, np.uint8).reshape(-1, picture.colours)
        return np.asarray(entries[levels])
    return levels * np.uint8(255) if picture.bits == 1 else levels


def _unpacked(picture: CodedPicture) -> NDArray[np.uint8]:
    """Unpack samples, or palette indexes, as they were packed."""
    colours = 1 if picture.palette is not None else picture.colours
    width, height = picture.width_px, picture.height_px
    if picture.predictor == 2 or picture.bits == 16:
        packed = PackedRows(data=picture.data, predictor=picture.predictor)
        shape = (height, width) if colours == 1 else (height, width, colours)
        samples = unpack_tiff_rows(packed, shape=shape, bits=picture.bits)
        return (samples >> 8).astype(np.uint8) if picture.bits == 16 else samples.astype(np.uint8)
    rows = unpack_rows(
        picture.data,
        width=width,
        height=height,
        bits=picture.bits,
        colours=colours,
        predictor=picture.predictor,
    )
    if picture.bits < 8:
        rows = unpack_samples(rows, width=width * colours, bits=picture.bits)
    rows = rows[:, : width * colours]
    return rows if colours == 1 else rows.reshape(height, width, colours)


def _on_white(data: bytes) -> NDArray[np.uint8]:
    from PIL import Image

    with Image.open(io.BytesIO(data)) as image:
        if image.mode in ("1", "L"):
            return np.asarray(image.convert("L"))
        if image.mode.startswith("I"):
            return (np.asarray(image) >> 8).astype(np.uint8)
        seen = Image.new("RGBA", image.size, "white")
        seen.alpha_composite(image.convert("RGBA"))
        return np.asarray(seen.convert("RGB"))
