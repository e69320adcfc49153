"""Blending of a layer's colours with those below it, and compositing of both (W3C Compositing 1).

Source: W3C Compositing and Blending Level 1, clauses 9 and 10; OpenRaster 0.0.5 names them. All
colours are sRGB samples, 0 to 1, as the standards have it for these files.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

__all__ = ["OPERATIONS", "clears_outside", "composite"]

Plane = NDArray[np.float32]
# Of the colours below and of the layer, (..., 3), neither multiplied by its opacity.
Blend = Callable[[Plane, Plane], Plane]

_LUMA = np.array([0.3, 0.59, 0.11], np.float32)
_TINY = np.float32(1e-6)


def _hard_light(below: Plane, own: Plane) -> Plane:
    return np.where(own <= 0.5, below * 2 * own, below + (2 * own - 1) - below * (2 * own - 1))


def _soft_light(below: Plane, own: Plane) -> Plane:
    root = np.where(below <= 0.25, ((16 * below - 12) * below + 4) * below, np.sqrt(below))
    darker = below - (1 - 2 * own) * below * (1 - below)
    return np.where(own <= 0.5, darker, below + (2 * own - 1) * (root - below))


def _color_dodge(below: Plane, own: Plane) -> Plane:
    lighter = np.minimum(1, below / np.maximum(1 - own, _TINY))
    return np.where(below <= 0, 0, np.where(own >= 1, 1, lighter))


def _color_burn(below: Plane, own: Plane) -> Plane:
    darker = 1 - np.minimum(1, (1 - below) / np.maximum(own, _TINY))
    return np.where(below >= 1, 1, np.where(own <= 0, 0, darker))


def _luminosity_of(colour: Plane) -> Plane:
    light: Plane = (colour @ _LUMA)[..., None]
    return light


def _clipped(colour: Plane) -> Plane:
    light = _luminosity_of(colour)
    low, high = colour.min(-1, keepdims=True), colour.max(-1, keepdims=True)
    raised = light + (colour - light) * light / np.maximum(light - low, _TINY)
    colour = np.where(low < 0, raised, colour)
    lowered = light + (colour - light) * (1 - light) / np.maximum(high - light, _TINY)
    return np.where(high > 1, lowered, colour)


def _with_luminosity(colour: Plane, light: Plane) -> Plane:
    return _clipped(colour + (light - _luminosity_of(colour)))


def _saturation_of(colour: Plane) -> Plane:
    return np.asarray(colour.max(-1, keepdims=True) - colour.min(-1, keepdims=True), np.float32)


def _with_saturation(colour: Plane, saturation: Plane) -> Plane:
    low = colour.min(-1, keepdims=True)
    spread = (colour - low) * saturation / np.maximum(_saturation_of(colour), _TINY)
    return np.asarray(spread, np.float32)


# "svg:src-over" mixes no colours.
_BLENDS: dict[str, Blend] = {
    "svg:multiply": lambda below, own: below * own,
    "svg:screen": lambda below, own: below + own - below * own,
    "svg:overlay": lambda below, own: _hard_light(own, below),
    "svg:darken": np.minimum,
    "svg:lighten": np.maximum,
    "svg:color-dodge": _color_dodge,
    "svg:color-burn": _color_burn,
    "svg:hard-light": _hard_light,
    "svg:soft-light": _soft_light,
    "svg:difference": lambda below, own: np.abs(below - own),
    "svg:color": lambda below, own: _with_luminosity(own, _luminosity_of(below)),
    "svg:luminosity": lambda below, own: _with_luminosity(below, _luminosity_of(own)),
    "svg:hue": lambda below, own: _with_luminosity(
        _with_saturation(own, _saturation_of(below)), _luminosity_of(below)
    ),
    "svg:saturation": lambda below, own: _with_luminosity(
        _with_saturation(below, _saturation_of(own)), _luminosity_of(below)
    ),
}
# Of the layer and of what is below, by the opacities of both (Porter and Duff).
_SHARES: dict[str, Callable[[Plane, Plane], tuple[Plane | float, Plane | float]]] = {
    "svg:dst-in": lambda _below, own: (0.0, own),
    "svg:dst-out": lambda _below, own: (0.0, 1 - own),
    "svg:src-atop": lambda below, own: (below, 1 - own),
    "svg:dst-atop": lambda below, own: (1 - below, own),
}
_PLUS = "svg:plus"
OPERATIONS = frozenset({"svg:src-over", *_BLENDS, *_SHARES, _PLUS})


def clears_outside(operation: str) -> bool:
    """Return whether the operation erases what lies below outside of the layer."""
    return operation in ("svg:dst-in", "svg:dst-atop")


def composite(operation: str, below: Plane, colour: Plane, opacity: Plane) -> Plane:
    """Composite the layer and what is below it.

    below: (rows, columns, 4), colours multiplied by opacity. colour: (rows, columns, 3) of the
    layer, not multiplied; opacity: (rows, columns, 1). Operations that nobody knows count as
    "svg:src-over", as the format asks. Returns as `below`.
    """
    below_opacity = below[..., 3:]
    if operation == _PLUS:
        own = np.concatenate([colour * opacity, opacity], axis=-1)
        return np.asarray(np.minimum(1, below + own), np.float32)
    if operation in _SHARES:
        own_share, below_share = _SHARES[operation](below_opacity, opacity)
        own = np.concatenate([colour * opacity, opacity], axis=-1)
        return np.asarray(own * own_share + below * below_share, np.float32)
    if operation in _BLENDS:
        plain = below[..., :3] / np.maximum(below_opacity, _TINY)
        mixed = _BLENDS[operation](np.minimum(plain, 1), colour)
        colour = (1 - below_opacity) * colour + below_opacity * mixed
    left = 1 - opacity
    return np.concatenate(
        [colour * opacity + below[..., :3] * left, opacity + below_opacity * left], axis=-1
    )
