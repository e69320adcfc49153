"""Detection of ink on the paper of a page."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled
from lighten.pictures.pixels.planes import blurred, gaussian, lowest

__all__ = ["find_ink", "noise_of", "stroke_light"]

Floats = NDArray[np.float32]
Marks = NDArray[np.bool_]

# What is no darker than that, of 255, or no more than so many deviations of the paper's own grain,
# stays with the paper; on the grain of old paper, red ink stands out by four of them.
_LEAST_CONTRAST, _DEVIATIONS, _ENOUGH_CONTRAST = 24.0, 3.5, 40.0
_GRAIN_BELOW = 30.0
# A pixel belongs to the darkest stroke that is so near.
_CORE_PX = 5
_SMOOTH = gaussian(0.7)


def stroke_light(light: Floats) -> Floats:
    """Return the lightness of the stroke at each pixel: the darkest near it, without grain."""
    return lowest(blurred(light, _SMOOTH), _CORE_PX)


def find_ink(light: Floats, core: Floats, paper: Floats, noise: float) -> Marks:
    """Return where there is ink: pixels nearer to the stroke's darkness than to paper.

    light, paper: (height, width), 0 to 255; core: see `stroke_light`. The cut in the middle keeps
    strokes as wide as they are, whether black or pencil.
    """
    out = np.empty(light.shape, np.bool_)
    _mark(light, paper, core, _least_contrast(noise), out)
    return out


def noise_of(light: Floats, paper: Floats) -> float:
    """The deviation of bare paper from itself, smoothed as ink is."""
    off = np.abs(paper - blurred(light, _SMOOTH))[::3, ::3]
    bare = off[off < _GRAIN_BELOW]
    # Of a normal spread, half lies within .67 deviations.
    return float(np.median(bare)) / 0.6745 if bare.size else 0.0


def _least_contrast(noise: float) -> float:
    return min(_ENOUGH_CONTRAST, max(_LEAST_CONTRAST, _DEVIATIONS * noise))


@compiled
def _mark(
    light: Floats, paper: Floats, core: Floats, least: float, out: Marks
) -> None:  # pragma: no cover - compiled
    for y in range(light.shape[0]):
        for x in range(light.shape[1]):
            contrast = paper[y, x] - core[y, x]
            middle = paper[y, x] - contrast * np.float32(0.5)
            out[y, x] = contrast >= least and light[y, x] < middle
