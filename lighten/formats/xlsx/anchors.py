"""Sizes of pictures whose frames declare only the cells that they cover.

Source: ECMA-376 part 1, 20.5.2.33 (anchors at two cells). Columns are as wide as the workbook's
usual font makes them, so that the size is taken generously.
"""

from typing import Any

from lighten.containers.opc.drawings import Reference
from lighten.containers.xml_parts import local_name

__all__ = ["anchored_size"]

_EMU_PER_POINT = 12_700
_COLUMN_PT, _ROW_PT = 48.0, 15.0  # 64 pixels at 96 dpi; 15 points (common practice, no source)
_MARGIN = 1.3


def anchored_size(reference: Reference) -> tuple[float, float] | None:
    """Return the size of the whole picture, in points; None where no cells are declared."""
    anchor = next(
        (
            above
            for above in reference.element.iterancestors()
            if local_name(above) in ("twoCellAnchor", "oneCellAnchor")
        ),
        None,
    )
    size = _size_of(anchor) if anchor is not None else None
    left, top, right, bottom = reference.crop
    if size is None or left + right >= 1 or top + bottom >= 1:
        return None
    return size[0] / (1 - left - right), size[1] / (1 - top - bottom)


def _size_of(anchor: Any) -> tuple[float, float] | None:
    try:
        extent = anchor.find("{*}ext")
        if extent is not None:
            width, height = (float(extent.get(side)) / _EMU_PER_POINT for side in ("cx", "cy"))
        else:
            width, height = (
                (_place(anchor, "to", side) - _place(anchor, "from", side)) * _MARGIN
                for side in ("col", "row")
            )
    except (AttributeError, TypeError, ValueError):
        return None
    return (width, height) if width > 0 and height > 0 else None


def _place(anchor: Any, end: str, side: str) -> float:
    """Return the position of an end of the frame, in points from the sheet's edge."""
    index, offset = (
        float(anchor.find(f"{{*}}{end}/{{*}}{name}").text) for name in (side, f"{side}Off")
    )
    return index * (_COLUMN_PT if side == "col" else _ROW_PT) + offset / _EMU_PER_POINT
