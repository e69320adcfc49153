"""A page scan coded in layers, where its treatment asks for that and it can be."""

import numpy as np
from numpy.typing import NDArray

from lighten.model.kinds import PictureClass
from lighten.model.treatments import READABLE_TEXT_PPI, ColourChange
from lighten.pictures.coding.decode import decode
from lighten.pictures.coding.layered import LayeredPicture
from lighten.pictures.pixels.classify import is_without_colour
from lighten.pictures.pixels.colours import to_grey
from lighten.pictures.pixels.filters import apply_filters
from lighten.pictures.pixels.sizes import SCREEN_PPI
from lighten.pictures.recoding.recode_job import RecodeJob
from lighten.pictures.scans.split_page import PictureFineness, split_page

__all__ = ["code_layers"]

_DEFAULT_QUALITY = 80


def code_layers(job: RecodeJob) -> LayeredPicture | None:
    """Return the page in layers: paper, strokes with their colours, and kept pictures."""
    if job.shown_px is None or not _can_be_layers(job):
        return None
    pixels = _in_asked_colours(decode(job.picture), job)
    if pixels.ndim == 3 and pixels.shape[2] != 3:
        return None
    pixels = apply_filters(pixels, job.treatment.filters, skew=job.skew)
    fineness = PictureFineness(
        ppi=max(READABLE_TEXT_PPI, job.treatment.finest_ppi or 0.0),
        quality=job.treatment.quality or _DEFAULT_QUALITY,
    )
    ppi = pixels.shape[1] / job.shown_px[0] * SCREEN_PPI
    return split_page(pixels, ppi, fineness, may_be_jbig2=job.may_be_jbig2)


def _can_be_layers(job: RecodeJob) -> bool:
    """Return whether a page may become layers: opaque grey or RGB, whole, with no other look
    asked.
    """
    picture = job.picture
    is_plain = picture.colours in (1, 3) and picture.bits <= 8
    has_more = (
        picture.is_foreign
        or picture.is_stretched
        or picture.is_mask
        or picture.has_opacity
        or picture.colour_key is not None
        or job.mask is not None
        or job.cut is not None
        or job.replacement is not None
    )
    is_page = job.may_be_layers and job.picture_class is PictureClass.PAGE_SCAN
    return (
        is_page
        and is_plain
        and not has_more
        and job.treatment.colour in (ColourChange.KEEP, ColourChange.GREY)
    )


def _in_asked_colours(pixels: NDArray[np.uint8], job: RecodeJob) -> NDArray[np.uint8]:
    """Convert to grey where that was asked for, or where no colour is."""
    if pixels.ndim == 2:
        return pixels
    if job.treatment.colour is ColourChange.GREY:
        return to_grey(pixels)
    if not job.picture.has_own_colours and is_without_colour(pixels):
        return np.ascontiguousarray(pixels[..., 0])
    return pixels
