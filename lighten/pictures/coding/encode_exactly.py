"""Exact codings of pixels: palettes, predictors, one bit a pixel, and PNG files.

Every pixel comes out as it went in.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.bitonal import encode_group4
from lighten.codecs.flate import Effort, PackedRows, pack_rows, pack_samples, pack_tiff_rows
from lighten.codecs.jbig2 import encode_jbig2
from lighten.codecs.png import encode_png
from lighten.pictures.coding.coded import CodedPicture, Coding, Holder

__all__ = [
    "encode_deep",
    "encode_exactly",
    "encode_lines",
    "encode_png_file",
    "exact_palette",
    "exact_weight",
    "is_black_and_white",
]

_MOST_PALETTE_COLOURS = 256
# A palette of more greys would be as long as the grey itself.
_MOST_PALETTE_GREYS = 16
# Palettes of TIFF have 4 or 8 bits (TIFF 6.0, section 5).
_FEWEST_TIFF_PALETTE_BITS = 4
# What the usual and the best packing leave of a quick one: of PNG files; of places in a palette, of
# samples with and without predictors (means over 60 pictures; single ones differ by 3 %).
_BEST_OF_QUICK_PNG = 0.95
# Of two tones, the best level leaves .81 and more of what the quickest does (25 pages).
_LEAST_OF_QUICK_LINES = 0.78
_OF_QUICK_PALETTE = {Effort.BRIEF: 0.95, Effort.THOROUGH: 0.93, Effort.BEST: 0.92}
_OF_QUICK_PREDICTED = {Effort.BRIEF: 0.98, Effort.THOROUGH: 0.96, Effort.BEST: 0.95}
_OF_QUICK_PLAIN = {Effort.BRIEF: 0.955, Effort.THOROUGH: 0.93, Effort.BEST: 0.92}


def encode_lines(
    pixels: NDArray[np.uint8],
    *,
    only_group4: bool = False,
    may_be_jbig2: bool = False,
    holder: Holder = Holder.STREAM,
) -> CodedPicture:
    """Encode (height, width) of 0 and 255, one bit a pixel, by the smallest permitted coding."""
    height, width = pixels.shape
    if holder is Holder.FILE:
        return _as_png(pixels)
    data = encode_group4(pixels == 0)
    group4 = CodedPicture(
        coding=Coding.GROUP_4, data=data, width_px=width, height_px=height, colours=1, bits=1
    )
    if only_group4:
        return group4
    if may_be_jbig2:
        jbig2 = encode_jbig2(pixels == 0)
        # Where it is the heavier of the two, Flate may be lighter than both: dots in a pattern.
        if len(jbig2) < len(data):
            return replace(group4, coding=Coding.JBIG2, data=jbig2)
    rows = pack_samples((pixels > 0).astype(np.uint8), 1)
    quickly = pack_rows(rows, pixel_bytes=1, may_filter=False, effort=Effort.QUICK).data
    if len(quickly) * _LEAST_OF_QUICK_LINES >= len(data):
        return group4
    flate = pack_rows(rows, pixel_bytes=1, may_filter=False).data
    return replace(group4, coding=Coding.FLATE, data=flate) if len(flate) < len(data) else group4


def encode_exactly(
    pixels: NDArray[np.uint8],
    *,
    may_have_palette: bool = True,
    may_be_jbig2: bool = False,
    only_group4: bool = False,
    holder: Holder = Holder.STREAM,
    effort: Effort = Effort.BEST,
    is_draft: bool = False,
) -> CodedPicture:
    """Encode every pixel exactly: by a palette of up to 256 colours, else PNG predictors.

    only_group4: black and white, and nothing else, is to be coded so. holder: a file becomes a PNG,
    which chooses for itself.
    Raises: ValueError for inks, which PNG has not.
    """
    if holder is Holder.FILE:
        return _as_png(pixels, is_brief=effort is not Effort.BEST, is_draft=is_draft)
    if pixels.ndim == 2 and is_black_and_white(pixels):
        return encode_lines(pixels, only_group4=only_group4, may_be_jbig2=may_be_jbig2)
    palette = exact_palette(pixels) if may_have_palette else None
    coded = _pack_exactly(pixels, palette, effort, holder=holder, is_draft=is_draft)
    if palette is not None and palette.size == 2 and holder is Holder.STREAM:
        # Codings of two tones count two colours as well as black and white.
        bitonal = np.where(_levels(pixels, palette), 255, 0).astype(np.uint8)
        lines = encode_lines(bitonal, may_be_jbig2=may_be_jbig2)
        if lines.weight < coded.weight - len(coded.palette or b""):
            return replace(lines, colours=coded.colours, palette=coded.palette)
    return coded


def encode_png_file(
    pixels: NDArray[np.uint8] | NDArray[np.uint16],
    opacity: NDArray[np.uint8] | NDArray[np.uint16] | None,
    *,
    is_brief: bool = False,
    is_draft: bool = False,
) -> CodedPicture:
    """A PNG with how opaque each pixel is, in 8 or 16 bits; see `encode_png`."""
    return CodedPicture(
        coding=Coding.PNG,
        data=encode_png(pixels, opacity, is_brief=is_brief, is_draft=is_draft),
        width_px=pixels.shape[1],
        height_px=pixels.shape[0],
        colours=1 if pixels.ndim == 2 else 3,
        bits=16 if pixels.dtype == np.uint16 else 8,
        share=_BEST_OF_QUICK_PNG if is_draft else 1.0,
    )


def encode_deep(
    samples: NDArray[np.uint16], opacity: NDArray[np.uint16] | None, holder: Holder, effort: Effort
) -> CodedPicture:
    """Encode 16-bit samples exactly, as PNG or TIFF page; a TIFF page has no opacity."""
    if holder is Holder.FILE:
        return encode_png_file(samples, opacity, is_brief=effort is not Effort.BEST)
    packed = pack_tiff_rows(samples, effort=effort)
    return CodedPicture(
        coding=Coding.FLATE,
        data=packed.data,
        width_px=samples.shape[1],
        height_px=samples.shape[0],
        colours=1 if samples.ndim == 2 else samples.shape[2],
        bits=16,
        predictor=packed.predictor,
    )


def exact_weight(pixels: NDArray[np.uint8]) -> int:
    """Return about the bytes of `encode_exactly`, quickly."""
    palette = exact_palette(pixels)
    return _pack_exactly(pixels, palette, Effort.BRIEF, holder=Holder.STREAM, is_draft=True).weight


def exact_palette(
    pixels: NDArray[np.uint8], *, most: int | None = None
) -> NDArray[np.uint32] | None:
    """Return the used colours, ascending, as one number each; None above `most`.

    Without `most`, as many as make a palette worth while: 256, or 16 greys.
    """
    from PIL import Image

    if pixels.shape[2:] not in ((), (3,)):
        return None
    if most is None:
        most = _MOST_PALETTE_GREYS if pixels.ndim == 2 else _MOST_PALETTE_COLOURS
    counted = Image.fromarray(pixels).getcolors(most)
    if counted is None:
        return None
    if pixels.ndim == 2:
        return np.array(sorted(colour for _, colour in counted), np.uint32)
    entries = np.array([colour for _, colour in counted], np.uint32)
    numbers = entries @ np.array([1 << 16, 1 << 8, 1], np.uint32)
    return np.asarray(np.sort(numbers), np.uint32)


def _as_png(
    pixels: NDArray[np.uint8], *, is_brief: bool = False, is_draft: bool = False
) -> CodedPicture:
    if pixels.shape[2:] not in ((), (3,)):
        raise ValueError("inks have no exact coding as a picture file")
    return encode_png_file(pixels, None, is_brief=is_brief, is_draft=is_draft)


def is_black_and_white(pixels: NDArray[np.uint8]) -> bool:
    """Return whether a grey picture has only pixels of 0 and 255."""
    some = pixels[:: max(1, len(pixels) // 40)]
    if ((some != 0) & (some != 255)).any():
        return False
    palette = exact_palette(pixels, most=2)
    return palette is not None and set(palette.tolist()) <= {0, 255}


def _pack_exactly(
    pixels: NDArray[np.uint8],
    palette: NDArray[np.uint32] | None,
    effort: Effort,
    *,
    holder: Holder,
    is_draft: bool,
) -> CodedPicture:
    """Pack samples or palette indexes. is_draft: pack quickly, and predict the result of `effort`
    by `share`.
    """
    height, width = pixels.shape[:2]
    colours = 1 if pixels.ndim == 2 else pixels.shape[2]
    is_tiff = holder is Holder.TIFF
    tried = Effort.QUICK if is_draft else effort
    if palette is not None:
        least = _FEWEST_TIFF_PALETTE_BITS if is_tiff else 1
        bits = next(bits for bits in (1, 2, 4, 8) if palette.size <= 1 << bits and bits >= least)
        levels = _levels(pixels, palette)
        rows, pixel_bytes = pack_samples(levels, bits), 1
        entries = _as_entries(palette, colours)
    else:
        bits, rows, pixel_bytes, entries = 8, pixels.reshape(height, -1), colours, None
    if is_tiff and entries is None:
        packed = pack_tiff_rows(pixels, effort=tried)
    else:
        packed = pack_rows(rows, pixel_bytes=pixel_bytes, may_filter=entries is None, effort=tried)
    return CodedPicture(
        coding=Coding.FLATE,
        data=packed.data,
        width_px=width,
        height_px=height,
        colours=colours,
        bits=bits,
        palette=entries,
        predictor=packed.predictor,
        share=_of_quick(entries, packed, effort) if is_draft else 1.0,
    )


def _of_quick(entries: bytes | None, packed: PackedRows, effort: Effort) -> float:
    if entries is not None:
        return _OF_QUICK_PALETTE[effort]
    return (_OF_QUICK_PLAIN if packed.predictor == 1 else _OF_QUICK_PREDICTED)[effort]


def _levels(pixels: NDArray[np.uint8], palette: NDArray[np.uint32]) -> NDArray[np.uint8]:
    """The place of each pixel's colour in the palette: (height, width) uint8."""
    place = np.zeros(1 << (8 if pixels.ndim == 2 else 24), np.uint8)
    place[palette] = np.arange(palette.size, dtype=np.uint8)
    if pixels.ndim == 2:
        return place[pixels]
    numbers = pixels[..., 0].astype(np.uint32)
    for channel in (1, 2):
        numbers = (numbers << np.uint32(8)) | pixels[..., channel]
    return place[numbers]


def _as_entries(palette: NDArray[np.uint32], colours: int) -> bytes:
    if colours == 1:
        return palette.astype(np.uint8).tobytes()
    channels = [(palette >> shift) & 255 for shift in (16, 8, 0)]
    return np.stack(channels, axis=1).astype(np.uint8).tobytes()
