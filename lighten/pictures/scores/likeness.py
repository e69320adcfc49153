"""Quick similarity of two pictures of the same size."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import luma

__all__ = [
    "WINDOW_PX",
    "Comparison",
    "compare",
    "likeness",
    "similarity_map",
    "tones_alike",
]

WINDOW_PX = 8
_C1 = (0.01 * 255) ** 2
_C2 = (0.03 * 255) ** 2
# Mean difference of tone or colour between windows, out of 255, that coding and resampling may
# cause; beyond it the likeness falls by one for every _SHIFT_RANGE.
_SHIFT_TOLERATED = 4.0
_SHIFT_RANGE = 40.0
# Window means that differ less than that show nothing.
_EVEN = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Two pictures of one size, window by window; both arrays (rows, columns) of windows, float32.

    similar: structural similarity of luma. shifted: mean difference of tone or colour, the
    largest of luma, Cb and Cr, out of 255.
    """

    similar: NDArray[np.float32]
    shifted: NDArray[np.float32]

    def likeness(self, rows: slice = slice(None), columns: slice = slice(None)) -> float:
        """1 for equal, towards 0 the less the two have in common; of some windows, or all.

        The mean similarity, less a penalty where tone or colour shift: structure alone forgives
        a picture that is paler or tinted throughout.
        """
        shift = float(self.shifted[rows, columns].mean())
        penalty = max(0.0, shift - _SHIFT_TOLERATED) / _SHIFT_RANGE
        return max(0.0, min(1.0, float(self.similar[rows, columns].mean()) - penalty))


def compare(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> Comparison:
    """Compare two pictures over windows of 8 x 8 that do not overlap.

    Both (height, width) or (height, width, 3) uint8, equal in height and width; what is left
    over at the right and lower edge is left out. Raises: ValueError if the sizes differ.
    Source: Wang et al., IEEE Trans. Image Processing 13(4), 2004, with uniform windows.
    """
    if one.shape[:2] != other.shape[:2]:
        raise ValueError(f"pictures of {one.shape[:2]} and {other.shape[:2]} pixels")
    similar = similarity_map(luma(one), luma(other))
    shifted = np.empty_like(similar)
    _shifts(_as_three(one), _as_three(other), _window_of(one.shape), shifted)
    return Comparison(similar=similar, shifted=shifted)


def likeness(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """The likeness of two whole pictures, 0 to 1; see `compare`."""
    return compare(one, other).likeness()


def tones_alike(
    one: NDArray[np.float32], other: NDArray[np.float32], rows: slice, columns: slice
) -> float:
    """Return the correlation of window means, 0 to 1: whether light and dark lie in the same
    regions.

    Both planes (height, width) of luma; rows, columns: of windows. For pictures that were given
    other colours or a filter; 1 where both are even throughout.
    """
    means = [_means(plane)[rows, columns].ravel() for plane in (one, other)]
    deviations = [mean - mean.mean() for mean in means]
    spreads = [float(np.sqrt((deviation**2).mean())) for deviation in deviations]
    if spreads[0] < _EVEN:
        return 1.0
    if spreads[1] < _EVEN:
        return 0.0
    together = float((deviations[0] * deviations[1]).mean())
    return max(0.0, min(1.0, together / (spreads[0] * spreads[1])))


def _as_three(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    three = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
    return np.ascontiguousarray(three)


def _window_of(shape: tuple[int, ...]) -> tuple[int, int]:
    """Return height and width of a window, in a picture that may be smaller."""
    return min(WINDOW_PX, shape[0]), min(WINDOW_PX, shape[1])


@compiled
def _shifts(
    one: NDArray[np.uint8],
    other: NDArray[np.uint8],
    window: tuple[int, int],
    out: NDArray[np.float32],
) -> None:  # pragma: no cover - compiled
    """Return, for each window, the largest difference of mean luma, Cb or Cr (ITU-R BT.601)."""
    rows, columns = out.shape
    high, wide = window
    for row in range(rows):
        for column in range(columns):
            red, green, blue = np.int32(0), np.int32(0), np.int32(0)
            for y in range(row * high, row * high + high):
                for x in range(column * wide, column * wide + wide):
                    red += np.int32(one[y, x, 0]) - np.int32(other[y, x, 0])
                    green += np.int32(one[y, x, 1]) - np.int32(other[y, x, 1])
                    blue += np.int32(one[y, x, 2]) - np.int32(other[y, x, 2])
            light = 0.299 * red + 0.587 * green + 0.114 * blue
            to_blue, to_red = (blue - light) / 1.772, (red - light) / 1.402
            out[row, column] = max(abs(light), abs(to_blue), abs(to_red)) / (high * wide)


def similarity_map(one: NDArray[np.float32], other: NDArray[np.float32]) -> NDArray[np.float32]:
    """Structural similarity of each window of two luma planes: (rows, columns) of windows."""
    high, wide = _window_of(one.shape)
    out = np.empty((one.shape[0] // high, one.shape[1] // wide), np.float32)
    _similarities(np.ascontiguousarray(one), np.ascontiguousarray(other), (high, wide), out)
    return out


@compiled
def _similarities(
    one: NDArray[np.float32],
    other: NDArray[np.float32],
    window: tuple[int, int],
    out: NDArray[np.float32],
) -> None:  # pragma: no cover - compiled
    rows, columns = out.shape
    high, wide = window
    share = np.float32(1 / (high * wide))
    for row in range(rows):
        for column in range(columns):
            total = total_other = squares = squares_other = products = np.float32(0)
            for y in range(row * high, row * high + high):
                for x in range(column * wide, column * wide + wide):
                    light, light_other = one[y, x], other[y, x]
                    total += light
                    total_other += light_other
                    squares += light * light
                    squares_other += light_other * light_other
                    products += light * light_other
            mean, mean_other = total * share, total_other * share
            squared, squared_other = mean * mean, mean_other * mean_other
            variances = squares * share - squared + squares_other * share - squared_other
            covariance = products * share - mean * mean_other
            luminance = (2 * mean * mean_other + _C1) / (squared + squared_other + _C1)
            out[row, column] = luminance * (2 * covariance + _C2) / (variances + _C2)


def _means(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return the mean of each window, without the remainder at the right and lower edge."""
    height, width = plane.shape
    rows, columns = min(WINDOW_PX, height), min(WINDOW_PX, width)
    cut = plane[: height // rows * rows, : width // columns * columns]
    # Rows first: whole lines are added at once.
    bands = cut.reshape(height // rows, rows, -1).sum(axis=1, dtype=np.float32)
    windows = bands.reshape(height // rows, width // columns, columns)
    means: NDArray[np.float32] = windows.sum(axis=2, dtype=np.float32) / np.float32(rows * columns)
    return means
