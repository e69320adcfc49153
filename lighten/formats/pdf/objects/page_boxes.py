"""Page sizes (ISO 32000-1, 14.11.2), also where a file declares them wrongly."""

import pikepdf

from lighten.formats.pdf.objects.values import numbers_of

__all__ = ["PageBox", "crop_box", "media_box", "user_unit"]

# Left, low, right, high, in units of the page.
PageBox = tuple[float, float, float, float]
# What readers take where a page does not say: US Letter.
_UNTOLD = (0.0, 0.0, 612.0, 792.0)


def media_box(page: pikepdf.Page) -> PageBox:
    return _box(page.mediabox) or _UNTOLD


def crop_box(page: pikepdf.Page) -> PageBox:
    return _box(page.cropbox) or media_box(page)


def user_unit(page: pikepdf.Page) -> float:
    """Return the points in a unit of the page (ISO 32000-1, table 30)."""
    numbers = numbers_of(pikepdf.Array([page.obj.get("/UserUnit", 1)]))
    return numbers[0] if numbers and numbers[0] > 0 else 1.0


def _box(box: pikepdf.Object) -> PageBox | None:
    """Return a rectangle; None if it is malformed or empty."""
    sides = numbers_of(box)
    if len(sides) != 4:
        return None
    (left, right), (low, high) = sorted(sides[::2]), sorted(sides[1::2])
    return (left, low, right, high) if left < right and low < high else None
