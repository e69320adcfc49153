"""Deflate with the predictors of PNG, as PDF and PNG use it, or with that of TIFF.

Source: RFC 1950, RFC 1951, RFC 2083 clause 6 (filters); ISO 32000-1, 7.4.4; TIFF 6.0, section 14.
"""

import struct
import zlib
from dataclasses import dataclass
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.row_filters import filtered_rows

__all__ = [
    "Effort",
    "PackedRows",
    "inflate",
    "pack",
    "pack_rows",
    "pack_samples",
    "pack_tiff_rows",
    "unpack_rows",
    "unpack_samples",
    "unpack_tiff_rows",
]

# Page contents and fonts: level 10 leaves 2.3 % less than 9 in four times its time; 12 leaves .4 %
# less than that in three times its time (12 MB of three manuals). Pixels: 10 leaves no less than 9
# in eight times its time, 12 leaves 4 % less in thirty times (six screenshots); 3 chooses wrongly
# between filtered and plain rows, by up to 10 %.
_CONTENT_LEVEL = 10
_REPETITIVE_SHARE = 0.03
_PNG_COLOUR_TYPES = {1: 0, 3: 2, 4: 6}


def inflate(data: bytes, *, most_bytes: int) -> bytes:
    """Unpack a zlib stream; of a truncated one, return the bytes that can be read.

    Raises: zlib.error if not even a start can be read; ValueError above `most_bytes`.
    """
    reader = zlib.decompressobj()
    out = reader.decompress(data, most_bytes + 1)
    if len(out) > most_bytes:
        raise ValueError("unpacks to more than it may")
    return out


class Effort(IntEnum):
    """Length of the search for the smallest packing of pixels, in levels of libdeflate.

    QUICK: for a comparison of sizes. BRIEF: as long as it is worth. BEST: as small as it gets.
    """

    QUICK = 6
    BRIEF = 9
    THOROUGH = 10
    BEST = 12


# Rows of a page that are packed twice to see how, of so many.
_BAND_ROWS, _BAND_EVERY, _MANY_ROWS = 24, 192, 600


def pack(data: bytes) -> bytes:
    """Pack content as a zlib stream, about as small as it gets."""
    return _packed_at(data, _CONTENT_LEVEL)


def _packed_at(data: bytes, level: int, quickly: bytes = b"") -> bytes:
    """Pack at a level of libdeflate. quickly: `data` packed at `Effort.QUICK`, if that was done."""
    import deflate

    quickly = quickly or bytes(deflate.zlib_compress(data, Effort.QUICK))
    if level == Effort.QUICK:
        return quickly
    if _is_repetitive(quickly, data):
        # Optimal parsing takes a hundred times as long on long runs, and wins nothing there; this
        # leaves 5 % less than the same level of libdeflate.
        return zlib.compress(data, 9)
    return bytes(deflate.zlib_compress(data, level))


def _is_repetitive(packed: bytes, data: bytes) -> bool:
    return len(packed) < len(data) * _REPETITIVE_SHARE


@dataclass(frozen=True, slots=True, kw_only=True)
class PackedRows:
    """`data` with `predictor` as ISO 32000-1 table 10 counts them: 1 none, 2 TIFF, 15 PNG."""

    data: bytes
    predictor: int


def pack_rows(
    rows: NDArray[np.uint8],
    *,
    pixel_bytes: int,
    may_filter: bool = True,
    effort: Effort = Effort.BEST,
) -> PackedRows:
    """Pack rows of samples, with PNG filters where they help.

    rows: (height, bytes a row) uint8. pixel_bytes: distance to the sample on the left, at least 1.
    may_filter: not for samples smaller than a byte or places in a palette, where differences
        mean nothing (RFC 2083, 9.6).
    """
    plain = rows.tobytes()
    if not may_filter:
        return PackedRows(data=_packed_at(plain, effort), predictor=1)
    filtered = filtered_rows(np.ascontiguousarray(rows), pixel_bytes).tobytes()
    quick = [_packed_at(one, Effort.QUICK) for one in (plain, filtered)]
    if len(quick[0]) <= len(quick[1]):
        return PackedRows(data=_packed_at(plain, effort, quick[0]), predictor=1)
    return PackedRows(data=_packed_at(filtered, effort, quick[1]), predictor=15)


def pack_tiff_rows(
    samples: NDArray[np.uint8] | NDArray[np.uint16], *, effort: Effort = Effort.BEST
) -> PackedRows:
    """Pack (height, width[, colours]) whole samples, as differences where that helps.

    Those of 16 bits least significant byte first, as a TIFF of that order has them.
    """
    pixels = samples if samples.ndim == 3 else samples[..., None]
    differences = pixels.copy()
    differences[:, 1:] -= pixels[:, :-1]
    order = "<u2" if samples.dtype == np.uint16 else "u1"
    candidates = [_some_rows(one).astype(order).tobytes() for one in (pixels, differences)]
    quick = [_packed_at(data, Effort.QUICK) for data in candidates]
    is_plain = len(quick[0]) <= len(quick[1])
    chosen = (pixels if is_plain else differences).astype(order, copy=False)
    return PackedRows(data=_packed_at(chosen.tobytes(), effort), predictor=1 if is_plain else 2)


