"""A picture of two tones in JBIG2, the lighter of two ways: all its pixels, or letters and rest."""

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jbig2.lettered import encode_letters
from lighten.codecs.jbig2.operations import Operations, code
from lighten.codecs.jbig2.pixels import framed
from lighten.codecs.jbig2.segments import bitmap_segment, page_segment

__all__ = ["all_pixels", "encode_jbig2"]

# On larger pictures the template that looks at most always came out lightest (28 pages).
_TRIED_BELOW_PX = 2_000_000
_TEMPLATES = (0, 1, 2)


def encode_jbig2(black: NDArray[np.bool_]) -> bytes:
    """Encode (height, width) pixels, true where black, losslessly for embedding in a PDF."""
    templates = _TEMPLATES if black.size < _TRIED_BELOW_PX else _TEMPLATES[:1]
    plain = min((all_pixels(1, black, template) for template in templates), key=len)
    size = black.shape[1], black.shape[0]
    ways = [page_segment(0, size, has_refinements=False) + plain]
    letters = encode_letters(1, black)
    if letters is not None:
        segments, rest = letters
        page = page_segment(0, size, has_refinements=True)
        ways.append(page + segments + (all_pixels(3, rest) if rest.any() else b""))
    return min(ways, key=len)


def all_pixels(number: int, black: NDArray[np.bool_], template: int = 0) -> bytes:
    """A segment of that number, of the whole picture; template: 0 to 3 (6.2.5.3)."""
    pixels, bitmap = framed(black)
    operations = Operations()
    operations.bitmap(bitmap, skips=True)
    coded = code(operations, pixels, template=template)
    return bitmap_segment(number, (black.shape[1], black.shape[0]), template, coded)
