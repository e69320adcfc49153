"""The filters of PNG (RFC 2083, clause 6), compiled."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled

__all__ = ["filtered_rows"]

Bytes = NDArray[np.uint8]


def filtered_rows(rows: Bytes, pixel_bytes: int) -> Bytes:
    """Filter each row by the PNG filter with the least sum of magnitudes (RFC 2083, 9.6).

    rows: (height, bytes a row). Returns (height, 1 + bytes a row), the number of the filter first.
    """
    height, width = rows.shape
    out = np.empty((height, width + 1), np.uint8)
    room = np.empty((5, width), np.uint8), np.empty(5, np.int64)
    _filter(np.ascontiguousarray(rows), pixel_bytes, *room, out)
    return out


@compiled
def _filter(
    rows: Bytes, pixel_bytes: int, tried: Bytes, costs: NDArray[np.int64], out: Bytes
) -> None:  # pragma: no cover - compiled
    """Filter every row. tried, costs: room for a row by each filter, and for its cost."""
    height, width = rows.shape
    for y in range(height):
        costs[:] = 0
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
        for x in range(width):
            out[y, x + 1] = tried[best, x]
