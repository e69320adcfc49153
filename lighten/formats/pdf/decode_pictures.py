"""Pixels of pictures that were taken out of a PDF."""

import zlib
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.ascii import decode_ascii85, decode_ascii_hex
from lighten.codecs.flate import inflate, unpack_rows, unpack_samples
from lighten.codecs.jpeg import decode_jpeg, glimpse_jpeg
from lighten.codecs.jpeg2000 import decode_jpeg2000
from lighten.codecs.two_tone import decode_two_tone
from lighten.formats.pdf.stored_pictures import TWO_TONE_CODINGS, StoredPicture

__all__ = [
    "UNREADABLE",
    "decode",
    "decode_colour_key",
    "decode_opacity",
    "glimpse",
]

# What decoding raises where bytes do not hold what they promise.
UNREADABLE = (ValueError, OSError, MemoryError, zlib.error)
_MOST_CODED_BYTES = 400_000_000
_GLIMPSE_PX = 256
_GLIMPSED_COLUMNS = 1024


def decode(stored: StoredPicture, *, at_least: tuple[int, int] | None = None) -> NDArray[np.uint8]:
    """Its samples, palettes resolved: (height, width) grey or (height, width, n), uint8.

    As the file means them before its Decode array; 16 bits are cut to the upper 8.

    `at_least`: codings that can be decoded at a reduced size may be, down to that.
    Raises: ValueError or OSError if the bytes do not hold what the dictionary says.
    """
    data, coding = _inner(stored)
    if coding == "DCTDecode":
        pixels = decode_jpeg(data, at_least=at_least)
    elif coding == "JPXDecode":
        pixels = decode_jpeg2000(data, halvings=_halvings(stored, at_least))
        if stored.has_opacity:
            pixels = _colours_of(pixels)
    elif coding in TWO_TONE_CODINGS:
        return _as_colours(stored, _decode_two_tone(stored, data, coding))
    else:
        return _decode_samples(stored, data)
    if stored.palette is not None or (pixels.shape[2:] or (1,)) != (stored.colours,):
        raise ValueError("its coding and its colour space do not agree")
    return pixels


def glimpse(stored: StoredPicture) -> NDArray[np.uint8]:
    """Enough of its pixels to tell what it is: a band, or the whole at a reduced size.

    Returns and raises as `decode`.
    """
    data, coding = _inner(stored)
    if coding == "DCTDecode":
        return glimpse_jpeg(data, longest_px=max(stored.width_px, stored.height_px))
    if coding == "JPXDecode":
        return decode(stored, at_least=(_GLIMPSE_PX, _GLIMPSE_PX))
    rows = min(stored.height_px, max(_GLIMPSE_PX, stored.height_px // 5))
    if coding in TWO_TONE_CODINGS:
        return decode(stored)
    return _decode_samples(replace(stored, height_px=rows), data)[:, :_GLIMPSED_COLUMNS]


def decode_colour_key(stored: StoredPicture) -> NDArray[np.bool_] | None:
    """Where the picture is see-through by its colour-key mask: (height, width); None without one.

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


def decode_opacity(stored: StoredPicture) -> NDArray[np.uint8] | None:
    """How opaque each pixel is by its own coding: (height, width) uint8; None if nothing says so.

    Source: ISO 32000-1, 7.4.9 and table 89 (SMaskInData). Raises: as `decode`.
    """
    if not stored.has_opacity:
        return None
    data, _ = _inner(stored)
    pixels = decode_jpeg2000(data)
    return pixels[..., -1] if pixels.ndim == 3 and pixels.shape[2] in (2, 4) else None


def _colours_of(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Without the channel of opacity, if there is one."""
    count = pixels.shape[2] if pixels.ndim == 3 else 1
    return {2: pixels[..., 0], 4: pixels[..., :3]}.get(count, pixels)


def _decode_two_tone(stored: StoredPicture, data: bytes, coding: str) -> NDArray[np.uint8]:
    return decode_two_tone(
        data, coding, stored.two_tone, width_px=stored.width_px, height_px=stored.height_px
    )


def _decode_samples(stored: StoredPicture, data: bytes) -> NDArray[np.uint8]:
    rows = unpack_rows(
        data if stored.filters else zlib.compress(data, 1),
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


def _as_colours(stored: StoredPicture, levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Levels of one sample a pixel as what they stand for."""
    if stored.palette is None:
        return _spread(levels, stored.bits)
    entries = np.frombuffer(stored.palette, np.uint8)
    return entries[levels] if stored.entry_colours == 1 else _entries_of(stored, entries)[levels]


def _entries_of(stored: StoredPicture, entries: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return entries.reshape(-1, stored.entry_colours)


def _spread(levels: NDArray[np.uint8], bits: int) -> NDArray[np.uint8]:
    """Levels of a few bits over the whole range of 0 to 255."""
    if bits >= 8:
        return levels
    return (levels * (255 // ((1 << bits) - 1))).astype(np.uint8)


def _inner(stored: StoredPicture) -> tuple[bytes, str]:
    """The bytes below the outer wrappings, and the name of the coding that is left."""
    data, filters = stored.data, stored.filters
    for name in filters[:-1]:
        if name == "FlateDecode":
            data = inflate(data, most_bytes=_MOST_CODED_BYTES)
        elif name == "ASCIIHexDecode":
            data = decode_ascii_hex(data)
        elif name == "ASCII85Decode":
            data = decode_ascii85(data)
        else:
            raise ValueError(f"{name} around another coding")
    return data, filters[-1] if filters else ""


def _halvings(stored: StoredPicture, at_least: tuple[int, int] | None) -> int:
    """How often both sides can be halved and stay at least that long."""
    count = 0
    if at_least is not None:
        while count < 5 and all(
            side >> (count + 1) >= wanted
            for side, wanted in zip((stored.width_px, stored.height_px), at_least, strict=True)
        ):
            count += 1
    return count
