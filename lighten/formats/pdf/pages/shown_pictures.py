"""The pictures of a page as pdfium finds them, in forms as well."""

from collections.abc import Iterator
from typing import Any

from lighten.model.proofs import Box

__all__ = ["shown_pictures"]

_DEEPEST = 12
# What rounding makes of an upright matrix.
_LEAN = 1e-3


def shown_pictures(page: Any) -> Iterator[tuple[Box, Any]]:
    """Return each upright picture of a pypdfium2 page with its box, in points from the lower left.

    Of pages that are turned, none.
    """
    import pypdfium2.raw as pdfium

    if page.get_rotation():
        return
    left, low = page.get_bbox()[:2]
    for picture in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE], max_depth=_DEEPEST):
        matrix = picture.get_matrix()
        container = picture.container
        while container is not None:
            matrix = matrix.multiply(container.get_matrix())
            container = container.container
        across, over, up, height, x, y = matrix.get()
        if abs(over) + abs(up) < _LEAN * (abs(across) + abs(height)) and across > 0 < height:
            yield (x - left, y - low, x + across - left, y + height - low), picture
