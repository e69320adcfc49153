"""Comparison of the sharpness of edges in a copy and its original."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import blurred, gaussian

__all__ = ["sharpness_kept"]

Floats = NDArray[np.float32]

_FINEST, _FINE, _MIDDLE = gaussian(0.5), gaussian(1.0), gaussian(2.0)
# Three times 2 pixels after 2 are 4.
_TO_COARSE = 3
# An edge of that many levels is strong; so many pixels of such are enough to be measured.
_STRONG, _LEAST_PIXELS = np.float32(12), 200


def sharpness_kept(original: Floats, copy: Floats) -> float | None:
    """Return the copy's share of the original's fine detail at its edges.

    None where there are too few edges. Both (height, width) float32 luma, brought together before.
    """
    bands = [_bands(plane) for plane in (original, copy)]
    sums = np.zeros(5)
    _add_energies(*bands[0], *bands[1], sums)
    pixels, fine, coarse, fine_copy, coarse_copy = sums
    if pixels < _LEAST_PIXELS or not fine or not coarse or not coarse_copy:
        return None
    return float(np.sqrt((fine_copy / coarse_copy) / (fine / coarse)))


def _bands(plane: Floats) -> tuple[Floats, Floats]:
    """Return detail finer than about a pixel, and structure coarser than two."""
    fine, middle = blurred(plane, _FINE), blurred(plane, _MIDDLE)
    coarse = middle
    for _ in range(_TO_COARSE):
        coarse = blurred(coarse, _MIDDLE)
    return blurred(plane, _FINEST) - fine, middle - coarse


@compiled
def _add_energies(
    fine: Floats,
    coarse: Floats,
    fine_copy: Floats,
    coarse_copy: Floats,
    sums: NDArray[np.float64],
) -> None:  # pragma: no cover - compiled
    """Add up `sums`: count of edge pixels, and sums of squares of each plane."""
    height, width = fine.shape
    pixels = 0
    of_fine = of_coarse = of_fine_copy = of_coarse_copy = 0.0
    for y in range(height):
        for x in range(width):
            if abs(coarse[y, x]) > _STRONG:
                pixels += 1
                of_fine += fine[y, x] * fine[y, x]
                of_coarse += coarse[y, x] * coarse[y, x]
                of_fine_copy += fine_copy[y, x] * fine_copy[y, x]
                of_coarse_copy += coarse_copy[y, x] * coarse_copy[y, x]
    sums[0] = pixels
    sums[1], sums[2] = of_fine, of_coarse
    sums[3], sums[4] = of_fine_copy, of_coarse_copy
