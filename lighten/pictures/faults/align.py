"""Two planes of one picture brought together: the same place, tone of paper and sharpness."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper
from lighten.pictures.pixels.planes import blurred, gaussian

__all__ = ["aligned", "as_light", "as_sharp", "sharpness_share"]

Floats = NDArray[np.float32]

# A shift that is not seen, and the most that is looked for; in pixels.
_LEAST_SHIFT, _MOST_SHIFT = 0.2, 8.0
_STEPS = 3
_STRONG_EDGE, _FAR_OFF = np.float32(4), np.float32(60)
_SOFTEST, _SHARPEST = -0.35, 0.9
_ONE_PX = gaussian(1.0)
# Quarters of a level: the tone of paper moves by 12 levels at most, to either side.
_TONE_STEPS = 8 * 12 + 1


def aligned(original: Floats, copy: Floats) -> Floats:
    """Return the original shifted by the sub-pixel offset to the copy."""
    across = down = 0.0
    step = np.zeros(2)
    moved = original
    for _ in range(_STEPS):
        _step(moved, copy, step)
        step_across, step_down = step.tolist()
        if max(abs(step_across), abs(step_down)) < _LEAST_SHIFT / 2:
            break
        across += min(1.0, max(-1.0, step_across))
        down += min(1.0, max(-1.0, step_down))
        if max(abs(across), abs(down)) > _MOST_SHIFT:
            return original
        moved = np.empty_like(original)
        _move(original, across, down, np.empty(original.shape[1], np.float32), moved)
    return moved if max(abs(across), abs(down)) >= _LEAST_SHIFT else original


def as_light(original: Floats, copy: Floats, tile_px: int) -> Floats:
    """The original with the tone that its paper has in the copy, tile by tile and smoothly."""
    rows, columns = (max(1, side // tile_px) for side in original.shape)
    tones, light = np.zeros((rows, columns), np.float32), np.empty_like(original)
    _find_tones(original, copy, np.empty(_TONE_STEPS, np.int64), tones)
    _spread(tones, light)
    light += original
    return light


def sharpness_share(original: Floats, copy: Floats) -> float:
    """Return the relative gain of fine detail of the copy over the original; below 0 for a loss."""
    fine = original - blurred(original, _ONE_PX)
    sums = np.zeros(2)
    _compare_fine(fine, original, copy, sums)
    together, alone = sums.tolist()
    return min(_SHARPEST, max(_SOFTEST, together / alone if alone > 0 else 0.0))


def as_sharp(original: Floats, share: float) -> Floats:
    """The original, as sharp as the copy is; share: see `sharpness_share`."""
    fine = original - blurred(original, _ONE_PX)
    return np.asarray(original + np.float32(share) * fine, np.float32)


@compiled
def _step(
    original: Floats, copy: Floats, step: NDArray[np.float64]
) -> None:  # pragma: no cover - compiled
    """Take one step of Lucas and Kanade over the whole picture: across and down, in pixels."""
    height, width = original.shape
    xx = yy = xy = xd = yd = 0.0
    for y in range(1, height - 1):
        for x in range(1, width - 1):
            across = (original[y, x + 1] - original[y, x - 1]) * 0.5
            down = (original[y + 1, x] - original[y - 1, x]) * 0.5
            off = original[y, x] - copy[y, x]
            if abs(off) > _FAR_OFF:
                continue
            xx += across * across
            yy += down * down
            xy += across * down
            xd += across * off
            yd += down * off
    det = xx * yy - xy * xy
    if det <= 1e-3 * (xx + yy) * (xx + yy) + 1e-6:
        step[0] = step[1] = 0.0
    else:
        step[0], step[1] = (yy * xd - xy * yd) / det, (xx * yd - xy * xd) / det


@jit_helper
def _cubic(share: float) -> tuple[float, float, float, float]:  # pragma: no cover - compiled
    """The weights of four neighbours (Keys, 1981, a = -0.5)."""
    t = share
    return (
        -0.5 * t + t * t - 0.5 * t * t * t,
        1 - 2.5 * t * t + 1.5 * t * t * t,
        0.5 * t + 2 * t * t - 1.5 * t * t * t,
        -0.5 * t * t + 0.5 * t * t * t,
    )


@compiled
def _move(
    plane: Floats, across: float, down: float, line: Floats, out: Floats
) -> None:  # pragma: no cover - compiled
    """Shift a plane: the value at (x - across, y - down) goes to (x, y). line: room for a row."""
    height, width = plane.shape
    left, top = int(np.floor(-across)), int(np.floor(-down))
    weights = _cubic(-across - left)
    lower = _cubic(-down - top)
    for y in range(height):
        line[:] = 0
        for step in range(4):
            row = min(height - 1, max(0, y + top - 1 + step))
            weight = np.float32(lower[step])
            for x in range(width):
                line[x] += plane[row, x] * weight
        for x in range(width):
            value = np.float32(0)
            for step in range(4):
                column = min(width - 1, max(0, x + left - 1 + step))
                value += line[column] * np.float32(weights[step])
            out[y, x] = value


@compiled
def _find_tones(
    original: Floats, copy: Floats, counts: NDArray[np.int64], tones: Floats
) -> None:  # pragma: no cover - compiled
    """Find the median by which the copy is lighter, for each tile: (rows, columns). counts:
    scratch.
    """
    height, width = original.shape
    rows, columns = tones.shape
    for row in range(rows):
        top, low = row * height // rows, (row + 1) * height // rows
        for column in range(columns):
            left, right = column * width // columns, (column + 1) * width // columns
            counts[:] = 0
            for y in range(top, low):
                for x in range(left, right):
                    lighter = copy[y, x] - original[y, x]
                    at = int(np.floor(lighter * 4 + 48.5))
                    counts[min(96, max(0, at))] += 1
            half, seen = (low - top) * (right - left) // 2, 0
            for at in range(97):
                seen += counts[at]
                if seen > half:
                    tones[row, column] = (at - 48) / 4
                    break


@compiled
def _spread(tones: Floats, out: Floats) -> None:  # pragma: no cover - compiled
    """Interpolate linearly between the centres of tiles."""
    rows, columns = tones.shape
    height, width = out.shape
    for y in range(height):
        row = min(max((y + 0.5) * rows / height - 0.5, 0.0), rows - 1.0)
        top = int(row)
        low, down = min(rows - 1, top + 1), np.float32(row - top)
        for x in range(width):
            column = min(max((x + 0.5) * columns / width - 0.5, 0.0), columns - 1.0)
            left = int(column)
            right, over = min(columns - 1, left + 1), np.float32(column - left)
            upper = tones[top, left] + (tones[top, right] - tones[top, left]) * over
            lower = tones[low, left] + (tones[low, right] - tones[low, left]) * over
            out[y, x] = upper + (lower - upper) * down


@compiled
def _compare_fine(
    fine: Floats, original: Floats, copy: Floats, sums: NDArray[np.float64]
) -> None:  # pragma: no cover - compiled
    """Add up `sums`: products and squares of the original's detail with the copy's difference."""
    height, width = fine.shape
    together = alone = 0.0
    for y in range(height):
        for x in range(width):
            off = copy[y, x] - original[y, x]
            if abs(fine[y, x]) > _STRONG_EDGE and abs(off) < _FAR_OFF:
                together += fine[y, x] * off
                alone += fine[y, x] * fine[y, x]
    sums[0], sums[1] = together, alone
