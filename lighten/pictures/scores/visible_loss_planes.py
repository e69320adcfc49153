"""The planes that SSIMULACRA2 compares, and how they differ, compiled; see `visible_loss`."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper
from lighten.pictures.pixels.planes import Half

__all__ = ["differences", "halved", "light_of", "linear_light", "opponent"]

Floats = NDArray[np.float32]

_RADIUS, _SIGMA = 5, 1.5
_WINDOW = np.exp(-(np.arange(-_RADIUS, _RADIUS + 1) ** 2) / (2 * _SIGMA**2))
# A Gaussian of 1.5 pixels, from its middle on.
_HALF: Half = tuple(np.float32(weight) for weight in (_WINDOW / _WINDOW.sum())[_RADIUS:])
# Of the 256 levels of sRGB (IEC 61966-2-1).
_LEVELS = np.arange(256) / 255
_LINEAR = np.where(_LEVELS <= 0.04045, _LEVELS / 12.92, ((_LEVELS + 0.055) / 1.055) ** 2.4).astype(
    np.float32
)
# Cone responses of linear red, green, blue, and what is added before the cube root.
_LONG, _MIDDLE, _SHORT = (
    (np.float32(0.30), np.float32(0.622), np.float32(0.078)),
    (np.float32(0.23), np.float32(0.692), np.float32(0.078)),
    (
        np.float32(0.24342268924547819),
        np.float32(0.20476744424496821),
        np.float32(0.5518098665095536),
    ),
)
_BIAS = np.float32(0.0037930732552754493)
_ROOT_OF_BIAS = np.float32(0.0037930732552754493 ** (1 / 3))


@jit_helper
def _cube_root(value):  # type: ignore[no-untyped-def] # one number in, one out  # pragma: no cover - compiled
    """Return cube roots by the power 5/16 and two steps of Halley's method."""
    quarter = np.sqrt(np.sqrt(value))
    root = quarter * np.sqrt(np.sqrt(quarter))
    for _ in range(2):
        cube = root * root * root
        root = root * (cube + value + value) / (cube + cube + value)
    return root


def opponent(linear: Floats) -> Floats:
    """Convert to the metric's red-green, light and blue planes, all above zero: (3, height, width).

    linear: (3, height, width) linear sRGB.
    """
    out = np.empty_like(linear)
    _opponent(linear, out)
    return out


@compiled
def _opponent(linear: Floats, out: Floats) -> None:  # pragma: no cover - compiled
    _, height, width = linear.shape
    half, seven = np.float32(0.5), np.float32(7)
    for y in range(height):
        for x in range(width):
            red, green, blue = linear[0, y, x], linear[1, y, x], linear[2, y, x]
            long = red * _LONG[0] + green * _LONG[1] + blue * _LONG[2]
            middle = red * _MIDDLE[0] + green * _MIDDLE[1] + blue * _MIDDLE[2]
            short = red * _SHORT[0] + green * _SHORT[1] + blue * _SHORT[2]
            long = _cube_root(long + _BIAS) - _ROOT_OF_BIAS
            middle = _cube_root(middle + _BIAS) - _ROOT_OF_BIAS
            short = _cube_root(short + _BIAS) - _ROOT_OF_BIAS
            light = (long + middle) * half
            out[0, y, x] = (long - middle) * seven + np.float32(0.42)
            out[1, y, x] = light + np.float32(0.01)
            out[2, y, x] = short - light + np.float32(0.55)


def light_of(linear: Floats) -> Floats:
    """Return the lightness of `opponent`: (height, width)."""
    out = np.empty(linear.shape[1:], np.float32)
    _light_of(linear, out)
    return out


@compiled
def _light_of(linear: Floats, out: Floats) -> None:  # pragma: no cover - compiled
    _, height, width = linear.shape
    for y in range(height):
        for x in range(width):
            red, green, blue = linear[0, y, x], linear[1, y, x], linear[2, y, x]
            long = red * _LONG[0] + green * _LONG[1] + blue * _LONG[2]
            middle = red * _MIDDLE[0] + green * _MIDDLE[1] + blue * _MIDDLE[2]
            both = _cube_root(long + _BIAS) + _cube_root(middle + _BIAS)
            out[y, x] = both * np.float32(0.5) - _ROOT_OF_BIAS + np.float32(0.01)


