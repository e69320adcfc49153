"""The smallest coding of some pixels that is as good as asked."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import PackedRows, pack_rows, pack_samples
from lighten.codecs.jpeg import (
    Chroma,
    decode_jpeg,
    decode_jpeg_luma,
    encode_jpeg,
    share_of_draft,
)
from lighten.codecs.jpeg2000 import decode_jpeg2000, encode_jpeg2000
from lighten.codecs.png import encode_png
from lighten.codecs.two_tone import encode_group4
from lighten.pictures.classify import classify
from lighten.pictures.coded import CodedPicture, Coding
from lighten.pictures.likeness import likeness, luma, similarity_map
from lighten.pictures.visible_loss import Judge, tiles
from lighten.weights import PictureClass

__all__ = [
    "JPEG_WINS_ON_DRAWINGS_BELOW",
    "QUALITY_FOR_EDGES",
    "encode",
    "encode_as_jpeg",
    "encode_as_jpeg2000",
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
# Up to here half the colour samples are not missed (found at equal SSIMULACRA2 scores).
_HALVED_CHROMA_UP_TO = 85
# Hard edges show JPEG's ripples first: drawn pictures get that much more quality.
QUALITY_FOR_EDGES = 10
# Of a draft that needs no floor, below the 1 of what is exact.
_UNTOLD_LIKENESS = 0.99
_QUALITY_STEPS = (0, 8, 15)
# Of drawn pictures that were JPEG: the qualities tried, from that asked for, and the score that is
# enough at the quality for reading on a screen; at a lower one as much less is.
_RIPPLED_STEPS = (-6, 0, 5, 10, 14)
_LEAST_RIPPLED_SCORE, _USUAL_QUALITY = 73.0, 81
_LEAST_JUDGED_PX = 24
# JPEG ripples around hard edges: on a drawn picture it must halve the weight to be taken.
JPEG_WINS_ON_DRAWINGS_BELOW = 0.5
# What the best packing leaves of a quick one: of places in a palette, of samples with and without
# predictors (means over 120 pictures; single ones differ by 5 %).
_BEST_OF_QUICK_PNG = 0.95
_BEST_OF_QUICK_PALETTE, _BEST_OF_QUICK_PREDICTED, _BEST_OF_QUICK_PLAIN = 0.92, 0.94, 0.86


def encode(
    pixels: NDArray[np.uint8],
    *,
    quality: int,
    floor: float,
    may_have_palette: bool = True,
    is_page_scan: bool = False,
    was_lossy: bool = False,
    is_file: bool = False,
    is_draft: bool = False,
) -> CodedPicture:
    """The smaller of JPEG and an exact coding; never one less alike than `floor` (0 to 1).

    pixels: (height, width) grey, (height, width, 3) sRGB or (height, width, n) inks, uint8.
    quality: of JPEG, 1 to 100;
    drawn pictures get more, and are made JPEG only where that halves their weight. is_page_scan:
    paper is flat as well, but no drawing. was_lossy: edges have their ripples already. is_file:
    see `RecodeJob`. is_draft: quickly, see `CodedPicture.share`.
    """

    def exactly() -> CodedPicture:
        return encode_exactly(
            pixels,
            may_have_palette=may_have_palette,
            is_file=is_file,
            is_brief=True,
            is_draft=is_draft,
        )

    if not _can_be_jpeg(pixels):
        return exactly()
    is_drawn = not is_page_scan and classify(pixels, is_page=False) is PictureClass.GRAPHIC
    if is_drawn and was_lossy:
        jpeg = _encode_rippled(pixels, quality, floor, is_draft=is_draft)
        return jpeg if jpeg is not None and jpeg.weight < exact_weight(pixels) else exactly()
    jpeg = _encode_jpeg(pixels, quality, floor, has_edges=is_drawn, is_draft=is_draft)
    if jpeg is None:
        return exactly()
    if not is_drawn:
        return jpeg  # an exact coding of grain was never the smaller one
    # By the quick weight, so that a draft and its final coding come to the same choice.
    if exact_weight(pixels) * JPEG_WINS_ON_DRAWINGS_BELOW > jpeg.weight:
        return jpeg
    return exactly()


def encode_as_jpeg(
    pixels: NDArray[np.uint8],
    *,
    quality: int,
    floor: float,
    has_edges: bool = False,
    is_file: bool = False,
    is_draft: bool = False,
) -> CodedPicture:
    """A JPEG, unless the colours have none or none reaches `floor`: then an exact coding.

    has_edges: lines and letters are in it, which ask for more quality.
    """
    jpeg = None
    if _can_be_jpeg(pixels):
        jpeg = _encode_jpeg(pixels, quality, floor, has_edges=has_edges, is_draft=is_draft)
    return jpeg or encode_exactly(pixels, is_file=is_file, is_draft=is_draft)


def encode_as_jpeg2000(pixels: NDArray[np.uint8], *, quality: int, floor: float) -> CodedPicture:
    """JPEG 2000 as true to the pixels as a JPEG of that quality is; else as `encode_as_jpeg`."""
    if pixels.ndim == 3 and pixels.shape[2] != 3:
        return encode_as_jpeg(pixels, quality=quality, floor=floor)
    jpeg = decode_jpeg(encode_jpeg(pixels, quality=quality, chroma=Chroma.FULL))
    error = float(np.square(pixels.astype(np.float32) - jpeg).mean())
    data = encode_jpeg2000(pixels, decibels=10 * np.log10(255**2 / max(error, 0.05)))
    alike = likeness(pixels, decode_jpeg2000(data))
    if alike < floor:
        return encode_as_jpeg(pixels, quality=quality, floor=floor)
    return CodedPicture(
        coding=Coding.JPEG_2000,
        data=data,
        width_px=pixels.shape[1],
        height_px=pixels.shape[0],
        colours=1 if pixels.ndim == 2 else 3,
        bits=8,
        likeness=alike,
    )


def encode_lines(
    pixels: NDArray[np.uint8], *, only_group4: bool = False, is_file: bool = False
) -> CodedPicture:
    """(height, width) of 0 and 255 alone, one bit a pixel: the smaller of Group 4 and Flate."""
    height, width = pixels.shape
    if is_file:
        return _as_png(pixels)
    data = encode_group4(pixels == 0)
    group4 = CodedPicture(
        coding=Coding.GROUP_4, data=data, width_px=width, height_px=height, colours=1, bits=1
    )
    if only_group4:
        return group4
    rows = pack_samples((pixels > 0).astype(np.uint8), 1)
    flate = pack_rows(rows, pixel_bytes=1, may_filter=False).data
    return replace(group4, coding=Coding.FLATE, data=flate) if len(flate) < len(data) else group4


def encode_exactly(
    pixels: NDArray[np.uint8],
    *,
    may_have_palette: bool = True,
    is_file: bool = False,
    is_brief: bool = False,
    is_draft: bool = False,
) -> CodedPicture:
    """Every pixel as it is: a palette where 256 colours are enough, else PNG predictors.

    is_file: as a PNG, which chooses for itself; is_brief: after a short search only.
    Raises: ValueError for inks, which PNG has not.
    """
    if is_file:
        return _as_png(pixels, is_brief=is_brief, is_draft=is_draft)
    if pixels.ndim == 2 and is_black_and_white(pixels):
        return encode_lines(pixels)
    palette = exact_palette(pixels) if may_have_palette else None
    coded = _pack_exactly(pixels, palette, is_draft=is_draft)
    if palette is not None and palette.size == 2:
        # Group 4 counts two colours as well as black and white.
        lines = encode_lines(np.where(_levels(pixels, palette), 255, 0).astype(np.uint8))
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


def exact_weight(pixels: NDArray[np.uint8]) -> int:
    """About what `encode_exactly` would weigh, found quickly."""
    return _pack_exactly(pixels, exact_palette(pixels), is_draft=True).weight


def exact_palette(
    pixels: NDArray[np.uint8], *, most: int | None = None
) -> NDArray[np.uint32] | None:
    """The colours in use, ascending, as one number each; None if there are more than `most`.

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


