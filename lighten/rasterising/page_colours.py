"""A drawn page in fewer colours, and what that does to it."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import Effort
from lighten.model.treatments import PageColours, RasterTreatment
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.coding.encode_exactly import (
    encode_exactly,
    encode_lines,
    exact_palette,
    is_black_and_white,
)
from lighten.pictures.faults.tint import ciede2000, tile_colours
from lighten.pictures.pixels.bitonal import divide
from lighten.pictures.pixels.classify import is_without_colour
from lighten.pictures.pixels.colours import to_grey
from lighten.pictures.scores.held_text import TILE_PX, blurred_tiles

__all__ = ["ReducedPage", "reduce_colours"]

_MM_PER_INCH = 25.4
# Paper and ink leave little between them; a photo is mostly that, over some centimetres.
_TILE_MM, _BETWEEN, _MOSTLY_BETWEEN, _LEAST_PHOTO_TILES = 5.0, (40, 215), 0.5, 9
_FLAT_STEP = 4.0
# As `held_text` looks at text.
_READ_PPI = 100.0
# From there on colours over some millimetres are seen to have moved (CIEDE2000).
_SEEN_MOVE = 3.0
_PALETTE_SIZES = {PageColours.COLOURS_256: 256, PageColours.COLOURS_16: 16}

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReducedPage:
    """Reduced page. kind: in words. remark: its loss, or the reason for another result than asked.

    worst: left, top, width and height in pixels of the place that lost most; None where every
    pixel is as it was drawn.
    """

    coded: CodedPicture
    pixels: Pixels
    kind: str
    remark: str = ""
    worst: tuple[int, int, int, int] | None = None


def reduce_colours(pixels: Pixels, ppi: float, wanted: RasterTreatment) -> ReducedPage:
    """Reduce the colours of a page. pixels: (height, width) grey or (height, width, 3) sRGB, uint8,
    drawn at `ppi`.
    """
    if pixels.ndim == 3 and is_without_colour(pixels):
        pixels = np.ascontiguousarray(pixels[..., 0])
    match wanted.colours:
        case PageColours.BITONAL:
            return _bitonal(pixels, ppi, wanted)
        case PageColours.GREY:
            return _exact(to_grey(pixels), may_have_palette=False)
        case PageColours.COLOURS_256 | PageColours.COLOURS_16:
            return _in_few(pixels, ppi, _PALETTE_SIZES[wanted.colours])
        case _:
            return _exact(pixels, may_have_palette=wanted.colours is PageColours.FEWEST)


def _has_photo(grey: Pixels, ppi: float) -> bool:
    """Return whether some centimetres of the page are mostly neither paper, nor ink, nor a flat
    colour.
    """
    side = max(2, round(_TILE_MM / _MM_PER_INCH * ppi))
    rows, columns = grey.shape[0] // side, grey.shape[1] // side
    if not rows or not columns:
        return False
    between = (grey > _BETWEEN[0]) & (grey < _BETWEEN[1])
    tiles = between[: rows * side, : columns * side].reshape(rows, side, columns, side)
    tones = grey[: rows * side, : columns * side].reshape(rows, side, columns, side)
    is_photo = (tiles.mean(axis=(1, 3)) > _MOSTLY_BETWEEN) & (tones.std(axis=(1, 3)) > _FLAT_STEP)
    return int(is_photo.sum()) >= _LEAST_PHOTO_TILES


def _exact(pixels: Pixels, *, may_have_palette: bool = True, remark: str = "") -> ReducedPage:
    """Every pixel as it is, in as few bits as hold them."""
    if pixels.ndim == 2 and is_black_and_white(pixels):
        coded = encode_lines(pixels, only_group4=True)
        return ReducedPage(coded=coded, pixels=pixels, kind="black and white", remark=remark)
    coded = encode_exactly(
        pixels, may_have_palette=may_have_palette, holder=Holder.TIFF, effort=Effort.QUICK
    )
    return ReducedPage(coded=coded, pixels=pixels, kind=_kind(coded), remark=remark)


def _kind(coded: CodedPicture) -> str:
    if coded.palette is not None:
        return f"{len(coded.palette) // coded.colours} colours"
    return "greys" if coded.colours == 1 else "all colours"


def _bitonal(pixels: Pixels, ppi: float, wanted: RasterTreatment) -> ReducedPage:
    grey = to_grey(pixels)
    small = _at_reading_size(grey, ppi)
    is_photo = _has_photo(small, ppi * small.shape[0] / grey.shape[0])
    if is_photo and wanted.keeps_photos_grey:
        return _exact(grey, remark="it shows a photo, and stays grey")
    black = divide(grey, wanted.divide, threshold=wanted.threshold)
    lines = np.where(black, np.uint8(0), np.uint8(255))
    coded = encode_lines(lines, only_group4=True)
    reduced = ReducedPage(coded=coded, pixels=lines, kind="black and white")
    lost, worst = _lost_text(small, lines, ppi)
    remarks = ["it shows a photo, which loses its shades in black and white"] if is_photo else []
    if lost:
        remarks.append(f"letters changed much in {lost} places")
    return replace(reduced, remark=", ".join(remarks), worst=worst)


def _in_few(pixels: Pixels, ppi: float, count: int) -> ReducedPage:
    """The palette that serves it best; exact where the page has no more colours."""
    from PIL import Image

    palette = exact_palette(pixels, most=count) if pixels.ndim == 3 else None
    if palette is not None or (pixels.ndim == 2 and exact_palette(pixels, most=count) is not None):
        return _exact(pixels)
    image = Image.fromarray(pixels).convert("RGB")
    few = image.quantize(count, method=Image.Quantize.MEDIANCUT, kmeans=1)
    diffused = image.quantize(palette=few, dither=Image.Dither.FLOYDSTEINBERG)
    shown = np.asarray(diffused.convert("RGB"))
    moved, worst = _moved_colours(pixels, shown, ppi)
    remark = f"colours moved by up to {moved:.0f} (CIEDE2000)" if moved > _SEEN_MOVE else ""
    return replace(_exact(shown), remark=remark, worst=worst)


def _lost_text(
    before: Pixels, lines: Pixels, ppi: float
) -> tuple[int, tuple[int, int, int, int] | None]:
    """Return the number of regions, about a word each, with moved or far weaker strokes.

    And the place that is least like what it was. before: the grey page at the size it is read at.
    """
    after = _at_reading_size(lines, ppi)
    _, lost = blurred_tiles(before, after)
    rows, columns = lost.shape
    if not rows or not columns:
        return 0, None
    off = np.abs(before.astype(np.float32) - after)
    cut = off[: rows * TILE_PX, : columns * TILE_PX]
    means = cut.reshape(rows, TILE_PX, columns, TILE_PX).mean(axis=(1, 3))
    row, column = np.unravel_index(int(np.argmax(means + 255 * lost)), means.shape)
    side = TILE_PX * max(1, round(ppi / _READ_PPI))
    return int(lost.sum()), (int(column) * side, int(row) * side, side, side)


def _at_reading_size(grey: Pixels, ppi: float) -> Pixels:
    """Reduce to about 100 ppi by a whole factor."""
    from PIL import Image

    step = round(ppi / _READ_PPI)
    return np.asarray(Image.fromarray(grey).reduce(step)) if step > 1 else grey


def _moved_colours(
    before: Pixels, after: Pixels, ppi: float
) -> tuple[float, tuple[int, int, int, int]]:
    """Return the largest shift of colours over some millimetres, and its position."""
    side = max(1, round(_TILE_MM / _MM_PER_INCH * ppi))
    rows, columns = max(1, before.shape[0] // side), max(1, before.shape[1] // side)
    moves = ciede2000(*(tile_colours(pixels, rows, columns) for pixels in (before, after)))
    row, column = np.unravel_index(int(np.argmax(moves)), moves.shape)
    place = (int(column) * side, int(row) * side, side, side)
    return float(moves.max()), place
