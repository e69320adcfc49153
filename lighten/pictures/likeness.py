"""How alike two pictures of the same size look, quickly."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["likeness", "luma"]

_WINDOW = 8
_C1 = (0.01 * 255) ** 2
_C2 = (0.03 * 255) ** 2
# Mean difference of colour, out of 255, that JPEG's own rounding may cause; beyond it the
# likeness falls by one for every _TINT_RANGE.
_TINT_TOLERATED = 4.0
_TINT_RANGE = 40.0


def likeness(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> float:
    """1 for equal pictures, towards 0 the less they have in common.

    Structural similarity of luma over windows of 8 x 8 that do not overlap, less a penalty where
    the colour of those windows shifts. Both (height, width) or (height, width, 3) uint8, equal
    in height and width. Raises: ValueError if they are not.
    Source: Wang et al., IEEE Trans. Image Processing 13(4), 2004, with uniform windows.
    """
    if one.shape[:2] != other.shape[:2]:
        raise ValueError(f"pictures of {one.shape[:2]} and {other.shape[:2]} pixels")
    score = float(_window_similarity(luma(one), luma(other)).mean())
    if one.ndim == 3 or other.ndim == 3:
        shift = max(
            float(np.abs(_means(_chroma(one, side)) - _means(_chroma(other, side))).mean())
            for side in (0, 2)
        )
        score -= max(0.0, shift - _TINT_TOLERATED) / _TINT_RANGE
    return max(0.0, min(1.0, score))


def luma(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Luma by ITU-R BT.601, 0 to 255."""
    if pixels.ndim == 2:
        return pixels.astype(np.float32)
    return pixels.astype(np.float32) @ np.array([0.299, 0.587, 0.114], np.float32)


def _chroma(pixels: NDArray[np.uint8], side: int) -> NDArray[np.float32]:
    """Red or blue less luma, up to a factor Cr and Cb."""
    if pixels.ndim == 2:
        return np.zeros(pixels.shape, np.float32)
    return pixels[..., side].astype(np.float32) - luma(pixels)


def _window_similarity(
    one: NDArray[np.float32], other: NDArray[np.float32]
) -> NDArray[np.float32]:
    mean_one, mean_other = _means(one), _means(other)
    variance_one = _means(one * one) - mean_one**2
    variance_other = _means(other * other) - mean_other**2
    covariance = _means(one * other) - mean_one * mean_other
    return ((2 * mean_one * mean_other + _C1) * (2 * covariance + _C2)) / (
        (mean_one**2 + mean_other**2 + _C1) * (variance_one + variance_other + _C2)
    )


def _means(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean of each window; what is left over at the right and lower edge is left out."""
    height, width = plane.shape
    rows, columns = min(_WINDOW, height), min(_WINDOW, width)
    cut = plane[: height // rows * rows, : width // columns * columns]
    windows = cut.reshape(height // rows, rows, width // columns, columns)
    return windows.mean(axis=(1, 3), dtype=np.float32)