def _some_rows(rows: NDArray[np.uint8] | NDArray[np.uint16]) -> NDArray[Any]:
    """Return bands from all over a tall array: enough to choose between two ways to pack it."""
    if len(rows) < _MANY_ROWS:
        return rows
    bands = [rows[top : top + _BAND_ROWS] for top in range(0, len(rows), _BAND_EVERY)]
    return np.concatenate(bands)


def unpack_tiff_rows(
    packed: PackedRows, *, shape: tuple[int, ...], bits: int
) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """The reverse of `pack_tiff_rows`. shape: (height, width[, colours]). Raises: ValueError."""
    order = "<u2" if bits == 16 else "u1"
    samples = np.frombuffer(zlib.decompress(packed.data), order).reshape(shape)
    if packed.predictor != 1:
        samples = np.cumsum(samples, axis=1, dtype=samples.dtype)
    return samples.astype(np.uint16) if bits == 16 else samples.astype(np.uint8)


def unpack_rows(
    data: bytes, *, width: int, height: int, bits: int, colours: int, predictor: int
) -> NDArray[np.uint8]:
    """The samples that `pack_rows` or any other writer has packed.

    Returns (height, bytes a row) uint8, samples packed as they are in the file; rows that a cut
    stream no longer has are zero. Raises: ValueError if the predictor cannot be undone here.
    """
    row_bytes = (width * bits * colours + 7) // 8
    if predictor >= 10 and colours in _PNG_COLOUR_TYPES:
        return _unpack_as_png(data, width, height, bits, colours)
    if predictor >= 10:
        raise ValueError("PNG predictor on that many colours")
    reader = zlib.decompressobj()
    flat = np.frombuffer(reader.decompress(data, row_bytes * height), np.uint8)
    padded = np.zeros(row_bytes * height, np.uint8)
    padded[: flat.size] = flat
    rows: NDArray[np.uint8] = padded.reshape(height, row_bytes)
    if predictor == 2:
        if bits != 8:
            raise ValueError("TIFF predictor on other than 8 bits")
        samples = rows.reshape(height, width, colours)
        rows = np.cumsum(samples, axis=1, dtype=np.uint8).reshape(height, row_bytes)
    return rows


def _unpack_as_png(
    data: bytes, width: int, height: int, bits: int, colours: int
) -> NDArray[np.uint8]:
    """A PDF stream with PNG predictors is the inside of a PNG file: a PNG reader undoes it."""
    import pyvips

    header = struct.pack(">IIBBBBB", width, height, bits, _PNG_COLOUR_TYPES[colours], 0, 0, 0)
    png = b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
        for name, body in ((b"IHDR", header), (b"IDAT", data), (b"IEND", b""))
    )
    try:
        samples = pyvips.Image.pngload_buffer(png, fail_on="none").numpy()
    except pyvips.Error as error:
        raise ValueError("its rows cannot be unpacked") from error
    if bits < 8:
        # The reader spreads 1, 2 and 4 bits over 0 to 255.
        levels = samples.reshape(height, width) // (255 // ((1 << bits) - 1))
        return pack_samples(levels.astype(np.uint8), bits)
    if bits == 16:
        return np.ascontiguousarray(samples).astype(">u2").view(np.uint8).reshape(height, -1)
    return np.ascontiguousarray(samples).reshape(height, -1).astype(np.uint8)


def pack_samples(levels: NDArray[np.uint8], bits: int) -> NDArray[np.uint8]:
    """Pack (height, width) uint8 levels of `bits` (1, 2, 4 or 8) into bytes, row by row."""
    if bits == 8:
        return levels
    height, width = levels.shape
    per_byte = 8 // bits
    padded = np.zeros((height, -(-width // per_byte) * per_byte), np.uint8)
    padded[:, :width] = levels
    shifts = np.arange(per_byte - 1, -1, -1, dtype=np.uint8) * bits
    groups = padded.reshape(height, -1, per_byte) << shifts
    packed: NDArray[np.uint8] = np.bitwise_or.reduce(groups, axis=2).astype(np.uint8)
    return packed


def unpack_samples(rows: NDArray[np.uint8], *, width: int, bits: int) -> NDArray[np.uint8]:
    """The reverse of `pack_samples`: (height, width) uint8 levels."""
    if bits == 8:
        return rows[:, :width]
    per_byte = 8 // bits
    shifts = np.arange(per_byte - 1, -1, -1, dtype=np.uint8) * bits
    levels = (rows[:, :, None] >> shifts) & ((1 << bits) - 1)
    return levels.reshape(rows.shape[0], -1)[:, :width].astype(np.uint8)