def _can_be_jpeg(pixels: NDArray[np.uint8]) -> bool:
    return pixels.ndim == 2 or pixels.shape[2] in (3, 4)


def is_black_and_white(pixels: NDArray[np.uint8]) -> bool:
    """Grey pixels of 0 and 255 alone."""
    palette = exact_palette(pixels, most=2)
    return palette is not None and set(palette.tolist()) <= {0, 255}


def _encode_jpeg(
    pixels: NDArray[np.uint8], quality: int, floor: float, *, has_edges: bool, is_draft: bool
) -> CodedPicture | None:
    """A JPEG that reaches `floor`, with more quality if it must; None if it never does."""
    first = min(95, quality + QUALITY_FOR_EDGES) if has_edges else quality
    original_luma = luma(pixels)
    for step in _QUALITY_STEPS:
        is_fine = has_edges or first + step > _HALVED_CHROMA_UP_TO
        data = encode_jpeg(
            pixels,
            quality=min(100, first + step),
            chroma=Chroma.FULL if is_fine else Chroma.HALVED,
            is_draft=is_draft,
        )
        if is_draft and floor <= 0:
            alike = _UNTOLD_LIKENESS
        else:
            # Colour is judged later, where pages are proved: luma is what a low quality loses.
            alike = float(similarity_map(original_luma, luma(decode_jpeg_luma(data))).mean())
        if alike >= floor:
            return CodedPicture(
                coding=Coding.JPEG,
                data=data,
                width_px=pixels.shape[1],
                height_px=pixels.shape[0],
                colours=1 if pixels.ndim == 2 else pixels.shape[2],
                bits=8,
                likeness=alike,
                share=share_of_draft(len(data), original_luma.size, first + step)
                if is_draft
                else 1.0,
            )
    return None


