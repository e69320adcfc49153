"""The smallest coding of some pixels that is as good as asked."""

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jpeg import (
    Chroma,
    decode_jpeg,
    decode_jpeg_luma,
    encode_jpeg,
    share_of_draft,
)
from lighten.codecs.jpeg2000 import decode_jpeg2000, encode_jpeg2000
from lighten.pictures.classify import classify
from lighten.pictures.coded import CodedPicture, Coding
from lighten.pictures.encode_exactly import encode_exactly, exact_weight
from lighten.pictures.likeness import likeness, luma, similarity_map
from lighten.pictures.visible_loss import Judge, tiles
from lighten.weights import PictureClass

__all__ = [
    "JPEG_WINS_ON_DRAWINGS_BELOW",
    "QUALITY_FOR_EDGES",
    "encode",
    "encode_as_jpeg",
    "encode_as_jpeg2000",
]

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
_LEAST_RIPPLED_SCORE, _USUAL_QUALITY = 71.0, 81
_LEAST_JUDGED_PX = 24
# JPEG ripples around hard edges: on a drawn picture it must halve the weight to be taken.
JPEG_WINS_ON_DRAWINGS_BELOW = 0.5


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


def _can_be_jpeg(pixels: NDArray[np.uint8]) -> bool:
    return pixels.ndim == 2 or pixels.shape[2] in (3, 4)


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
