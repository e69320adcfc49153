"""A scanned page as layers that show the same: paper, the strokes on it, and pictures."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jpeg import Chroma, encode_jpeg
from lighten.pictures.coding.coded import CodedPicture, Coding, decode_coded
from lighten.pictures.coding.encode import encode
from lighten.pictures.coding.encode_exactly import encode_lines
from lighten.pictures.coding.layered import Ink, LayeredPicture, PictureLayer
from lighten.pictures.pixels.planes import highest, luma
from lighten.pictures.pixels.resample import resample
from lighten.pictures.scans.compose import laid_over, stretched
from lighten.pictures.scans.failing_places import failing_places, likeness_of
from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light
from lighten.pictures.scans.ink_colours import ink_colours, only_colour
from lighten.pictures.scans.paper import bare_paper, paper_light
from lighten.pictures.scans.picture_zones import ZONE_MM, picture_zones
from lighten.pictures.scans.tiles import rectangles

__all__ = ["PictureFineness", "split_page"]

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]
Marks = NDArray[np.bool_]
Box = tuple[int, int, int, int]
Colour = tuple[int, ...] | CodedPicture

_MM_PER_INCH = 25.4
# Coarser scans get finer strokes, whose edges lie between their pixels.
_STROKES_PPI, _FINE_ENOUGH_PPI, _COARSEST_PPI = 300.0, 220.0, 90.0
# Paper, and how colour goes over strokes, hold nothing fine (FINDINGS, "Scans").
_PAPER_PPI, _PAPER_QUALITY = 100.0, 45
_COLOURS_PPI, _COLOURS_QUALITY = 100.0, 25
# Paper is taken from so far off the strokes: 5 pixels are two to each side.
_OFF_STROKES_PX = 5
# What goes back to pictures, by squares of that side; as many of all, and it stays one picture.
_SQUARE_MM, _MOST_PICTURE = 5.0, 0.6
_MOST_ROUNDS = 3
# As far as to the next gap between letters or lines.
_REACH_MM = 3.0
# Strokes go on for a little under the pictures, so that no seam shows where they are cut.
_UNDER_EDGE_PX = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFineness:
    """Resolution and quality of parts of a page that stay pictures. quality: of JPEG, 1 to 100."""

    ppi: float
    quality: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Page:
    """light: at the fineness of strokes, `ppi`; each of the pixels has become `scale` a side."""

    pixels: Pixels
    light: Floats
    scale: int
    ppi: float

    @property
    def size_px(self) -> tuple[int, int]:
        return self.light.shape[1], self.light.shape[0]

    def of_mm(self, length: float) -> int:
        """Convert to pixels of strokes; a whole number of the scan's."""
        return self.scale * max(4, round(length / _MM_PER_INCH * self.ppi / self.scale))

    def size_at(self, ppi: float) -> tuple[int, int]:
        """Return width and height in pixels, no finer than the scan."""
        share = min(1.0, ppi * self.scale / self.ppi)
        height, width = self.pixels.shape[:2]
        return max(1, round(width * share)), max(1, round(height * share))

    def within(self, box: Box) -> Pixels:
        """Return the scan within a box. box: in pixels of strokes."""
        left, top, right, low = (side // self.scale for side in box)
        return np.ascontiguousarray(self.pixels[top:low, left:right])


def split_page(
    pixels: Pixels, ppi: float, pictures: PictureFineness, *, may_be_jbig2: bool
) -> LayeredPicture | None:
    """Split a page into layers; None if it is mostly picture, or its resolution is too low.

    pixels: (height, width) or (height, width, 3) uint8, at `ppi`. Every square of 5 mm is read
    afterwards, and goes back to a picture if its strokes, sharpness or colours differ.
    """
    if ppi < _COARSEST_PPI or min(pixels.shape[:2]) < _SQUARE_MM / _MM_PER_INCH * ppi:
        return None
    page = _prepared(pixels, ppi)
    paper_level = paper_light(page.light, page.ppi)
    core = stroke_light(page.light)
    strokes = find_ink(page.light, core, paper_level, noise_of(page.light, paper_level))
    side = page.of_mm(ZONE_MM)
    zones = picture_zones(page.light, paper_level, strokes, (side, page.scale), page.ppi)
    boxes = _to_gaps(_boxes(zones, side, page), strokes, page)
    if _share(boxes, page) > _MOST_PICTURE:
        return None
    paper = _code_paper(page, strokes, boxes)
    for box in boxes:
        _clear(strokes, box, page)
    colour = _code_colour(page, strokes, core)
    undone, shown = _undone(page, ppi, (paper, strokes, colour), boxes)
    if _share((*boxes, *undone), page) > _MOST_PICTURE:
        return None
    for box in undone:
        _clear(strokes, box, page)
    return LayeredPicture(
        paper=paper,
        ink=_ink(strokes, colour, may_be_jbig2=may_be_jbig2) if strokes.any() else None,
        pictures=_code_pictures(page, boxes, undone, pictures, may_be_jbig2=may_be_jbig2),
        width_px=page.size_px[0],
        height_px=page.size_px[1],
        likeness=likeness_of(pixels, shown, ppi),
    )


def _undone(
    page: _Page, ppi: float, layers: tuple[CodedPicture, Marks, Colour], kept: Sequence[Box]
) -> tuple[tuple[Box, ...], Pixels]:
    """Return the regions that go back to pictures, as they would look different; and the rest's
    likeness.
    """
    paper, strokes, colour = layers
    square = page.of_mm(_SQUARE_MM)
    shape = -(-page.size_px[1] // square), -(-page.size_px[0] // square)
    shown = laid_over(stretched(decode_coded(paper), page.size_px), strokes, colour)
    _show(page, kept, shown)
    failing = np.zeros(shape, np.bool_)
    undone: tuple[Box, ...] = ()
    # What has gone back changes what all else is held against: how sharp the page is.
    for _ in range(_MOST_ROUNDS):
        more = failing_places(page.pixels, shown, ppi, square // page.scale) & ~failing
        if not more.any():
            break
        failing |= more
        undone = _to_gaps(_boxes(failing, square, page), strokes, page)
        if _share(undone, page) > _MOST_PICTURE:
            break
        _show(page, undone, shown)
    return undone, shown


def _show(page: _Page, boxes: Sequence[Box], shown: Pixels) -> None:
    """Show parts of the page as they were scanned."""
    for left, top, right, low in boxes:
        piece = page.within((left, top, right, low))
        shown[top:low, left:right] = stretched(piece, (right - left, low - top))


def _prepared(pixels: Pixels, ppi: float) -> _Page:
    scale = 1 if ppi >= _FINE_ENOUGH_PPI else max(1, round(_STROKES_PPI / ppi))
    light = luma(pixels)
    if scale > 1:
        import pyvips

        image = pyvips.Image.new_from_array(light).resize(scale, kernel="cubic")
        light = np.ascontiguousarray(np.clip(image.numpy(), 0, 255), np.float32)
    return _Page(pixels=pixels, light=light, scale=scale, ppi=ppi * scale)


def _boxes(marks: Marks, side: int, page: _Page) -> tuple[Box, ...]:
    """Return rectangles of squares, `side` pixels wide, cut to the page."""
    width, height = page.size_px
    return tuple(
        (left * side, top * side, min(width, right * side), min(height, low * side))
        for left, top, right, low in rectangles(marks)
    )


def _to_gaps(boxes: Sequence[Box], strokes: Marks, page: _Page) -> tuple[Box, ...]:
    """Move each edge of the boxes outwards to where it crosses the fewest strokes.

    Readers draw pictures to whole pixels of theirs, and what an edge cuts would show that.
    """
    reach, scale = page.of_mm(_REACH_MM), page.scale
    height, width = strokes.shape
    moved = []
    for left, top, right, low in boxes:
        over, under = (
            strokes[max(0, top - reach) : top, left:right],
            strokes[low : low + reach, left:right],
        )
        up = _nearest_gap(over.sum(axis=1)[::-1], scale) if top else 0
        down = _nearest_gap(under.sum(axis=1), scale) if low < height else 0
        rows = slice(top - up, low + down)
        before, after = (
            strokes[rows, max(0, left - reach) : left],
            strokes[rows, right : right + reach],
        )
        back = _nearest_gap(before.sum(axis=0)[::-1], scale) if left else 0
        on = _nearest_gap(after.sum(axis=0), scale) if right < width else 0
        moved.append((left - back, top - up, right + on, low + down))
    return tuple(moved)


def _nearest_gap(counts: NDArray[np.int64], step: int) -> int:
    """Return the distance to the nearest row of least ink; whole pixels of the scan."""
    return step * int(np.argmin(counts[::step])) if counts.size else 0


def _share(boxes: Sequence[Box], page: _Page) -> float:
    area = sum((right - left) * (low - top) for left, top, right, low in boxes)
    return area / (page.size_px[0] * page.size_px[1])


def _clear(strokes: Marks, box: Box, page: _Page) -> None:
    """Remove strokes under a picture, except at its edge."""
    width, height = page.size_px
    left, top, right, low = box
    left, top = (side + _UNDER_EDGE_PX if side else 0 for side in (left, top))
    right = right - _UNDER_EDGE_PX if right < width else width
    low = low - _UNDER_EDGE_PX if low < height else height
    strokes[top:low, left:right] = False


def _code_paper(page: _Page, strokes: Marks, pictures: Sequence[Box]) -> CodedPicture:
    covered = highest(strokes.astype(np.float32), _OFF_STROKES_PX) > 0
    for left, top, right, low in pictures:
        covered[top:low, left:right] = True
    covered = np.ascontiguousarray(covered[:: page.scale, :: page.scale])
    return _jpeg(bare_paper(page.pixels, covered, page.size_at(_PAPER_PPI)), _PAPER_QUALITY)


def _code_colour(page: _Page, strokes: Marks, core: Floats) -> Colour:
    colours, is_inked = ink_colours(
        page.pixels, strokes, page.light, core, page.size_at(_COLOURS_PPI)
    )
    return only_colour(colours, is_inked) or _jpeg(colours, _COLOURS_QUALITY)


def _jpeg(pixels: Pixels, quality: int) -> CodedPicture:
    return CodedPicture(
        coding=Coding.JPEG,
        data=encode_jpeg(pixels, quality=quality, chroma=Chroma.HALVED),
        width_px=pixels.shape[1],
        height_px=pixels.shape[0],
        colours=1 if pixels.ndim == 2 else 3,
        bits=8,
    )


def _ink(strokes: Marks, colour: Colour, *, may_be_jbig2: bool) -> Ink:
    lines = np.where(strokes, 0, 255).astype(np.uint8)
    return Ink(strokes=encode_lines(lines, may_be_jbig2=may_be_jbig2), colour=colour)


def _code_pictures(
    page: _Page,
    kept: Sequence[Box],
    undone: Sequence[Box],
    fineness: PictureFineness,
    *,
    may_be_jbig2: bool,
) -> PictureLayer | None:
    """One picture as large as the page, plain but for those places: each by itself, readers would
    draw them to other whole pixels than the rest."""
    if not kept and not undone:
        return None
    places = np.zeros((page.size_px[1], page.size_px[0]), np.bool_)
    for left, top, right, low in (*kept, *undone):
        places[top:low, left:right] = True
    outside = np.ascontiguousarray(~places[:: page.scale, :: page.scale])
    size = page.size_at(fineness.ppi)
    pixels = resample(page.pixels, size)
    small = resample(np.where(outside, 0, 255).astype(np.uint8), size) > 0
    filled = np.empty_like(pixels)
    filled[:] = np.median(pixels[small], axis=0)
    filled[small] = pixels[small]
    coded = encode(
        filled,
        quality=fineness.quality,
        floor=0,
        is_page_scan=True,
        was_lossy=True,
    )
    lines = np.where(places, 0, 255).astype(np.uint8)
    return PictureLayer(
        picture=coded,
        places=encode_lines(lines, may_be_jbig2=may_be_jbig2),
        kept=len(kept),
        undone=len(undone),
    )
