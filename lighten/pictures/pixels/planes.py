"""Planes of light and filters over them, compiled: (height, width) float32.

Edges go on as they end.

Windows are tuples, so that the compiler knows their length and unrolls the loop over them, which
makes them ten times as quick. They let go of the interpreter: threads work side by side.
"""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper

__all__ = [
    "as_rgb",
    "blurred",
    "box_means",
    "gaussian",
    "highest",
    "lowest",
    "luma",
    "reduced",
    "tile_means",
]

Floats = NDArray[np.float32]
Pixels = NDArray[np.uint8]
Half = tuple[np.float32, ...]

# How far at once, and how often: 17 pixels are 8 to each side, two at a time.
_REACHES = {3: ((0,), 1), 5: ((0, 0), 1), 17: ((0, 0), 4)}


def gaussian(sigma: float) -> Half:
    """Return half the window of a Gaussian, its middle first, up to three sigmas."""
    radius = max(1, int(np.ceil(3 * sigma)))
    window = np.exp(-(np.arange(-radius, radius + 1) ** 2) / (2 * sigma * sigma))
    window /= window.sum()
    return tuple(np.float32(weight) for weight in window[radius:])


def blurred(plane: Floats, half: Half) -> Floats:
    """Blur along both axes. half: a symmetric window, from its middle on."""
    out = np.empty_like(plane)
    _blur(plane, half, np.empty(plane.shape[1] + 2 * len(half), np.float32), out)
    return out


@compiled
def _blur(
    plane: Floats, half: Half, line: Floats, out: Floats
) -> None:  # pragma: no cover - compiled
    """line: scratch for a row with padding."""
    height, width = plane.shape
    radius = len(half) - 1
    for y in range(height):
        if radius <= y < height - radius:
            for x in range(width):
                value = plane[y, x] * half[0]
                for step in range(1, len(half)):
                    value += (plane[y - step, x] + plane[y + step, x]) * half[step]
                line[x + radius] = value
        else:
            for x in range(width):
                value = plane[y, x] * half[0]
                for step in range(1, len(half)):
                    above, below = max(0, y - step), min(height - 1, y + step)
                    value += (plane[above, x] + plane[below, x]) * half[step]
                line[x + radius] = value
        line[:radius] = line[radius]
        line[width + radius : width + 2 * radius] = line[width + radius - 1]
        for x in range(width):
            value = line[x + radius] * half[0]
            for step in range(1, len(half)):
                value += (line[x + radius - step] + line[x + radius + step]) * half[step]
            out[y, x] = value


@compiled
def _highest_near(
    plane: Floats, reach: tuple[int, ...], line: Floats, out: Floats
) -> None:  # pragma: no cover - compiled
    """Return the maximum of each pixel and the next ones on all sides, up to `reach`.

    line: room for a row with what is beyond its ends.
    """
    height, width = plane.shape
    radius = len(reach)
    for y in range(height):
        if radius <= y < height - radius:
            for x in range(width):
                value = plane[y, x]
                for step in range(1, len(reach) + 1):
                    value = max(value, plane[y - step, x], plane[y + step, x])
                line[x + radius] = value
        else:
            for x in range(width):
                value = plane[y, x]
                for step in range(1, len(reach) + 1):
                    above, below = max(0, y - step), min(height - 1, y + step)
                    value = max(value, plane[above, x], plane[below, x])
                line[x + radius] = value
        line[:radius] = line[radius]
        line[width + radius : width + 2 * radius] = line[width + radius - 1]
        for x in range(width):
            value = line[x + radius]
            for step in range(1, len(reach) + 1):
                value = max(value, line[x + radius - step], line[x + radius + step])
            out[y, x] = value


def highest(plane: Floats, side: int) -> Floats:
    """Return the maximum of the square of `side` pixels around each: 3, 5 or 17."""
    reach, times = _REACHES[side]
    line = np.empty(plane.shape[1] + 2 * len(reach), np.float32)
    for _ in range(times):
        out = np.empty_like(plane)
        _highest_near(plane, reach, line, out)
        plane = out
    return plane


def lowest(plane: Floats, side: int) -> Floats:
    """Return the minimum of the square of `side` pixels around each: 3, 5 or 17."""
    return -highest(-plane, side)


def box_means(plane: Floats, side: int) -> Floats:
    """Return the mean of the square of `side` pixels (odd) around each."""
    out = np.empty_like(plane)
    _box_means(plane, side, np.zeros(plane.shape[1]), out)
    return out


@compiled
def _box_means(
    plane: Floats, side: int, sums: NDArray[np.float64], out: Floats
) -> None:  # pragma: no cover - compiled
    """sums: zeros, one a column."""
    height, width = plane.shape
    radius = side // 2
    share = 1.0 / (side * side)
    for y in range(-radius, radius + 1):
        row = min(height - 1, max(0, y))
        for x in range(width):
            sums[x] += plane[row, x]
    for y in range(height):
        if y:
            entering, leaving = min(height - 1, y + radius), max(0, y - radius - 1)
            for x in range(width):
                sums[x] += plane[entering, x] - plane[leaving, x]
        total = 0.0
        for x in range(-radius, radius + 1):
            total += sums[min(width - 1, max(0, x))]
        for x in range(width):
            if x:
                total += sums[min(width - 1, x + radius)] - sums[max(0, x - radius - 1)]
            out[y, x] = total * share


