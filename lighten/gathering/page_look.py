"""What a page is that has just come: how large, how fine, and whether anything is on it."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.errors import UnreadableFileError
from lighten.gathering.loose_pictures import LoosePicture, loose_pictures
from lighten.pictures.decode import UNREADABLE, decode_on_white
from lighten.pictures.planes import luma
from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light
from lighten.pictures.scans.paper import paper_light
from lighten.pictures.upright import upright
from lighten.source import Source

__all__ = ["PageLook", "is_blank", "look_at_page"]

_POINTS_PER_INCH, _MM_PER_INCH = 72.0, 25.4
_LOOKED_AT_PPI, _THUMBNAIL_PX = 100.0, 420
# Edges of the paper, staples and holes lie there.
_MARGIN_MM = 8.0
# As much as some dust; a line of text on A4 has ten times that.
_MOST_DUST = 0.00025

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageLook:
    """ppi: along its width, at the size the picture says it has."""

    width_px: int
    height_px: int
    ppi: float
    is_blank: bool


def look_at_page(source: Source, thumbnail: Path) -> PageLook:
    """A picture of a page, with a small PNG of it, the right way up, at `thumbnail`.

    Raises: UnreadableFileError, LimitExceededError.
    """
    from PIL import Image

    picture = _only_picture(source)
    try:
        pixels = decode_on_white(picture.stored)
    except UNREADABLE as error:
        raise UnreadableFileError(f"{source.name}: its pixels cannot be read.") from error
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        raise UnreadableFileError(f"{source.name}: has four inks, as no scan of a page has.")
    height, width = pixels.shape[:2]
    ppi = width / picture.scanned_pt[0] * _POINTS_PER_INCH
    image = Image.fromarray(np.ascontiguousarray(pixels))
    share = min(1.0, _LOOKED_AT_PPI / ppi)
    seen = image.resize((max(1, round(width * share)), max(1, round(height * share))))
    small = seen.copy()
    small.thumbnail((_THUMBNAIL_PX, _THUMBNAIL_PX))
    Image.fromarray(upright(np.asarray(small), picture.orientation)).save(thumbnail, "PNG")
    return PageLook(
        width_px=width,
        height_px=height,
        ppi=round(ppi, 1),
        is_blank=is_blank(np.asarray(seen), ppi * share),
    )


def _only_picture(source: Source) -> LoosePicture:
    pictures = list(loose_pictures(source))
    if len(pictures) > 1:
        raise UnreadableFileError(
            f"{source.name}: holds {len(pictures)} pages. Put it into a satchel: there it is a "
            "document, and its pages can be gathered with others."
        )
    return pictures[0]


def is_blank(pixels: Pixels, ppi: float) -> bool:
    """Nothing but paper, shade and some dust is on it. pixels: grey or sRGB, uint8."""
    margin = round(_MARGIN_MM / _MM_PER_INCH * ppi)
    light = np.ascontiguousarray(luma(pixels)[margin:-margin, margin:-margin])
    if min(light.shape, default=0) < margin:
        return False
    paper = paper_light(light, ppi)
    return (
        float(find_ink(light, stroke_light(light), paper, noise_of(light, paper)).mean())
        < _MOST_DUST
    )
