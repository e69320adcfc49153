"""Scans that are straightened, on pages that hold more than them."""

import pikepdf

from lighten.formats.pdf.objects.page_boxes import media_box
from lighten.formats.pdf.pages.turn_page import turn_page
from lighten.model.kinds import PictureClass
from lighten.model.weights import Part, Placement

__all__ = ["can_turn", "turn_along"]


def turn_along(pdf: pikepdf.Pdf, part: Part, degrees: float) -> None:
    """Turn text and links of the scan's page with the straightened scan."""
    place = _only_place(part)
    assert place is not None and place.box is not None and place.page is not None
    page = pdf.pages[place.page - 1]
    left, low, right, high = place.box
    origin = media_box(page)
    middle = (left + right) / 2 + origin[0], (low + high) / 2 + origin[1]
    turn_page(pdf, page, middle, degrees)


def can_turn(part: Part) -> bool:
    """Return whether text and links of the page can be turned with its scan."""
    return _only_place(part) is not None


def _only_place(part: Part) -> Placement | None:
    """Return the placement of a page scan that is shown once, on a page of its own."""
    facts = part.picture
    if facts is None or facts.picture_class is not PictureClass.PAGE_SCAN:
        return None
    place = facts.placements[0] if len(facts.placements) == 1 else None
    return place if place is not None and place.box and place.page else None
