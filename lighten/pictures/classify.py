"""What a picture is, told from its pixels."""

import numpy as np
from numpy.typing import NDArray

from lighten.weights import PictureClass

__all__ = ["classify", "is_without_colour"]

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
    light = counts.copy()
    light[:_PAPER_LUMINANCE] = 0
    tone = int(light.argmax())
    near = counts[max(0, tone - _PAPER_SPREAD) : tone + _PAPER_SPREAD + 1]
    return float(near.sum() / luminance.size)


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
