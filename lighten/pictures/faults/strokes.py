"""Detection of strokes: thin and light or dark, on an even ground."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled

__all__ = ["Band", "stroke_bands"]

Floats = NDArray[np.float32]
Band = tuple[int, int, int, int]

# As much as fits near the processor, and more than lies around it that has to be looked at as well.
_BAND_PX = 256


def stroke_bands(original: Floats, copy: Floats, tile_px: int) -> Iterator[Band]:
    """Return top, bottom, left, right of bands that cover all tiles with strokes.

    In either of the two, so that what was added is seen as well as what was lost.
    """
    height, width = original.shape
    rows, columns = -(-height // tile_px), -(-width // tile_px)
    has_strokes = np.zeros((rows, columns), np.bool_)
    counts = np.empty(64, np.int64)
    for plane in (original, copy):
        _find_strokes(plane, tile_px, counts, has_strokes)
    most_rows = max(1, _BAND_PX // tile_px)
    waiting = np.flatnonzero(has_strokes.any(axis=1)).tolist()
    while waiting:
        first = waiting[0]
        last = first
        while waiting and waiting[0] - last <= 1 and waiting[0] - first < most_rows:
            last = waiting.pop(0)
        across = np.flatnonzero(has_strokes[first : last + 1].any(axis=0))
        yield (
            first * tile_px,
            min(height, (last + 1) * tile_px),
            int(across[0]) * tile_px,
            min(width, (int(across[-1]) + 1) * tile_px),
        )


@compiled
def _find_strokes(
    plane: Floats, tile_px: int, counts: NDArray[np.int64], out: NDArray[np.bool_]
) -> None:  # pragma: no cover - compiled
    """Mark tiles where two fifths are ground, within 24 levels, and an edge of 18 levels is sharp.

    At half the pixels; a mark is a dot of .3 mm at least, which is some pixels. counts: room.
    """
    height, width = plane.shape
    rows, columns = out.shape
    for row in range(rows):
        for column in range(columns):
            top, left = row * tile_px, column * tile_px
            low, right = min(height, top + tile_px), min(width, left + tile_px)
            counts[:] = 0
            steepest, pixels = np.float32(0), 0
            for y in range(top, low - 1, 2):
                before = np.float32(-1)
                for x in range(left, right - 1, 2):
                    tone = (
                        plane[y, x] + plane[y, x + 1] + plane[y + 1, x] + plane[y + 1, x + 1]
                    ) * np.float32(0.25)
                    if before >= 0:
                        steepest = max(steepest, abs(tone - before))
                    if y > top:
                        above = (
                            plane[y - 2, x]
                            + plane[y - 2, x + 1]
                            + plane[y - 1, x]
                            + plane[y - 1, x + 1]
                        ) * np.float32(0.25)
                        steepest = max(steepest, abs(tone - above))
                    before = tone
                    counts[min(63, max(0, int(tone * 0.25)))] += 1
                    pixels += 1
            if steepest < 18.0:
                continue
            # The fullest stretch of tones as wide as an even ground is.
            near = fullest = 0
            for at in range(64):
                near += counts[at]
                if at >= 6:
                    near -= counts[at - 6]
                fullest = max(fullest, near)
            if fullest >= 0.4 * pixels:
                out[row, column] = True
