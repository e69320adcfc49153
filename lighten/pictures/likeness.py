"""How alike two pictures of the same size look, quickly."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "WINDOW_PX",
    "Comparison",
    "compare",
    "likeness",
    "luma",
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
    """The two pictures over windows of 8 x 8 that do not overlap.

    Both (height, width) or (height, width, 3) uint8, equal in height and width; what is left
    over at the right and lower edge is left out. Raises: ValueError if the sizes differ.
    Source: Wang et al., IEEE Trans. Image Processing 13(4), 2004, with uniform windows.
    """
    if one.shape[:2] != other.shape[:2]:
        raise ValueError(f"pictures of {one.shape[:2]} and {other.shape[:2]} pixels")
    planes, other_planes = _planes(one), _planes(other)
    shifts = [
        np.abs(_means(plane) - _means(other_plane))
        for plane, other_plane in zip(planes, other_planes, strict=True)
    ]
    return Comparison(
        similar=similarity_map(planes[0], other_planes[0]),
        shifted=np.maximum.reduce(shifts),
    )


def likeness(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """The likeness of two whole pictures, 0 to 1; see `compare`."""
    return compare(one, other).likeness()


def tones_alike(
    one: NDArray[np.float32], other: NDArray[np.float32], rows: slice, columns: slice
) -> float:
    """How far light and dark lie in the same places, 0 to 1: the correlation of window means.

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


def luma(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Luma by ITU-R BT.601, 0 to 255, in whole numbers; of inks their mean."""
    from PIL import Image

    if pixels.ndim == 3 and pixels.shape[2] != 3:
        return np.asarray(pixels.mean(axis=2, dtype=np.float32))
    if pixels.ndim == 3:
        pixels = np.asarray(Image.fromarray(pixels).convert("L"))
    return pixels.astype(np.float32)


def _planes(pixels: NDArray[np.uint8]) -> tuple[NDArray[np.float32], ...]:
    """Luma, Cb and Cr by ITU-R BT.601."""
    from PIL import Image

    if pixels.ndim == 2:
        neutral = np.full(pixels.shape, 128, np.float32)
        return pixels.astype(np.float32), neutral, neutral
    planes = Image.fromarray(pixels).convert("YCbCr").split()
    return tuple(np.asarray(plane).astype(np.float32) for plane in planes)


def similarity_map(one: NDArray[np.float32], other: NDArray[np.float32]) -> NDArray[np.float32]:
    """Structural similarity of each window of two luma planes: (rows, columns) of windows."""
    mean_one, mean_other = _means(one), _means(other)
    variance_one = _means(one * one) - mean_one**2
    variance_other = _means(other * other) - mean_other**2
    covariance = _means(one * other) - mean_one * mean_other
    luminance = (2 * mean_one * mean_other + _C1) / (mean_one**2 + mean_other**2 + _C1)
    structure = (2 * covariance + _C2) / (variance_one + variance_other + _C2)
    return np.asarray(luminance * structure, np.float32)


def _means(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean of each window; what is left over at the right and lower edge is left out."""
    height, width = plane.shape
    rows, columns = min(WINDOW_PX, height), min(WINDOW_PX, width)
    cut = plane[: height // rows * rows, : width // columns * columns]
    # Rows first: whole lines are added at once.
    bands = cut.reshape(height // rows, rows, -1).sum(axis=1, dtype=np.float32)
    windows = bands.reshape(height // rows, width // columns, columns)
    means: NDArray[np.float32] = windows.sum(axis=2, dtype=np.float32) / np.float32(rows * columns)
    return means
