"""Filters: pure functions on pixels. Grey or sRGB, uint8 in and out, the same size."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from lighten.model.treatments import Filter, FilterKind

__all__ = ["LEAST_SKEW_DEGREES", "apply_filters", "level", "skew_degrees"]

Pixels = NDArray[np.uint8]

_SHARPEN_RADIUS_PX = 1.0
_SHARPEN_PERCENT = 200
_SHARPEN_FROM = 2
_PAPER_FROM = 128
# How far below the paper's own tone counts as paper still, at full strength.
_PAPER_REACH = 0.16
_SPECK_STEP = 60
_GAMMA_RANGE = 0.6
_MOST_SKEW_DEGREES = 5.0
_SKEW_STEPS = (0.5, 0.1, 0.02)
_SKEW_SIDE_PX = 900
LEAST_SKEW_DEGREES = 0.05


def apply_filters(
    pixels: Pixels, filters: tuple[Filter, ...], *, skew: float | None = None
) -> Pixels:
    """The filters one after the other.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8. skew: see `skew_degrees`, where
    it is known already.
    """
    for picture_filter in filters:
        if picture_filter.kind is FilterKind.STRAIGHTEN:
            pixels = level(pixels, skew_degrees(pixels) if skew is None else skew)
        else:
            pixels = _WORK[picture_filter.kind](pixels, picture_filter.strength)
    return pixels


def _sharpen(pixels: Pixels, strength: float) -> Pixels:
    """An unsharp mask of one pixel's radius; strength 1 doubles differences and more."""
    from PIL import Image, ImageFilter

    mask = ImageFilter.UnsharpMask(
        _SHARPEN_RADIUS_PX, percent=round(strength * _SHARPEN_PERCENT), threshold=_SHARPEN_FROM
    )
    return np.asarray(Image.fromarray(pixels).filter(mask))


def _whiten_paper(pixels: Pixels, strength: float) -> Pixels:
    """Stretch each channel so that the paper's tone becomes 255."""
    table = [_whitening(channel, strength) for channel in _channels(pixels)]
    whitened = [tones[channel] for tones, channel in zip(table, _channels(pixels), strict=True)]
    return whitened[0] if pixels.ndim == 2 else np.stack(whitened, axis=2)


def _whitening(channel: Pixels, strength: float) -> Pixels:
    """A table of 256 values."""
    counts = np.bincount(channel.ravel(), minlength=256)
    paper = _PAPER_FROM + int(counts[_PAPER_FROM:].argmax())
    white = max(1.0, paper * (1 - _PAPER_REACH * strength))
    return np.minimum(255, np.arange(256) * 255 / white).round().astype(np.uint8)


def _remove_specks(pixels: Pixels, strength: float) -> Pixels:
    """Remove specks: outliers from the median around them, at most two pixels wide.

    Strokes stay: they are the median of what lies along them.
    """
    from PIL import Image, ImageFilter

    size = 5 if strength > 0.5 else 3
    median = np.asarray(Image.fromarray(pixels).filter(ImageFilter.MedianFilter(size)))
    step = _SPECK_STEP * (1.5 - strength)
    off = np.abs(pixels.astype(np.int16) - median) > step
    speck = off if pixels.ndim == 2 else off.any(axis=2)
    alone = speck & ~_has_long_neighbours(speck, size)
    return np.where(alone if pixels.ndim == 2 else alone[..., None], median, pixels)


def _has_long_neighbours(marked: NDArray[np.bool_], size: int) -> NDArray[np.bool_]:
    """Return marked pixels with enough marked neighbours to be part of a stroke."""
    reach = size // 2 + 1
    padded = np.pad(marked.astype(np.int32), reach)
    sums = np.pad(padded.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    side = 2 * reach + 1
    rows = sums[side:] - sums[:-side]
    around = rows[:, side:] - rows[:, :-side]
    return np.asarray(around > (size - 1) ** 2)


def level(pixels: Pixels, degrees: float, about: tuple[float, float] | None = None) -> Pixels:
    """Rotate clockwise; uncovered edges get the commonest tone, the paper's.

    about: the point that stays, in pixels from the upper left; the middle if it is None.
    """
    from PIL import Image

    if abs(degrees) < LEAST_SKEW_DEGREES:
        return pixels
    edge = [int(np.median(channel)) for channel in _channels(pixels)]
    turned = Image.fromarray(pixels).rotate(
        -degrees,
        resample=Image.Resampling.BICUBIC,
        center=about,
        fillcolor=edge[0] if pixels.ndim == 2 else tuple(edge),
    )
    return np.asarray(turned)


def skew_degrees(pixels: Pixels) -> float:
    """Return the rise of lines of text to the right, in degrees; 0 where none are found.

    The angle at which sums along lines differ most (common practice, no source).
    """
    from PIL import Image

    image = Image.fromarray(pixels).convert("L")
    image.thumbnail((_SKEW_SIDE_PX, _SKEW_SIDE_PX))
    grey = np.asarray(image)
    dark = np.where(grey < max(1, int(np.median(grey)) - 50), 255, 0).astype(np.uint8)
    if not 0.001 < (dark > 0).mean() < 0.5:
        return 0.0
    ink, best, reach = Image.fromarray(dark), 0.0, _MOST_SKEW_DEGREES
    for step in _SKEW_STEPS:
        angles = np.arange(best - reach, best + reach + step / 2, step)
        best = float(max(angles, key=lambda angle: _levelness(ink, angle)))
        reach = step
    is_clear = _levelness(ink, best) > 1.05 * _levelness(ink, best + 2 * _SKEW_STEPS[0])
    return best if is_clear and abs(best) < _MOST_SKEW_DEGREES else 0.0


def _levelness(ink: object, degrees: float) -> float:
    """Return the variation of sums along lines once the picture is turned back by that angle."""
    from PIL import Image

    assert isinstance(ink, Image.Image)
    turned = np.asarray(ink.rotate(-degrees, resample=Image.Resampling.BILINEAR), np.float64)
    return float(np.square(np.diff(turned.sum(axis=1))).sum())


def _brighten(pixels: Pixels, strength: float) -> Pixels:
    return _by_gamma(pixels, 1 - _GAMMA_RANGE * strength)


def _darken(pixels: Pixels, strength: float) -> Pixels:
    return _by_gamma(pixels, 1 / (1 - _GAMMA_RANGE * strength))


def _by_gamma(pixels: Pixels, exponent: float) -> Pixels:
    """Move the middle tones; black and white stay."""
    table = (255 * (np.arange(256) / 255) ** exponent).round().astype(np.uint8)
    return np.asarray(table[pixels])


def _contrast(pixels: Pixels, strength: float) -> Pixels:
    """Increase differences from the middle grey, up to twofold."""
    table = np.clip(128 + (np.arange(256) - 128.0) * (1 + strength), 0, 255)
    return np.asarray(table.round().astype(np.uint8)[pixels])


def _channels(pixels: Pixels) -> list[Pixels]:
    if pixels.ndim == 2:
        return [pixels]
    return [pixels[..., channel] for channel in range(pixels.shape[2])]


_WORK: dict[FilterKind, Callable[[Pixels, float], Pixels]] = {
    FilterKind.SHARPEN: _sharpen,
    FilterKind.WHITEN_PAPER: _whiten_paper,
    FilterKind.REMOVE_SPECKS: _remove_specks,
    FilterKind.BRIGHTEN: _brighten,
    FilterKind.DARKEN: _darken,
    FilterKind.CONTRAST: _contrast,
}
