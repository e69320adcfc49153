"""Facts of a scanned page: size, resolution, and whether it is blank."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.gathering.loose_pictures import LoosePicture, loose_pictures
from lighten.gathering.page_sizes import sheet_pt
from lighten.model.errors import UnreadableFileError
from lighten.model.source import Source
from lighten.pictures.coding.decode import UNREADABLE, decode_on_white
from lighten.pictures.pixels.page_corners import Corners, find_page_corners, flattened_page
from lighten.pictures.pixels.planes import luma
from lighten.pictures.pixels.upright import upright
from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light
from lighten.pictures.scans.paper import paper_light

__all__ = ["PageLook", "is_blank", "look_at_page"]

_POINTS_PER_INCH, _MM_PER_INCH = 72.0, 25.4
_LOOKED_AT_PPI, _THUMBNAIL_PX, _WHOLE_PX = 100.0, 420, 1000
# Edges of the paper, staples and holes lie there.
_MARGIN_MM = 8.0
# As much as some dust; a line of text on A4 has ten times that.
_MOST_DUST = 0.00025

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageLook:
    """ppi: along its width, at the size the picture says it has.

    corners: of a sheet of paper in it, as it is seen, where it is a photo of one.
    """

    width_px: int
    height_px: int
    ppi: float
    is_blank: bool
    corners: Corners | None = None


def look_at_page(
    source: Source, thumbnail: Path, whole: Path | None = None, *, corners: Corners | None = None
) -> PageLook:
    """Inspect a page, and write a small upright PNG of it to `thumbnail`.

    whole: where a larger JPEG of all that the picture shows is to be. corners: of the sheet in it
    that is the page. Raises: UnreadableFileError, LimitExceededError.
    """
    from PIL import Image

    picture = _only_picture(source)
    try:
        pixels = upright(decode_on_white(picture.stored), picture.orientation)
    except UNREADABLE as error:
        raise UnreadableFileError(f"{source.name}: its pixels cannot be read.") from error
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        raise UnreadableFileError(f"{source.name}: has four inks, as no scan of a page has.")
    if whole is not None:
        _save_small(pixels, _WHOLE_PX, whole, "JPEG")
    ppi = picture.stored.width_px / picture.scanned_pt[0] * _POINTS_PER_INCH
    page = pixels if corners is None else flattened_page(pixels, corners)
    _save_small(page, _THUMBNAIL_PX, thumbnail, "PNG")
    height, width = page.shape[:2]
    if corners is not None and (paper_pt := sheet_pt((width, height))) is not None:
        ppi = width / paper_pt[0] * _POINTS_PER_INCH
    share = min(1.0, _LOOKED_AT_PPI / ppi)
    size = max(1, round(width * share)), max(1, round(height * share))
    seen = Image.fromarray(page).resize(size)
    return PageLook(
        width_px=width,
        height_px=height,
        ppi=round(ppi, 1),
        is_blank=is_blank(np.asarray(seen), ppi * share),
        corners=find_page_corners(pixels),
    )


def _save_small(pixels: Pixels, longest_px: int, path: Path, kind: str) -> None:
    from PIL import Image

    image = Image.fromarray(pixels)
    image.thumbnail((longest_px, longest_px))
    image.save(path, kind)


def _only_picture(source: Source) -> LoosePicture:
    pictures = list(loose_pictures(source))
    if len(pictures) > 1:
        raise UnreadableFileError(
            f"{source.name}: holds {len(pictures)} pages. Put it into a satchel: there it is a "
            "document, and its pages can be gathered with others."
        )
    return pictures[0]


def is_blank(pixels: Pixels, ppi: float) -> bool:
    """Return whether a page shows only paper, shade and some dust. pixels: grey or sRGB, uint8."""
    margin = round(_MARGIN_MM / _MM_PER_INCH * ppi)
    light = np.ascontiguousarray(luma(pixels)[margin:-margin, margin:-margin])
    if min(light.shape, default=0) < margin:
        return False
    paper = paper_light(light, ppi)
    return (
        float(find_ink(light, stroke_light(light), paper, noise_of(light, paper)).mean())
        < _MOST_DUST
    )