def luma(pixels: Pixels) -> Floats:
    """Return luma by ITU-R BT.601, 0 to 255, in whole numbers; the mean where there are not three
    channels.

    pixels: (height, width) grey or (height, width, n).
    """
    if pixels.ndim == 2:
        return pixels.astype(np.float32)
    out = np.empty(pixels.shape[:2], np.float32)
    _luma(np.ascontiguousarray(pixels), out)
    return out


@compiled
def _luma(pixels: Pixels, out: Floats) -> None:  # pragma: no cover - compiled
    height, width, channels = pixels.shape
    if channels == 3:
        for y in range(height):
            for x in range(width):
                out[y, x] = _light(pixels[y, x, 0], pixels[y, x, 1], pixels[y, x, 2])
        return
    for y in range(height):
        for x in range(width):
            total = 0
            for channel in range(channels):
                total += pixels[y, x, channel]
            out[y, x] = total / channels


@jit_helper
def _light(red, green, blue):  # type: ignore[no-untyped-def] # numbers in, one out  # pragma: no cover - compiled
    """Return luma in 65,536ths, rounded: 0.299, 0.587 and 0.114."""
    # Narrow numbers: a vector of the processor holds more of them.
    total = np.uint32(red) * np.uint32(19595) + np.uint32(green) * np.uint32(38470)
    return np.uint32(total + np.uint32(blue) * np.uint32(7471) + np.uint32(32768)) >> np.uint32(16)


def reduced(plane: Floats, height: int, width: int) -> Floats:
    """Reduce by area means, fractions of pixels included; never enlarge."""
    out = np.empty((height, width), np.float32)
    _reduce(plane, np.empty(plane.shape[1], np.float32), out)
    return out


@compiled
def _reduce(plane: Floats, line: Floats, out: Floats) -> None:  # pragma: no cover - compiled
    """line: room for a row."""
    old_height, old_width = plane.shape
    height, width = out.shape
    down, over = old_height / height, old_width / width
    for y in range(height):
        start, end = y * down, min((y + 1) * down, float(old_height))
        line[:] = 0
        for at in range(int(start), min(int(np.ceil(end)), old_height)):
            share = np.float32((min(end, at + 1.0) - max(start, float(at))) / down)
            for x in range(old_width):
                line[x] += plane[at, x] * share
        _reduce_line(line, over, out[y])


@jit_helper
def _reduce_line(line, over, out):  # type: ignore[no-untyped-def] # pragma: no cover - compiled
    """Write the means of `over` samples each, the first and last by their shares."""
    size = line.size
    for x in range(out.size):
        left, right = x * over, min((x + 1) * over, float(size))
        first, last = int(left), min(int(np.ceil(right)), size)
        total = line[first] * np.float32(min(right, first + 1.0) - left)
        for at in range(first + 1, last - 1):
            total += line[at]
        if last - 1 > first:
            total += line[last - 1] * np.float32(right - (last - 1))
        out[x] = total / np.float32(over)


def tile_means(pixels: Pixels, rows: int, columns: int) -> Floats:
    """Return the mean of each tile of (height, width, n) pixels: (rows, columns, n)."""
    out = np.empty((rows, columns, pixels.shape[2]), np.float32)
    _tile_means(np.ascontiguousarray(pixels), out)
    return out


@compiled
def _tile_means(pixels: Pixels, out: Floats) -> None:  # pragma: no cover - compiled
    height, width, channels = pixels.shape
    rows, columns, _ = out.shape
    for row in range(rows):
        top, low = row * height // rows, (row + 1) * height // rows
        for column in range(columns):
            left, right = column * width // columns, (column + 1) * width // columns
            share = 1 / max(1, (low - top) * (right - left))
            if channels == 3:
                red = green = blue = 0
                for y in range(top, low):
                    for x in range(left, right):
                        red += pixels[y, x, 0]
                        green += pixels[y, x, 1]
                        blue += pixels[y, x, 2]
                out[row, column, 0] = red * share
                out[row, column, 1] = green * share
                out[row, column, 2] = blue * share
            else:
                for channel in range(channels):
                    total = 0
                    for y in range(top, low):
                        for x in range(left, right):
                            total += pixels[y, x, channel]
                    out[row, column, channel] = total * share


def as_rgb(bgr: Pixels) -> Pixels:
    """Convert BGR with further channels, or grey, to RGB: (height, width, 3)."""
    out = np.empty((*bgr.shape[:2], 3), np.uint8)
    _as_rgb(np.ascontiguousarray(bgr), out)
    return out


@compiled
def _as_rgb(bgr: Pixels, out: Pixels) -> None:  # pragma: no cover - compiled
    height, width, channels = bgr.shape
    red, green = (2, 1) if channels >= 3 else (0, 0)
    for y in range(height):
        for x in range(width):
            out[y, x, 0] = bgr[y, x, red]
            out[y, x, 1] = bgr[y, x, green]
            out[y, x, 2] = bgr[y, x, 0]
