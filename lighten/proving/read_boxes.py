"""Reading of treated pictures in their boxes: text, scores and words at the copy's pixels."""

from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from lighten.contract import PagedReading
from lighten.model.errors import UnreadableFileError
from lighten.model.proofs import Box
from lighten.pictures.pixels.filters import level
from lighten.pictures.pixels.planes import luma
from lighten.pictures.pixels.sizes import SCREEN_PPI, pixels_at
from lighten.pictures.words.legibility import ENOUGH_PPI, READ_PPI, light_at
from lighten.proving.page_regions import (
    POINTS_PER_INCH,
)
from lighten.proving.pictures import are_same_shape, at_size
from lighten.proving.read_picture import PictureRead, Place, read_picture, unreadable_words
from lighten.proving.treated import Intent, score_of
from lighten.proving.treated_boxes import TreatedBox

__all__ = ["cut_score", "read_box"]

# How much finer than a screen pictures that were cut are drawn, to be scored; none with more pixels
# on the screen, as memory is limited.
_DRAWN_FINER, _MOST_DRAWN_FINER_PX = 3, 4_000_000


def read_box(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> PictureRead:
    """Read text in the picture, at the pixels of the copy."""
    if treated.read_px is None:
        return PictureRead()
    width_pt, height_pt = original.page_sizes[page - 1]
    left, low, right, high = treated.visible_box if treated.is_cut else treated.box
    box = (max(0.0, left), max(0.0, low), min(width_pt, right), min(height_pt, high))
    share = treated.read_px[0] / (right - left), treated.read_px[1] / (high - low)
    try:
        stored = _stored(original, copy, page, treated)
        is_drawn = stored is None
        if stored is None:
            size = (round((box[2] - box[0]) * share[0]), round((box[3] - box[1]) * share[1]))
            if min(size) < 1:
                return PictureRead()
            before = level(original.render_region_at_size(page, box, size), treated.turned_degrees)
            pixels = before, copy.render_region_at_size(page, box, size)
        else:
            box = treated.box
            pixels = stored[0], at_size(stored[1], treated.read_px)
        finest = _at_reading_size(original, page, treated, box, stored)
    except UnreadableFileError:
        return PictureRead(faults=(f"{treated.name} cannot be drawn",))

    def to_points(place: Place) -> tuple[Box, float]:
        sides = (
            box[0] + place[0] / share[0],
            box[3] - place[3] / share[1],
            box[0] + place[2] / share[0],
            box[3] - place[1] / share[1],
        )
        in_points: Box = tuple(round(side, 1) for side in sides)  # type: ignore[assignment] # four
        return in_points, height_pt - in_points[3]

    read = read_picture(
        *pixels,
        name=treated.name,
        ppi=share[0] * POINTS_PER_INCH,
        intent=treated.intent,
        to_points=to_points,
        is_drawn=is_drawn,
        is_layered=treated.is_layered,
    )
    if finest is None:
        return read
    unreadable, places = unreadable_words(
        finest,
        stored[1] if stored is not None else pixels[1],
        name=treated.name,
        to_points=partial(_to_points, box, finest.shape[1], height_pt),
    )
    return replace(
        read,
        faults=(*read.faults, *filter(None, (unreadable,))),
        places=(*read.places, *places),
        unreadable=unreadable,
    )


def cut_score(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> float | None:
    """Score a cut picture at the resolution of a screen; None for others, tiny and huge ones.

    Its pixels lie a fraction beside where they lay, and a reader that draws few pixels takes others
    of them: both are drawn finely and brought to the screen's pixels by their means.
    """
    from PIL import Image

    if not treated.is_cut or treated.intent is not Intent.SAME_LOOKS:
        return None
    width_pt, height_pt = original.page_sizes[page - 1]
    left, low, right, high = treated.visible_box
    box = (max(0.0, left), max(0.0, low), min(width_pt, right), min(height_pt, high))
    if box[0] >= box[2] or box[1] >= box[3]:
        return None
    width, height = pixels_at((box[2] - box[0], box[3] - box[1]), SCREEN_PPI)
    if width * height > _MOST_DRAWN_FINER_PX:
        return None
    size = width * _DRAWN_FINER, height * _DRAWN_FINER
    try:
        drawn = (
            original.render_region_at_size(page, box, size),
            copy.render_region_at_size(page, box, size),
        )
    except UnreadableFileError:
        return None
    one, other = (np.asarray(Image.fromarray(pixels).reduce(_DRAWN_FINER)) for pixels in drawn)
    return score_of(one, other, is_cut=True)


def _to_points(box: Box, across_px: int, height_pt: float, place: Place) -> tuple[Box, float]:
    """A place of a picture `across_px` wide in its box, and how far below the upper edge it is."""
    share = (box[2] - box[0]) / across_px
    left, top, right, low = (side * share for side in place)
    sides = (box[0] + left, box[3] - low, box[0] + right, box[3] - top)
    in_points: Box = tuple(round(side, 1) for side in sides)  # type: ignore[assignment] # four
    return in_points, height_pt - in_points[3]


def _at_reading_size(
    original: PagedReading,
    page: int,
    treated: TreatedBox,
    box: Box,
    stored: tuple[NDArray[np.uint8], NDArray[np.uint8]] | None,
) -> NDArray[np.float32] | None:
    """Return the original's light at reading resolution; None where words need not be read.

    stored: both as they are stored; None where they have to be drawn.
    """
    ppi = treated.ppi
    if treated.intent not in (Intent.SAME_LOOKS, Intent.GREY) or ppi is None or ppi >= ENOUGH_PPI:
        return None
    sides_pt = box[2] - box[0], box[3] - box[1]
    finest = pixels_at(sides_pt, READ_PPI)
    if stored is not None:
        return light_at(stored[0], finest)
    # No finer than the original is.
    own_ppi = POINTS_PER_INCH * treated.original_px[0] / (treated.box[2] - treated.box[0])
    size = pixels_at(sides_pt, min(READ_PPI, max(ppi, own_ppi)))
    return luma(level(original.render_region_at_size(page, box, size), treated.turned_degrees))


def _stored(
    original: PagedReading, copy: PagedReading, page: int, treated: TreatedBox
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]] | None:
    """Return both embedded pictures; None where they must be rendered."""
    if treated.turned_degrees:
        return None
    after = copy.embedded_image(page, treated.box)
    before = original.embedded_image(page, treated.box) if after is not None else None
    if before is None or after is None or not are_same_shape(before, after):
        return None
    if np.array_equal(before, after):
        return before, after
    if not treated.is_plain or treated.read_px is None:
        return None
    return before, after
