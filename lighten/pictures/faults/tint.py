"""Comparison of colours averaged over some millimetres, by their visible difference."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.pixels.planes import tile_means

__all__ = ["ciede2000", "lab_of", "tile_colours", "tint_name"]

Floats = NDArray[np.float32]
# Linear sRGB to XYZ over the white of D65 (IEC 61966-2-1).
_TO_XYZ = np.array(
    [
        [0.4124564, 0.3575761, 0.1804375],
        [0.2126729, 0.7151522, 0.0721750],
        [0.0193339, 0.1191920, 0.9503041],
    ]
) / np.array([[0.95047], [1.0], [1.08883]])
_LIFT, _SLOPE = 216 / 24389, 24389 / 27


def tile_colours(pixels: NDArray[np.uint8], rows: int, columns: int) -> NDArray[np.float64]:
    """The mean of each tile in CIE L*a*b*: (rows, columns, 3).

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8.
    """
    channels = pixels[..., None] if pixels.ndim == 2 else pixels
    means = tile_means(np.ascontiguousarray(channels), rows, columns)
    return lab_of(np.repeat(means, 3, axis=2) if pixels.ndim == 2 else means)


def lab_of(pixels: NDArray[np.float32] | NDArray[np.uint8]) -> NDArray[np.float64]:
    """Convert sRGB pixels, (..., 3), 0 to 255, to CIE L*a*b* under D65."""
    levels = pixels.astype(np.float64) / 255
    linear = np.where(levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4)
    xyz = linear @ _TO_XYZ.T
    curved = np.where(xyz > _LIFT, np.cbrt(xyz), (_SLOPE * xyz + 16) / 116)
    light = 116 * curved[..., 1] - 16
    return np.stack(
        [
            light,
            500 * (curved[..., 0] - curved[..., 1]),
            200 * (curved[..., 1] - curved[..., 2]),
        ],
        axis=-1,
    )


def ciede2000(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """The difference of colours as the eye counts it; both (..., 3) in CIE L*a*b*.

    Source: Sharma, Wu, Dalal: The CIEDE2000 Color-Difference Formula, Color Research and
    Application 30(1), 2005.
    """
    mean_chroma = (np.hypot(one[..., 1], one[..., 2]) + np.hypot(other[..., 1], other[..., 2])) / 2
    lift = 0.5 * (1 - np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7)))
    reds = [(1 + lift) * lab[..., 1] for lab in (one, other)]
    chromas = [np.hypot(red, lab[..., 2]) for red, lab in zip(reds, (one, other), strict=True)]
    hues = [
        np.degrees(np.arctan2(lab[..., 2], red)) % 360
        for red, lab in zip(reds, (one, other), strict=True)
    ]
    is_grey = chromas[0] * chromas[1] == 0
    turn = hues[1] - hues[0]
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    turn = np.where(is_grey, 0, turn)
    lightness = other[..., 0] - one[..., 0]
    chroma = chromas[1] - chromas[0]
    hue = 2 * np.sqrt(chromas[0] * chromas[1]) * np.sin(np.radians(turn) / 2)
    mean_light, mean_chroma = (one[..., 0] + other[..., 0]) / 2, (chromas[0] + chromas[1]) / 2
    total = hues[0] + hues[1]
    is_far = np.abs(hues[0] - hues[1]) > 180
    mean_hue = np.where(is_far, np.where(total < 360, total + 360, total - 360), total) / 2
    mean_hue = np.where(is_grey, total, mean_hue)
    shape = (
        1
        - 0.17 * np.cos(np.radians(mean_hue - 30))
        + 0.24 * np.cos(np.radians(2 * mean_hue))
        + 0.32 * np.cos(np.radians(3 * mean_hue + 6))
        - 0.20 * np.cos(np.radians(4 * mean_hue - 63))
    )
    of_light = 1 + 0.015 * (mean_light - 50) ** 2 / np.sqrt(20 + (mean_light - 50) ** 2)
    of_chroma = 1 + 0.045 * mean_chroma
    of_hue = 1 + 0.015 * mean_chroma * shape
    rotation = 30 * np.exp(-(((mean_hue - 275) / 25) ** 2))
    crossing = (
        -2 * np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7)) * np.sin(np.radians(2 * rotation))
    )
    return np.asarray(
        np.sqrt(
            (lightness / of_light) ** 2
            + (chroma / of_chroma) ** 2
            + (hue / of_hue) ** 2
            + crossing * (chroma / of_chroma) * (hue / of_hue)
        )
    )


def tint_name(shift: NDArray[np.float64]) -> str:
    """Name a shift in L*, a* and b* by the largest of them."""
    light, red, yellow = (float(value) for value in shift)
    if abs(light) >= max(abs(red), abs(yellow)):
        return "lighter" if light > 0 else "darker"
    if abs(yellow) >= abs(red):
        return "warmer" if yellow > 0 else "cooler"
    return "redder" if red > 0 else "greener"