def _encode_rippled(
    pixels: NDArray[np.uint8], quality: int, floor: float, *, is_draft: bool
) -> CodedPicture | None:
    """A drawn picture that was a JPEG before: as fine as its looks need, and no finer.

    Its ripples cost an exact coding dear, and at the usual quality most such pictures score from
    73 to 87 (SSIMULACRA2); small flat ones fall to 48, so each is judged. None if none will do.
    """
    if is_draft:
        return _encode_jpeg(pixels, quality, floor, has_edges=False, is_draft=True)
    places = tiles((pixels.shape[1], pixels.shape[0]))
    is_judged = pixels.shape[2:] in ((), (3,)) and min(pixels.shape[:2]) >= _LEAST_JUDGED_PX
    judge = Judge([pixels[top:low, left:right] for left, top, right, low in places])
    best = None
    for step in _RIPPLED_STEPS:
        finer = min(95, quality + step)
        best = _encode_jpeg(pixels, finer, floor, has_edges=False, is_draft=False)
        if best is None or not is_judged:
            return best
        decoded = decode_jpeg(best.data)
        score = judge.score([decoded[top:low, left:right] for left, top, right, low in places])
        if score >= _LEAST_RIPPLED_SCORE - max(0, _USUAL_QUALITY - quality):
            return best
    return best


def _pack_exactly(
    pixels: NDArray[np.uint8], palette: NDArray[np.uint32] | None, *, is_draft: bool
) -> CodedPicture:
    height, width = pixels.shape[:2]
    colours = 1 if pixels.ndim == 2 else pixels.shape[2]
    if palette is not None:
        bits = next(bits for bits in (1, 2, 4, 8) if palette.size <= 1 << bits)
        levels = _levels(pixels, palette)
        rows, pixel_bytes = pack_samples(levels, bits), 1
        entries = _as_entries(palette, colours)
    else:
        bits, rows, pixel_bytes, entries = 8, pixels.reshape(height, -1), colours, None
    packed = pack_rows(rows, pixel_bytes=pixel_bytes, may_filter=entries is None, quick=is_draft)
    return CodedPicture(
        coding=Coding.FLATE,
        data=packed.data,
        width_px=width,
        height_px=height,
        colours=colours,
        bits=bits,
        palette=entries,
        predictor=packed.predictor,
        share=_best_of_quick(entries, packed) if is_draft and not packed.is_best else 1.0,
    )


def _best_of_quick(entries: bytes | None, packed: PackedRows) -> float:
    if entries is not None:
        return _BEST_OF_QUICK_PALETTE
    return _BEST_OF_QUICK_PLAIN if packed.predictor == 1 else _BEST_OF_QUICK_PREDICTED


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
