"""Number of pixels that a picture needs for its shown size."""

import math

from lighten.model.weights import PictureFacts

__all__ = ["SCREEN_PPI", "pixels_at", "screen_px", "target_size", "upscaled_to"]

_POINTS_PER_INCH = 72.0
# As a screen shows a document.
SCREEN_PPI = 100.0
# Resampling softens a little, so it must be worth it: a tenth more than asked is left alone.
_WORTH_RESAMPLING = 1.1


def target_size(
    shown_pt: tuple[float, float], stored_px: tuple[int, int], finest_ppi: float
) -> tuple[int, int] | None:
    """Return the fewest pixels that show `stored_px` at `finest_ppi`; None if it has no more.

    Never more than `stored_px` on either side, never less than 1 x 1.
    Units: `shown_pt` in points of 1/72 inch. Raises: ValueError if `finest_ppi` is not above zero.
    Source: ISO 32000-2, 8.3.2.3 (default user space).
    """
    if finest_ppi <= 0:
        raise ValueError("finest_ppi is above zero")
    sides = [
        min(stored, max(1, math.ceil(points / _POINTS_PER_INCH * finest_ppi - 1e-6)))
        for points, stored in zip(shown_pt, stored_px, strict=True)
    ]
    ratios = [stored / needed for stored, needed in zip(stored_px, sides, strict=True)]
    if max(ratios) < _WORTH_RESAMPLING:
        return None
    return sides[0], sides[1]


def upscaled_to(
    size_px: tuple[int, int], longest_px: int, most_px: tuple[int, int]
) -> tuple[int, int]:
    """Return `size_px` with its longer side scaled to `longest_px`, neither beyond `most_px`."""
    share = longest_px / max(size_px)
    width, height = (
        min(most, max(1, round(side * share))) for side, most in zip(size_px, most_px, strict=True)
    )
    return width, height


def pixels_at(shown_pt: tuple[float, float], ppi: float) -> tuple[int, int]:
    """Return the whole pixels, at least one each way, that `shown_pt` (in 1/72 inch) takes at
    `ppi`.
    """
    width_pt, height_pt = shown_pt
    scale = ppi / _POINTS_PER_INCH
    return max(1, round(width_pt * scale)), max(1, round(height_pt * scale))


def screen_px(facts: PictureFacts) -> tuple[int, int] | None:
    """Return the size on a screen where it is largest; None if it is not shown."""
    shown = facts.largest_display_pt
    return None if shown is None else pixels_at(shown, SCREEN_PPI)
