"""Pixels of stored pictures: a table by coding."""

import io
import zlib
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.bitonal import CCITT, JBIG2, decode_bitonal
from lighten.codecs.flate import unpack_rows, unpack_samples
from lighten.codecs.heic import decode_heic
from lighten.codecs.jpeg import decode_jpeg, glimpse_jpeg
from lighten.codecs.jpeg2000 import decode_jpeg2000
from lighten.codecs.png import decode_png, glimpse_png
from lighten.codecs.tiff import decode_tiff
from lighten.pictures.coding.stored import StoredCoding, StoredPicture

__all__ = [
    "UNREADABLE",
    "decode",
    "decode_colour_key",
    "decode_deep",
    "decode_inks",
    "decode_on_white",
    "decode_opacity",
    "glimpse",
]

# What decoding raises where bytes do not hold what they promise.
UNREADABLE = (ValueError, OSError, MemoryError, zlib.error, SyntaxError, EOFError)
_GLIMPSE_PX = 256
_GLIMPSED_COLUMNS = 1024

Size = tuple[int, int]
Pixels = NDArray[np.uint8]


def decode(stored: StoredPicture, *, at_least: Size | None = None) -> Pixels:
    """Decode samples, palettes resolved: (height, width) grey or (height, width, n), uint8.

    As the file means them before any table beside it; 16 bits are cut to the upper 8; without
    opacity. `at_least`: codings that can be decoded at a reduced size may be, down to that.
    Raises: ValueError or OSError if the bytes do not hold what was promised.
    """
    decoder = _DECODERS.get(stored.coding)
    if decoder is None:
        raise ValueError("a coding that is not known here")
    return decoder(stored, at_least)


def decode_inks(stored: StoredPicture, *, at_least: Size | None = None) -> Pixels:
    """Decode samples that are inks: (height, width, n) uint8, 255 is full ink; else as `decode`."""
    samples = decode(stored, at_least=at_least)
    return 255 - samples if stored.has_inverted_inks else samples


