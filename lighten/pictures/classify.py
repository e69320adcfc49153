"""What a picture is, told from its pixels."""

import numpy as np
from numpy.typing import NDArray

from lighten.weights import PictureClass

__all__ = ["classify", "classify_alone", "is_without_colour"]

# Neighbours in photos differ by grain; in drawn pictures most of them are equal, or nearly so
# once JPEG has been over them. The two shares were set on charts, screenshots and photos.
_FLAT_DIFFERENCE = 2
_FLAT_SHARE_OF_GRAPHICS = 0.72
# ... and few tones make up most of the picture; a smooth sky is flat too, but has many.
_FEW_TONES = 12
_FEW_TONES_SHARE_OF_GRAPHICS = 0.6
# A scanned page is mostly paper: one light tone that covers much of it.
_PAPER_LUMINANCE = 140
_PAPER_SPREAD = 20
_PAPER_SHARE = 0.4
# Ink on it: darker by that much, so much of the page, and mostly in strokes of few pixels.
_INK_STEP = 50
_LEAST_INK_SHARE, _MOST_INK_SHARE = 0.002, 0.35
_STROKE_PX, _STROKES_SHARE = 9, 0.5
_BLUER_THAN_PAPER = 12


def classify(pixels: NDArray[np.uint8], *, is_page: bool) -> PictureClass:
    """The class of a picture by its pixels.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8; a reduced copy will do.
    is_page: it covers the page it is shown on.
    """
    luminance = _luminance(pixels)
    if is_page and _paper_share(luminance) >= _PAPER_SHARE:
        return PictureClass.PAGE_SCAN
    if (
        _flat_share(luminance) >= _FLAT_SHARE_OF_GRAPHICS
        and _few_tones_share(luminance) >= _FEW_TONES_SHARE_OF_GRAPHICS
    ):
        return PictureClass.GRAPHIC
    return PictureClass.PHOTO


def classify_alone(pixels: NDArray[np.uint8]) -> PictureClass:
    """The class of a picture that is on no page: a page itself, if strokes of ink lie on paper.

    pixels: as for `classify`. A drawn picture is told first: its paper is flat, which that of a
    scanned page never is.
    """
    found = classify(pixels, is_page=False)
    if found is PictureClass.PHOTO:
        luminance = _luminance(pixels)
        if _has_strokes_on_paper(luminance) and not _is_blue(pixels, luminance):
            return PictureClass.PAGE_SCAN
    return found


def is_without_colour(pixels: NDArray[np.uint8]) -> bool:
    """Red, green and blue are equal in every pixel; exact, not a guess."""
    if pixels.ndim == 2:
        return True
    if pixels.shape[2] != 3:
        return False
    red, green, blue = pixels[..., 0], pixels[..., 1], pixels[..., 2]
    return bool(np.array_equal(red, green) and np.array_equal(green, blue))


def _luminance(pixels: NDArray[np.uint8]) -> NDArray[np.int16]:
    """Luma by ITU-R BT.601, in whole numbers."""
    if pixels.ndim == 2:
        return pixels.astype(np.int16)
    if pixels.shape[2] != 3:
        return np.asarray(pixels.mean(axis=2), np.int16)
    red, green, blue = (pixels[..., channel].astype(np.int32) for channel in range(3))
    return ((299 * red + 587 * green + 114 * blue) // 1000).astype(np.int16)


def _paper_share(luminance: NDArray[np.int16]) -> float:
    """The share of pixels near the commonest light tone."""
    counts = np.bincount(luminance.ravel(), minlength=256)
    tone = _paper_tone(luminance)
    near = counts[max(0, tone - _PAPER_SPREAD) : tone + _PAPER_SPREAD + 1]
    return float(near.sum() / luminance.size)


def _has_strokes_on_paper(luminance: NDArray[np.int16]) -> bool:
    """Much of it has the tone of paper, and most of what is dark on that is thin."""
    from PIL import Image, ImageFilter

    if _paper_share(luminance) < _PAPER_SHARE:
        return False
    dark = luminance < _paper_tone(luminance) - _INK_STEP
    if not _LEAST_INK_SHARE < dark.mean() < _MOST_INK_SHARE:
        return False
    mask = Image.fromarray(np.where(dark, 255, 0).astype(np.uint8))
    # What outlives losing its rim, and is given it back, was no stroke.
    thick = mask.filter(ImageFilter.MinFilter(_STROKE_PX)).filter(ImageFilter.MaxFilter(_STROKE_PX))
    strokes = dark & (np.asarray(thick) == 0)
    return bool(strokes.sum() > _STROKES_SHARE * dark.sum())


def _is_blue(pixels: NDArray[np.uint8], luminance: NDArray[np.int16]) -> bool:
    """What would be paper is bluer than paper is: a sky, with reeds or branches before it."""
    if pixels.ndim == 2 or pixels.shape[2] != 3:
        return False
    paper = np.abs(luminance - _paper_tone(luminance)) <= _PAPER_SPREAD
    red, _, blue = pixels[paper].mean(axis=0)
    return bool(blue - red > _BLUER_THAN_PAPER)


def _paper_tone(luminance: NDArray[np.int16]) -> int:
    """The commonest light tone."""
    counts = np.bincount(luminance.ravel(), minlength=256)
    counts[:_PAPER_LUMINANCE] = 0
    return int(counts.argmax())


def _few_tones_share(luminance: NDArray[np.int16]) -> float:
    """The share of pixels that have one of the commonest tones."""
    counts = np.sort(np.bincount(luminance.ravel(), minlength=256))
    return float(counts[-_FEW_TONES:].sum() / luminance.size)


def _flat_share(luminance: NDArray[np.int16]) -> float:
    """The share of neighbours, to the right and below, that are equal or nearly so."""
    steps = [np.abs(np.diff(luminance, axis=axis)) for axis in (0, 1) if luminance.shape[axis] > 1]
    if not steps:
        return 1.0
    return float(np.mean([np.mean(step <= _FLAT_DIFFERENCE) for step in steps]))
