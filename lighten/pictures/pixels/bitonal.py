"""Greys divided into black and white."""

import numpy as np
from numpy.typing import NDArray

from lighten.model.treatments import BitonalMethod

__all__ = ["divide", "otsu_threshold", "sauvola_threshold"]

# Sauvola's window: 4 mm at 150 ppi; k as FINDINGS measured on scans, R as published.
_WINDOW_PX = 25
_SAUVOLA_K = 0.2
_SAUVOLA_R = 128.0
# Bayer's matrix of order 8, built by its recurrence (Bayer, IEEE Int. Conf. Communications 1973).
_BAYER_2 = np.array([[0, 2], [3, 1]])


def divide(
    grey: NDArray[np.uint8], method: BitonalMethod, *, threshold: int = 128
) -> NDArray[np.bool_]:
    """True where black: (height, width), from (height, width) uint8 grey.

    threshold: for `FIXED`; a grey below it is black.
    """
    match method:
        case BitonalMethod.FIXED:
            return np.asarray(grey < threshold)
        case BitonalMethod.OTSU:
            return np.asarray(grey <= otsu_threshold(grey))
        case BitonalMethod.SAUVOLA:
            return np.asarray(grey <= sauvola_threshold(grey))
        case BitonalMethod.DIFFUSED:
            return _diffused(grey)
        case BitonalMethod.ORDERED:
            return _ordered(grey)


def otsu_threshold(grey: NDArray[np.uint8]) -> int:
    """The grey that parts dark (up to it) from light with the largest variance between the two.

    Source: Otsu, IEEE Trans. Systems, Man and Cybernetics 9(1), 1979.
    """
    from PIL import Image

    counts = np.array(Image.fromarray(grey).histogram(), np.float64)
    weight = counts.cumsum()
    total = (counts * np.arange(256)).cumsum()
    dark, light = weight[:-1], weight[-1] - weight[:-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        apart = total[:-1] / dark - (total[-1] - total[:-1]) / light
        between = dark * light * apart**2
    return int(np.nan_to_num(between).argmax())


def sauvola_threshold(
    grey: NDArray[np.uint8], *, window_px: int = _WINDOW_PX, k: float = _SAUVOLA_K
) -> NDArray[np.float64]:
    """The threshold of each pixel from mean and deviation around it: (height, width).

    Source: Sauvola & Pietikainen, Pattern Recognition 33, 2000: m * (1 + k * (s / R - 1)).
    """
    reach = window_px // 2
    padded = np.pad(
        grey.astype(np.float64), reach, mode="reflect" if _fits(grey, reach) else "edge"
    )
    mean = _window_mean(padded, window_px)
    square = _window_mean(padded * padded, window_px)
    deviation = np.sqrt(np.maximum(square - mean * mean, 0))
    return np.asarray(mean * (1 + k * (deviation / _SAUVOLA_R - 1)))


def _fits(grey: NDArray[np.uint8], reach: int) -> bool:
    return int(min(grey.shape)) > reach


def _window_mean(padded: NDArray[np.float64], window_px: int) -> NDArray[np.float64]:
    """The mean around each pixel, by sums from the corner on."""
    sums = np.pad(padded.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    across = sums[window_px:] - sums[:-window_px]
    both = across[:, window_px:] - across[:, :-window_px]
    return np.asarray(both / window_px**2)


def _diffused(grey: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Diffuse the error of each pixel to its neighbours (Floyd & Steinberg, Proc. SID 17, 1976)."""
    from PIL import Image

    return ~np.asarray(Image.fromarray(grey).convert("1", dither=Image.Dither.FLOYDSTEINBERG))


def _ordered(grey: NDArray[np.uint8]) -> NDArray[np.bool_]:
    matrix = _BAYER_2
    while len(matrix) < 8:
        matrix = np.block(
            [[4 * matrix + _BAYER_2[row, column] for column in range(2)] for row in range(2)]
        )
    levels = (matrix + 0.5) * 256 / matrix.size
    height, width = grey.shape
    tiled = np.tile(levels, (-(-height // 8), -(-width // 8)))[:height, :width]
    return np.asarray(grey < tiled)
