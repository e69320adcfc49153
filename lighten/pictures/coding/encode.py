"""The smallest coding of some pixels that is as good as asked."""

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import Effort
from lighten.codecs.jpeg import (
    Chroma,
    decode_jpeg,
    decode_jpeg_luma,
    encode_jpeg,
    share_of_draft,
)
from lighten.codecs.jpeg2000 import decode_jpeg2000, encode_jpeg2000
from lighten.model.kinds import PictureClass
from lighten.pictures.coding.coded import CodedPicture, Coding, Holder
from lighten.pictures.coding.encode_exactly import encode_exactly, exact_weight
from lighten.pictures.pixels.classify import classify
from lighten.pictures.pixels.planes import luma
from lighten.pictures.scores.likeness import likeness, similarity_map
from lighten.pictures.scores.visible_loss import Judge, tiles

__all__ = [
    "HALVED_CHROMA_UP_TO",
    "JPEG_WINS_ON_DRAWINGS_BELOW",
    "QUALITY_FOR_EDGES",
    "encode",
    "encode_as_jpeg",
    "encode_as_jpeg2000",
]

# Up to here half the colour samples are not missed (found at equal SSIMULACRA2 scores).
HALVED_CHROMA_UP_TO = 85
# Hard edges show JPEG's ripples first: drawn pictures get that much more quality.
QUALITY_FOR_EDGES = 10
# Of a draft that needs no floor, below the 1 of what is exact.
_ASSUMED_LIKENESS = 0.99
_QUALITY_STEPS = (0, 8, 15)
# Of drawn pictures: the qualities tried, from that asked for, and the score that is enough at the
# quality for reading on a screen; at a lower one as much less is.
_DRAWN_STEPS = (-6, 0, 5, 10, 14)
_LEAST_DRAWN_SCORE, _USUAL_QUALITY = 74.0, 80
_LEAST_JUDGED_PX = 24
# What is exact looks better: a JPEG must be worth that to be taken.
JPEG_WINS_ON_DRAWINGS_BELOW = 0.75


def encode(
    pixels: NDArray[np.uint8],
    *,
    quality: int,
    floor: float,
    may_have_palette: bool = True,
    is_page_scan: bool = False,
    was_lossy: bool = False,
    holder: Holder = Holder.STREAM,
    is_draft: bool = False,
) -> CodedPicture:
    """Encode as JPEG or exactly, whichever is smaller; likeness is at least `floor` (0 to 1).

    pixels: (height, width) grey, (height, width, 3) sRGB or (height, width, n) inks, uint8.
    quality: of JPEG, 1 to 100; drawn pictures get as much as their looks need, and are made JPEG
    only where that is plainly lighter. is_page_scan: paper is flat as well, but no drawing.
    was_lossy: edges have their ripples already. holder: see `RecodeJob`. is_draft: quickly, see
    `CodedPicture.share`.
    """

    def exactly() -> CodedPicture:
        return encode_exactly(
            pixels,
            may_have_palette=may_have_palette,
            holder=holder,
            effort=Effort.BRIEF,
            is_draft=is_draft,
        )

    if not _can_be_jpeg(pixels):
        return exactly()
    is_drawn = not is_page_scan and classify(pixels, is_page=False) is PictureClass.GRAPHIC
    if not is_drawn:
        # An exact coding of grain was never the smaller one.
        return _encode_jpeg(pixels, quality, floor, holder=holder, is_draft=is_draft) or exactly()
    chroma = Chroma.HALVED if was_lossy else Chroma.FULL
    drawn_quality, draft_bytes = _quality_for_drawing(pixels, quality, chroma)
    # By quick weights, so that a draft and its final coding come to the same choice.
    share = 1.0 if was_lossy else JPEG_WINS_ON_DRAWINGS_BELOW
    if draft_bytes >= share * exact_weight(pixels):
        return exactly()
    jpeg = _encode_jpeg(
        pixels, drawn_quality, floor, chroma=chroma, holder=holder, is_draft=is_draft
    )
    return jpeg or exactly()


def encode_as_jpeg(
    pixels: NDArray[np.uint8],
    *,
    quality: int,
    floor: float,
    has_edges: bool = False,
    holder: Holder = Holder.STREAM,
    is_draft: bool = False,
) -> CodedPicture:
    """Encode as JPEG; exactly if the colours or `floor` rule JPEG out.

    has_edges: lines and letters are in it, which ask for more quality.
    """
    jpeg = None
    if _can_be_jpeg(pixels):
        if has_edges:
            quality = min(95, quality + QUALITY_FOR_EDGES)
        chroma = Chroma.FULL if has_edges else Chroma.HALVED
        jpeg = _encode_jpeg(pixels, quality, floor, chroma=chroma, holder=holder, is_draft=is_draft)
    return jpeg or encode_exactly(pixels, holder=holder, is_draft=is_draft)


def encode_as_jpeg2000(pixels: NDArray[np.uint8], *, quality: int, floor: float) -> CodedPicture:
    """Encode as JPEG 2000 with the error of a JPEG of that quality; else as `encode_as_jpeg`."""
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
    pixels: NDArray[np.uint8],
    quality: int,
    floor: float,
    *,
    chroma: Chroma = Chroma.HALVED,
    holder: Holder,
    is_draft: bool,
) -> CodedPicture | None:
    """Encode a JPEG whose likeness reaches `floor`, raising quality; None if it cannot.

    chroma: at least that fine.
    """
    original_luma = luma(pixels)
    for step in _QUALITY_STEPS:
        is_fine = quality + step > HALVED_CHROMA_UP_TO
        data = encode_jpeg(
            pixels,
            quality=min(100, quality + step),
            chroma=Chroma.FULL if is_fine else chroma,
            # Readers of TIFF need not know more (Technical Note 2 to TIFF 6.0).
            is_progressive=holder is not Holder.TIFF,
            is_draft=is_draft,
        )
        if is_draft and floor <= 0:
            alike = _ASSUMED_LIKENESS
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
                share=share_of_draft(len(data), original_luma.size, quality + step)
                if is_draft
                else 1.0,
            )
    return None


def _quality_for_drawing(
    pixels: NDArray[np.uint8], quality: int, chroma: Chroma
) -> tuple[int, float]:
    """Return the quality that a drawn picture needs, and about the bytes at it.

    At the usual quality most such pictures score from 73 to 87 (SSIMULACRA2); small flat ones fall
    to 48, so each is judged, by its drafts.
    """
    places = tiles((pixels.shape[1], pixels.shape[0]))
    is_judged = pixels.shape[2:] in ((), (3,)) and min(pixels.shape[:2]) >= _LEAST_JUDGED_PX
    pieces = [pixels[top:low, left:right] for left, top, right, low in places]
    judge = Judge(pieces) if is_judged else None
    least = _LEAST_DRAWN_SCORE - max(0, _USUAL_QUALITY - quality)
    for step in _DRAWN_STEPS if is_judged else (QUALITY_FOR_EDGES,):
        finer = max(1, min(95, quality + step))
        data = encode_jpeg(pixels, quality=finer, chroma=chroma, is_draft=True)
        if judge is None:
            break
        decoded = decode_jpeg(data)
        if judge.score([decoded[top:low, left:right] for left, top, right, low in places]) >= least:
            break
    share = share_of_draft(len(data), pixels.shape[0] * pixels.shape[1], finer)
    return finer, len(data) * share
