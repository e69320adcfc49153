"""Contexts of pixels of ITU-T T.88, for plain bitmaps (6.2) and refinements (6.3).

Bitmaps lie one behind another in one array of bytes, 0 or 1, with a frame of zeros around each:
`FRAME` on every side. A bitmap is given by the index of its first pixel, its width and height.
"""

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jbig2.arithmetic import coded_bit
from lighten.compiled import jit_helper

__all__ = ["ADAPTIVE", "FRAME", "coded_bitmap", "coded_change", "framed"]

Bytes = NDArray[np.uint8]
Table = NDArray[np.int32]

FRAME = 4
# Where each template's adaptive pixels stand when nobody moves them (figures 3 to 6): x and y each.
ADAPTIVE = (
    bytes((3, 0xFF, 0xFD, 0xFF, 2, 0xFE, 0xFE, 0xFE)),
    bytes((3, 0xFF)),
    bytes((2, 0xFF)),
    bytes((2, 0xFF)),
)


def framed(black: NDArray[np.bool_]) -> tuple[Bytes, tuple[int, int, int]]:
    """Return (height, width) pixels with a white frame, and the position of the bitmap in it."""
    height, width = black.shape
    return np.pad(black.view(np.uint8), FRAME).ravel(), (
        FRAME * (width + 2 * FRAME) + FRAME,
        width,
        height,
    )


@jit_helper
def coded_bitmap(
    a: int,
    c: int,
    ct: int,
    at: int,
    out: Bytes,
    contexts: Bytes,
    pixels: Bytes,
    first: int,
    width: int,
    height: int,
    template: int,
    skips: int,
    states: Table,
) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """Code a bitmap by its own pixels. skips: a row like the one above takes a bit (6.2.5.7)."""
    stride = width + 2 * FRAME
    # How many pixels of the two rows above and of this one are looked at, and how far ahead.
    if template == 0:
        of_above, ahead_above, of_over, ahead_over, of_own, context = 7, 3, 5, 2, 4, 0x9B25
    elif template == 1:
        of_above, ahead_above, of_over, ahead_over, of_own, context = 6, 3, 4, 2, 3, 0x0795
    elif template == 2:
        of_above, ahead_above, of_over, ahead_over, of_own, context = 5, 2, 3, 1, 2, 0x00E5
    else:
        of_above, ahead_above, of_over, ahead_over, of_own, context = 6, 2, 0, 0, 4, 0x0195
    mask_above, mask_over, mask_own = (1 << of_above) - 1, (1 << of_over) - 1, (1 << of_own) - 1
    was_alike = 0
    for y in range(height):
        row = first + y * stride
        above, over = row - stride, row - 2 * stride
        if skips:
            alike = 1
            for x in range(width):
                if pixels[row + x] != pixels[above + x]:
                    alike = 0
                    break
            a, c, ct, at = coded_bit(
                a, c, ct, at, out, contexts, context, alike ^ was_alike, states
            )
            was_alike = alike
            if alike:
                continue
        own_bits = above_bits = over_bits = 0
        for x in range(ahead_above):
            above_bits = (above_bits << 1) | pixels[above + x]
        for x in range(ahead_over):
            over_bits = (over_bits << 1) | pixels[over + x]
        for x in range(width):
            above_bits = ((above_bits << 1) | pixels[above + x + ahead_above]) & mask_above
            over_bits = ((over_bits << 1) | pixels[over + x + ahead_over]) & mask_over
            place = (((over_bits << of_above) | above_bits) << of_own) | own_bits
            bit = int(pixels[row + x])
            a, c, ct, at = coded_bit(a, c, ct, at, out, contexts, place, bit, states)
            own_bits = ((own_bits << 1) | bit) & mask_own
    return a, c, ct, at


@jit_helper
def coded_change(
    a: int,
    c: int,
    ct: int,
    at: int,
    out: Bytes,
    contexts: Bytes,
    pixels: Bytes,
    first: int,
    width: int,
    height: int,
    like_first: int,
    like_width: int,
    like_height: int,
    right: int,
    down: int,
    states: Table,
) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """Encode a bitmap as a refinement of a similar one (template 1, figure 13).

    right, down: how far the other is moved to lie on it.
    """
    stride, like_stride = width + 2 * FRAME, like_width + 2 * FRAME
    for y in range(height):
        row, above = first + y * stride, first + (y - 1) * stride
        # The other's rows beyond its frame are as empty as the frame.
        like_y = min(max(y - down, 1 - FRAME), like_height + FRAME - 2)
        like = like_first + like_y * like_stride
        for x in range(width):
            there = like + min(max(x - right, 1 - FRAME), like_width + FRAME - 2)
            place = (
                pixels[row + x - 1]
                | (pixels[above + x + 1] << 1)
                | (pixels[above + x] << 2)
                | (pixels[above + x - 1] << 3)
                | (pixels[there + like_stride + 1] << 4)
                | (pixels[there + like_stride] << 5)
                | (pixels[there + 1] << 6)
                | (pixels[there] << 7)
                | (pixels[there - 1] << 8)
                | (pixels[there - like_stride] << 9)
            )
            a, c, ct, at = coded_bit(
                a, c, ct, at, out, contexts, place, int(pixels[row + x]), states
            )
    return a, c, ct, at
