"""The filters of PNG (RFC 2083, clause 6), compiled."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

__all__ = ["filtered_rows"]

Bytes = NDArray[np.uint8]


@njit(cache=True, nogil=True)
def filtered_rows(rows: Bytes, pixel_bytes: int) -> Bytes:  # pragma: no cover - compiled
    """Rows with the filter each that leaves the least sum of magnitudes (RFC 2083, 9.6).

    rows: (height, bytes a row). Returns (height, 1 + bytes a row), the number of the filter first.
    """
    height, width = rows.shape
    out = np.empty((height, width + 1), np.uint8)
    tried = np.empty((5, width), np.uint8)
    for y in range(height):
        costs = np.zeros(5, np.int64)
        for x in range(width):
            value = int(rows[y, x])
            left = int(rows[y, x - pixel_bytes]) if x >= pixel_bytes else 0
            up = int(rows[y - 1, x]) if y else 0
            corner = int(rows[y - 1, x - pixel_bytes]) if y and x >= pixel_bytes else 0
            estimate = left + up - corner
            to_left, to_up, to_corner = (
                abs(estimate - left),
                abs(estimate - up),
                abs(estimate - corner),
            )
            if to_left <= to_up and to_left <= to_corner:
                nearest = left
            elif to_up <= to_corner:
                nearest = up
            else:
                nearest = corner
            tried[0, x] = value
            tried[1, x] = (value - left) & 255
            tried[2, x] = (value - up) & 255
            tried[4, x] = (value - nearest) & 255
            for number in (0, 1, 2, 4):
                level = int(tried[number, x])
                costs[number] += min(level, 256 - level)
        best = 0
        for number in (1, 2, 4):
            if costs[number] < costs[best]:
                best = number
        out[y, 0] = best
        out[y, 1:] = tried[best]
    return out
