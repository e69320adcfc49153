"""Sizes of pages, and the position of the picture on them."""

from dataclasses import dataclass
from enum import StrEnum

__all__ = ["PageSize", "Placed", "placed_on", "sheet_pt"]

_POINTS_PER_MM = 72 / 25.4
# ISO 216 and ANSI/ASME Y14.1, upright.
_PAPER_PT = {"a4": (210 * _POINTS_PER_MM, 297 * _POINTS_PER_MM), "letter": (612.0, 792.0)}
# What printers keep free at any side (common practice, no source).
_MARGIN_PT = 10 * _POINTS_PER_MM
# Small pictures are not blown up further than that.
_FEWEST_PPI = 100.0
_POINTS_PER_INCH = 72.0
# Of its shape: pixels are whole.
_LIKE_A_SHEET = 0.004


class PageSize(StrEnum):
    """Rule for the size of a page: that of the picture, of the scanned area, or of paper."""

    OWN = "own"
    SCANNED = "scanned"
    A4 = "a4"
    LETTER = "letter"


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """page_pt: width and height. box_pt: left, low, right and high of the picture on it."""

    page_pt: tuple[float, float]
    box_pt: tuple[float, float, float, float]


def sheet_pt(size_px: tuple[int, int]) -> tuple[float, float] | None:
    """Return the paper size with the aspect ratio of a whole scanned sheet, in points, if any."""
    across, down = size_px
    for short, long in _PAPER_PT.values():
        if abs(max(size_px) / min(size_px) / (long / short) - 1) < _LIKE_A_SHEET:
            return (long, short) if across > down else (short, long)
    return None


def placed_on(page: PageSize, own_pt: tuple[float, float], size_px: tuple[int, int]) -> Placed:
    """Centre a picture on its page within margins; the paper is turned to fit.

    own_pt, size_px: of the picture, the right way up; own_pt as it is to be shown.
    """
    if page in (PageSize.OWN, PageSize.SCANNED):
        width, height = own_pt
        return Placed(page_pt=own_pt, box_pt=(0.0, 0.0, width, height))
    short, long = _PAPER_PT[page]
    across, down = (long, short) if size_px[0] > size_px[1] else (short, long)
    scale = min(
        (across - 2 * _MARGIN_PT) / size_px[0],
        (down - 2 * _MARGIN_PT) / size_px[1],
        _POINTS_PER_INCH / _FEWEST_PPI,
    )
    width, height = size_px[0] * scale, size_px[1] * scale
    left, low = (across - width) / 2, (down - height) / 2
    return Placed(page_pt=(across, down), box_pt=(left, low, left + width, low + height))
