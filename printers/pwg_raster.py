"""Pages of PWG raster, which printers without a language of their own are sent (PWG 5102.4)."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

__all__ = ["BadRasterError", "RasterPage", "read_pwg_raster"]

_MARK, _HEAD_BYTES = b"RaS2", 1796
_MOST_PIXELS, _MOST_PAGES = 120_000_000, 2_000
# Colour spaces of table 12: black (1 means ink), grey and colour as light.
_BLACK, _RGB, _GREYS, _COLOURS = 3, 1, (18, 0), (19, 1, 20)


class BadRasterError(ValueError):
    """Not such a file, cut short, or with more than can be taken safely."""


@dataclass(frozen=True, slots=True)
class RasterPage:
    """pixels: (height, width) or (height, width, 3) uint8, 255 for paper. ppi: across and down."""

    pixels: NDArray[np.uint8]
    ppi: tuple[int, int]


def read_pwg_raster(stream: BinaryIO) -> Iterator[RasterPage]:
    """Page by page, as they come. Raises: BadRasterError."""
    if stream.read(4) != _MARK:
        raise BadRasterError("It is no PWG raster.")
    for _ in range(_MOST_PAGES):
        head = stream.read(_HEAD_BYTES)
        if not head:
            return
        if len(head) < _HEAD_BYTES:
            raise BadRasterError("It ends within a page.")
        yield _page(stream, head)
    raise BadRasterError(f"It has more than {_MOST_PAGES} pages.")


def _page(stream: BinaryIO, head: bytes) -> RasterPage:
    across, down = struct.unpack_from(">II", head, 276)
    width, height = struct.unpack_from(">II", head, 372)
    bits, pixel_bits, line_bytes = struct.unpack_from(">III", head, 384)
    space = struct.unpack_from(">I", head, 400)[0]
    if not (width > 0 and height > 0 and width * height <= _MOST_PIXELS):
        raise BadRasterError("A page of it has more pixels than can be taken safely.")
    if bits not in (1, 8) or pixel_bits not in (1, 8, 24):
        raise BadRasterError(f"Pages of {pixel_bits} bits a pixel are not taken.")
    if line_bytes != (width * pixel_bits + 7) // 8:
        raise BadRasterError("A page of it is not as wide as it says.")
    lines = _lines(stream, height, line_bytes, max(1, pixel_bits // 8))
    if pixel_bits == 1:
        is_ink = np.unpackbits(lines, axis=1)[:, :width]
        return RasterPage(
            np.where(is_ink == (space == _BLACK), 0, 255).astype(np.uint8), (across, down)
        )
    pixels = lines if pixel_bits == 8 else lines.reshape(height, width, 3)
    if space == _BLACK:
        pixels = 255 - pixels
    return RasterPage(pixels, (across, down))


def _lines(stream: BinaryIO, height: int, line_bytes: int, unit: int) -> NDArray[np.uint8]:
    """Lines that repeat, and runs within them, laid out (5102.4, 4.4)."""
    lines = np.empty((height, line_bytes), np.uint8)
    row = 0
    while row < height:
        repeats = _read(stream, 1)[0] + 1
        if row + repeats > height:
            raise BadRasterError("A page of it has more lines than it says.")
        line = bytearray()
        while len(line) < line_bytes:
            count = _read(stream, 1)[0]
            if count <= 127:
                line += _read(stream, unit) * (count + 1)
            elif count > 128:
                line += _read(stream, unit * (257 - count))
            else:
                line += b"\xff" * (line_bytes - len(line))
        if len(line) > line_bytes:
            raise BadRasterError("A line of it is longer than it says.")
        lines[row : row + repeats] = np.frombuffer(line, np.uint8)
        row += repeats
    return lines


def _read(stream: BinaryIO, length: int) -> bytes:
    data = stream.read(length)
    if len(data) < length:
        raise BadRasterError("It ends within a page.")
    return data