def halved(linear: Floats) -> Floats:
    """Halve the pixels each way; a last odd one counts by itself."""
    planes, height, width = linear.shape
    out = np.empty((planes, (height + 1) // 2, (width + 1) // 2), np.float32)
    _halve(linear, out)
    return out


@compiled
def _halve(linear: Floats, out: Floats) -> None:  # pragma: no cover - compiled
    planes, height, width = linear.shape
    _, rows, columns = out.shape
    for plane in range(planes):
        for y in range(rows):
            top, low = 2 * y, min(height - 1, 2 * y + 1)
            for x in range(columns):
                left, right = 2 * x, min(width - 1, 2 * x + 1)
                out[plane, y, x] = np.float32(0.25) * (
                    linear[plane, top, left]
                    + linear[plane, top, right]
                    + linear[plane, low, left]
                    + linear[plane, low, right]
                )


def differences(plane: Floats, copy: Floats) -> NDArray[np.float64]:
    """(2 norms, 3 kinds): sums over all pixels of structure lost, edges added, edges lost.

    The second norm is of the fourth powers. plane, copy: of the reference and the other.
    """
    sums = np.zeros((2, 3))
    lines = np.empty((10, plane.shape[1] + 2 * _RADIUS), np.float32)
    _add_differences(plane, copy, _HALF, lines, sums)
    return sums


@compiled
def _add_differences(
    plane: Floats, copy: Floats, window: Half, lines: Floats, sums: NDArray[np.float64]
) -> None:  # pragma: no cover - compiled
    """Add differences row by row, so that blurred rows stay in the cache.

    lines: room for a row with what is beyond its ends, of both planes, their squares and their
    product, blurred along one axis and along both.
    """
    height, width = plane.shape
    radius = len(window) - 1
    one, two, zero, c2 = np.float32(1), np.float32(2), np.float32(0), np.float32(0.0009)
    for y in range(height):
        lines[:5, radius : width + radius] = 0
        for step in range(-radius, radius + 1):
            row, weight = min(height - 1, max(0, y + step)), window[abs(step)]
            # Loops with one result each: for more, the compiler cannot exclude overlaps.
            for x in range(width):
                lines[0, x + radius] += plane[row, x] * weight
            for x in range(width):
                lines[1, x + radius] += copy[row, x] * weight
            for x in range(width):
                lines[2, x + radius] += plane[row, x] * plane[row, x] * weight
            for x in range(width):
                lines[3, x + radius] += copy[row, x] * copy[row, x] * weight
            for x in range(width):
                lines[4, x + radius] += plane[row, x] * copy[row, x] * weight
        for kind in range(5):
            for x in range(radius):
                lines[kind, x] = lines[kind, radius]
                lines[kind, width + radius + x] = lines[kind, width + radius - 1]
            for x in range(width):
                at = x + radius
                value = lines[kind, at] * window[0]
                for step in range(1, len(window)):
                    value += (lines[kind, at - step] + lines[kind, at + step]) * window[step]
                lines[5 + kind, x] = value
        lost = added = gone = zero
        lost4 = added4 = gone4 = zero
        for x in range(width):
            mean, other_mean, product = lines[5, x], lines[6, x], lines[9, x]
            squares = lines[7, x] - mean * mean + lines[8, x] - other_mean * other_mean
            shift = mean - other_mean
            alike = (one - shift * shift) * (two * (product - mean * other_mean) + c2)
            structure = max(zero, one - alike / (squares + c2))
            edge = (one + abs(copy[y, x] - other_mean)) / (one + abs(plane[y, x] - mean)) - one
            more, less = max(zero, edge), max(zero, -edge)
            lost += structure
            added += more
            gone += less
            structure *= structure
            more *= more
            less *= less
            lost4 += structure * structure
            added4 += more * more
            gone4 += less * less
        sums[0, 0] += lost
        sums[0, 1] += added
        sums[0, 2] += gone
        sums[1, 0] += lost4
        sums[1, 1] += added4
        sums[1, 2] += gone4


def linear_light(pixels: NDArray[np.uint8]) -> Floats:
    """Convert (height, width, 3) sRGB to linear light, (3, height, width)."""
    out = np.empty((3, *pixels.shape[:2]), np.float32)
    _linear_light(np.ascontiguousarray(pixels), _LINEAR, out)
    return out


@compiled
def _linear_light(
    pixels: NDArray[np.uint8], table: Floats, out: Floats
) -> None:  # pragma: no cover - compiled
    height, width, _ = pixels.shape
    for y in range(height):
        for x in range(width):
            for channel in range(3):
                out[channel, y, x] = table[pixels[y, x, channel]]