def glimpse(stored: StoredPicture) -> Pixels:
    """Decode enough pixels to classify: a band, or the whole at a reduced size.

    Returns and raises as `decode`.
    """
    if stored.coding is StoredCoding.JPEG:
        return glimpse_jpeg(stored.data, longest_px=max(stored.width_px, stored.height_px))
    if stored.coding is StoredCoding.PNG:
        return _agreeing(stored, _upper_8(glimpse_png(stored.data)))
    if stored.coding in (StoredCoding.RAW, StoredCoding.FLATE):
        rows = min(stored.height_px, max(_GLIMPSE_PX, stored.height_px // 5))
        return _decode_samples(replace(stored, height_px=rows), None)[:, :_GLIMPSED_COLUMNS]
    if stored.coding is StoredCoding.JPEG_2000:
        return decode(stored, at_least=(_GLIMPSE_PX, _GLIMPSE_PX))
    return decode(stored)


def decode_colour_key(stored: StoredPicture) -> NDArray[np.bool_] | None:
    """Return the transparency by a colour-key mask: (height, width); None without one.

    Source: ISO 32000-1, 8.9.6.4. Raises: as `decode`.
    """
    if stored.colour_key is None:
        return None
    plain = replace(stored, palette=None, entry_colours=1) if stored.palette else stored
    samples = decode(plain)
    if stored.bits < 8:
        samples = samples // (255 // ((1 << stored.bits) - 1))
    if samples.ndim == 2:
        samples = samples[..., None]
    if len(stored.colour_key) != 2 * samples.shape[2]:
        return None
    lowest, highest = np.array(stored.colour_key).reshape(-1, 2).T
    return np.asarray(((samples >= lowest) & (samples <= highest)).all(axis=2))


def decode_opacity(stored: StoredPicture) -> Pixels | None:
    """Return the opacity of each pixel by its own coding: (height, width) uint8; None for none.

    Source: ISO 32000-1, 7.4.9 and table 89 (SMaskInData). Raises: as `decode`.
    """
    if not stored.has_opacity:
        return None
    if stored.coding is StoredCoding.JPEG_2000:
        pixels = decode_jpeg2000(stored.data)
        return pixels[..., -1] if pixels.ndim == 3 and pixels.shape[2] in (2, 4) else None
    if stored.coding is StoredCoding.PNG:
        opacity = decode_png(stored.data)[1]
        return None if opacity is None else _upper_8(opacity)
    if stored.coding is StoredCoding.TIFF:
        return np.ascontiguousarray(_upper_8(decode_tiff(stored.data))[..., -1])
    if stored.coding is StoredCoding.HEIC:
        return np.ascontiguousarray(decode_heic(stored.data)[..., 3])
    from PIL import Image

    with Image.open(io.BytesIO(stored.data)) as image:
        return np.asarray(image.convert("RGBA").getchannel("A"))


def decode_on_white(stored: StoredPicture) -> Pixels:
    """Decode as `decode`, on white where its own coding makes it transparent."""
    pixels, opacity = decode(stored), decode_opacity(stored)
    if opacity is None or opacity.min() == 255:
        return pixels
    share = opacity.astype(np.uint32)
    share = share if pixels.ndim == 2 else share[..., None]
    return ((pixels * share + 255 * (255 - share) + 127) // 255).astype(np.uint8)


def decode_deep(
    stored: StoredPicture,
) -> tuple[NDArray[np.uint16], NDArray[np.uint16] | None]:
    """Decode a 16-bit PNG or TIFF exactly: colours as `decode`, and opacity or None."""
    if stored.coding is StoredCoding.TIFF:
        samples = decode_tiff(stored.data)
        if samples.dtype != np.uint16:
            raise ValueError("it has fewer than 16 bits")
        return samples.astype(np.uint16), None
    colours, opacity = decode_png(stored.data)
    if colours.dtype != np.uint16:
        raise ValueError("it has fewer than 16 bits")
    return colours.astype(np.uint16), None if opacity is None else opacity.astype(np.uint16)


def _decode_jpeg(stored: StoredPicture, at_least: Size | None) -> Pixels:
    return _agreeing(stored, decode_jpeg(stored.data, at_least=at_least))


def _decode_jpeg2000(stored: StoredPicture, at_least: Size | None) -> Pixels:
    pixels = decode_jpeg2000(stored.data, halvings=_halvings(stored, at_least))
    return _agreeing(stored, _colours_of(pixels) if stored.has_opacity else pixels)


def _decode_ccitt(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    return _decode_lines(stored, CCITT)


def _decode_jbig2(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    return _decode_lines(stored, JBIG2)


def _decode_lines(stored: StoredPicture, coding: str) -> Pixels:
    levels = decode_bitonal(
        stored.data, coding, stored.bitonal, width_px=stored.width_px, height_px=stored.height_px
    )
    return _as_colours(stored, levels)


def _decode_png(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    return _agreeing(stored, _upper_8(decode_png(stored.data)[0]))


def _decode_file(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    """A whole picture file that the picture library reads: GIF, BMP, WebP."""
    from PIL import Image

    with Image.open(io.BytesIO(stored.data)) as image:
        image.load()
        return _agreeing(stored, np.asarray(image.convert("L" if stored.colours == 1 else "RGB")))


def _decode_heic(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    return _agreeing(stored, np.ascontiguousarray(decode_heic(stored.data)[..., :3]))


def _decode_tiff(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    pixels = _upper_8(decode_tiff(stored.data))
    return _agreeing(stored, _colours_of(pixels) if stored.has_opacity else pixels)


def _agreeing(stored: StoredPicture, pixels: Pixels) -> Pixels:
    if stored.palette is not None or (pixels.shape[2:] or (1,)) != (stored.colours,):
        raise ValueError("its coding and its colour space do not agree")
    return pixels


def _upper_8(samples: NDArray[np.uint8] | NDArray[np.uint16]) -> Pixels:
    return (
        (samples >> 8).astype(np.uint8) if samples.dtype == np.uint16 else samples.astype(np.uint8)
    )


def _colours_of(pixels: Pixels) -> Pixels:
    """Return the colours without an alpha channel."""
    count = pixels.shape[2] if pixels.ndim == 3 else 1
    return {2: pixels[..., 0], 4: pixels[..., :3]}.get(count, pixels)


def _decode_samples(stored: StoredPicture, _at_least: Size | None) -> Pixels:
    is_raw = stored.coding is StoredCoding.RAW
    rows = unpack_rows(
        zlib.compress(stored.data, 1) if is_raw else stored.data,
        width=stored.width_px,
        height=stored.height_px,
        bits=stored.bits,
        colours=stored.colours,
        predictor=stored.predictor,
    )
    height, width, colours = stored.height_px, stored.width_px, stored.colours
    if stored.bits == 16:
        rows = rows[:, ::2]
    elif stored.bits < 8:
        rows = unpack_samples(rows, width=width * colours, bits=stored.bits)
    if colours == 1:
        return _as_colours(stored, rows[:, :width])
    return _spread(rows, stored.bits).reshape(height, width, colours)


def _as_colours(stored: StoredPicture, levels: Pixels) -> Pixels:
    """Map levels of one sample a pixel through the palette; those beyond it count as its last.

    Source: ISO 32000-2, 8.6.6.3.
    """
    if stored.palette is None:
        return _spread(levels, stored.bits)
    entries = np.frombuffer(stored.palette, np.uint8)
    if stored.entry_colours == 1:
        return np.take(entries, levels, mode="clip")
    return np.take(entries.reshape(-1, stored.entry_colours), levels, axis=0, mode="clip")


def _spread(levels: Pixels, bits: int) -> Pixels:
    """Scale levels of a few bits to the range of 0 to 255."""
    if bits >= 8:
        return levels
    return (levels * (255 // ((1 << bits) - 1))).astype(np.uint8)


def _halvings(stored: StoredPicture, at_least: Size | None) -> int:
    """Return how often both sides can be halved and stay at least that long."""
    count = 0
    if at_least is not None:
        while count < 5 and all(
            side >> (count + 1) >= least
            for side, least in zip((stored.width_px, stored.height_px), at_least, strict=True)
        ):
            count += 1
    return count


_DECODERS: dict[StoredCoding, Callable[[StoredPicture, Size | None], Pixels]] = {
    StoredCoding.RAW: _decode_samples,
    StoredCoding.FLATE: _decode_samples,
    StoredCoding.JPEG: _decode_jpeg,
    StoredCoding.JPEG_2000: _decode_jpeg2000,
    StoredCoding.CCITT: _decode_ccitt,
    StoredCoding.JBIG2: _decode_jbig2,
    StoredCoding.PNG: _decode_png,
    StoredCoding.BITMAP_FILE: _decode_file,
    StoredCoding.WEBP: _decode_file,
    StoredCoding.HEIC: _decode_heic,
    StoredCoding.TIFF: _decode_tiff,
    StoredCoding.LOSSY_TIFF: _decode_tiff,
}
