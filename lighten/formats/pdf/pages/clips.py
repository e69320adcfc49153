"""Clipping of pictures: the share of a unit square that stays visible."""

import pikepdf
from pikepdf import Matrix

from lighten.formats.pdf.objects.values import numbers_of

__all__ = [
    "Clip",
    "Share",
    "clipped_box",
    "joined_share",
    "narrowed_clip",
    "number_of",
    "rectangle_of",
    "visible_share",
]

Clip = tuple[float, float, float, float] | None
Share = tuple[float, float, float, float]
_WHOLE: Share = (0.0, 0.0, 1.0, 1.0)


def number_of(operand: object) -> float | None:
    try:
        return float(operand)  # type: ignore[arg-type] # decimals and numbers
    except (TypeError, ValueError):
        return None


def clipped_box(box: Share, clip: Clip, origin: tuple[float, float]) -> Share | None:
    """Return what `clip` leaves of a box, from the page's lower left; None for all or nothing."""
    if clip is None:
        return None
    left, low = max(box[0], clip[0]), max(box[1], clip[1])
    right, high = min(box[2], clip[2]), min(box[3], clip[3])
    if (left, low, right, high) == box or left >= right or low >= high:
        return None
    return left - origin[0], low - origin[1], right - origin[0], high - origin[1]


def narrowed_clip(clip: Clip, rectangle: Matrix, current: Matrix) -> Clip:
    """The clip with a rectangle (as the matrix of the unit square); turned ones change nothing."""
    a, b, c, d, e, f = (rectangle @ current).shorthand
    if (b or c) and (a or d):
        return clip
    across, upward = sorted((e, e + a + c)), sorted((f, f + b + d))
    if clip is None:
        return across[0], upward[0], across[1], upward[1]
    return (
        max(clip[0], across[0]),
        max(clip[1], upward[0]),
        min(clip[2], across[1]),
        min(clip[3], upward[1]),
    )


def visible_share(matrix: Matrix, clip: Clip) -> Share:
    """Return the part of a picture drawn by `matrix` that `clip` leaves; all where that is not
    plain.
    """
    a, b, c, d, e, f = matrix.shorthand
    if clip is None or ((b or c) and (a or d)):
        return _WHOLE
    left, low, right, high = clip
    if a and d:
        across, upward = ((left - e) / a, (right - e) / a), ((low - f) / d, (high - f) / d)
    elif b and c:
        across, upward = ((low - f) / b, (high - f) / b), ((left - e) / c, (right - e) / c)
    else:
        return _WHOLE
    start, end = max(0.0, min(across)), min(1.0, max(across))
    bottom, top = max(0.0, min(upward)), min(1.0, max(upward))
    if start >= end or bottom >= top:
        return _WHOLE
    return start, 1 - top, end, 1 - bottom


def joined_share(first: Share, other: Share) -> Share:
    return (
        min(first[0], other[0]),
        min(first[1], other[1]),
        max(first[2], other[2]),
        max(first[3], other[3]),
    )


def rectangle_of(value: pikepdf.Object) -> list[float]:
    sides = numbers_of(value)
    if len(sides) != 4:
        raise ValueError("no rectangle")
    return sides
