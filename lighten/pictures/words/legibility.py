"""Legibility of the words of a picture in a copy of it with fewer pixels.

Measured with tesseract on 36 generated pictures, 360 codings, letters of 6 to 20 px in six fonts,
dark and light, on photos: of words whose letters are at least 6.5 px high in the copy (about 12 px
from line to line of capitals and descenders), 95 in 100 are read as before; from 5 px down, 30.
"""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.align import aligned
from lighten.pictures.pixels.planes import luma, reduced
from lighten.pictures.words.find_words import Word, find_words

__all__ = ["ENOUGH_PPI", "READ_PPI", "at_reading_size", "light_at", "lost_words", "readable_share"]

Floats = NDArray[np.float32]
Pixels = NDArray[np.uint8]

# As closely as people zoom in: what is finer at the size it is shown at is not looked for.
READ_PPI = 300.0
# Words of pictures that keep as much are not looked for: letters of 3 points stay readable.
ENOUGH_PPI = 220.0
# Heights of letters, in pixels: what a copy is given, more where their ground is a photo, and what
# its proof asks for at least.
_GIVEN_HEIGHT_PX, _GIVEN_ON_PHOTOS_PX, _LEAST_HEIGHT_PX = 6.6, 8.0, 6.2
# The smallest letters of a picture, but for so many in a hundred.
_SMALLEST_PERCENTILE = 5.0
# A picture that needs nearly all its pixels keeps all of them.
_NEARLY_ALL = 0.85
# How far the strokes of a word have to lie where they lay (correlation), and be as strong: small
# letters, and any.
_LEAST_TOGETHER_SMALL, _LEAST_TOGETHER, _LEAST_GAIN = 0.9, 0.6, 0.3
_MARGIN_PX = 2
# Marks that only look like words are let be: so many, and that share of all, unless they are most.
_FEW, _FEW_OF_ALL = 2, 0.08
_LEAST_CONTRAST = 3.0


def readable_share(light: Floats, *, is_photo: bool = False) -> float:
    """Return to what share of its pixels a side may be brought, so that its words can be read.

    light: (height, width) float32, 0 to 255. 0 where it has no words; 1 where it needs all pixels,
    and more where these should not be coded with loss either.
    """
    words = find_words(light)
    if not words:
        return 0.0
    heights = [word.height_px for word in words]
    given = _GIVEN_ON_PHOTOS_PX if is_photo else _GIVEN_HEIGHT_PX
    share = given / max(1.0, float(np.percentile(heights, _SMALLEST_PERCENTILE)))
    return 1.0 if _NEARLY_ALL <= share < 1 else share


def lost_words(before: Floats, copy: Pixels) -> tuple[list[Word], int]:
    """Return the words that can no longer be read in a copy, and how many there are in all.

    before: the original's light, (height, width) float32, at `READ_PPI` or its own pixels. copy:
    (height, width, 3) uint8. None are lost where the copy has as many pixels, or hardly fewer.
    """
    height, width = before.shape
    scale = min(copy.shape[0] / height, copy.shape[1] / width)
    if scale > _NEARLY_ALL:
        return [], 0
    words = find_words(before)
    if not words:
        return [], 0
    after = _enlarged(luma(copy), (width, height))
    before = aligned(before, after)
    lost = [word for word in words if _is_lost(word, before, after, scale)]
    if 2 * len(lost) <= len(words) and len(lost) <= max(_FEW, _FEW_OF_ALL * len(words)):
        return [], len(words)
    return lost, len(words)


def _is_lost(word: Word, before: Floats, after: Floats, scale: float) -> bool:
    rows = slice(max(0, word.top - _MARGIN_PX), word.low + _MARGIN_PX)
    columns = slice(max(0, word.left - _MARGIN_PX), word.right + _MARGIN_PX)
    one, other = (plane[rows, columns] - plane[rows, columns].mean() for plane in (before, after))
    contrast, kept = float(one.std()), float(other.std())
    if contrast < _LEAST_CONTRAST:
        return False
    shared = float((one * other).mean())
    together = shared / max(1e-6, contrast * kept)
    is_small = word.height_px * scale < _LEAST_HEIGHT_PX
    return (
        together < (_LEAST_TOGETHER_SMALL if is_small else _LEAST_TOGETHER)
        or shared < _LEAST_GAIN * contrast * contrast
    )


def _enlarged(plane: Floats, size_px: tuple[int, int]) -> Floats:
    from PIL import Image

    return np.asarray(Image.fromarray(plane).resize(size_px, Image.Resampling.BICUBIC), np.float32)


def at_reading_size(pixels: Pixels, shown_px: tuple[int, int], ppi: float) -> Floats:
    """Return the light of a picture as finely as its words are looked for.

    shown_px: width and height that it is shown at where there are `ppi` pixels an inch.
    """
    height, width = pixels.shape[:2]
    share = min(1.0, max(shown_px[0] / width, shown_px[1] / height) * READ_PPI / ppi)
    if share > _NEARLY_ALL:
        return luma(pixels)
    return light_at(pixels, (max(1, round(width * share)), max(1, round(height * share))))


def light_at(pixels: Pixels, size_px: tuple[int, int]) -> Floats:
    """Return the light of a picture over (width, height) pixels, no more than it has."""
    light = luma(pixels)
    height, width = min(size_px[1], light.shape[0]), min(size_px[0], light.shape[1])
    return light if light.shape == (height, width) else reduced(light, height, width)
