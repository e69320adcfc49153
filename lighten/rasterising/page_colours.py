"""A drawn page in fewer colours, and what that does to it."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import Effort
from lighten.model.treatments import BitonalMethod, PageColours, RasterTreatment
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
# Paper and ink leave little between them; pictures are mostly that, over some centimetres.
_TILE_MM, _BETWEEN, _MOSTLY_BETWEEN, _LEAST_TILES = 5.0, (40, 215), 0.5, 9
# Grey levels: of a flat colour at most, and by which photos differ from an even gradient.
_FLAT_STEP, _TEXTURE = 4.0, 2.5
# A photo that stands out takes that share of its page (12 cm2 of A4: a passport photo has 16);
# pages with so many shades are no text pages.
_PHOTO_OF_PAGE, _SHADES_OF_PAGE = 0.02, 0.25
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


@dataclass(frozen=True, slots=True)
class _Tones:
    """Tiles of a page that are mostly neither paper, nor ink, nor a flat colour: (rows, columns).

    textured: those that are no even gradient either, as in photos. sides: height and width of a
    tile, as shares of the page's.
    """

    shaded: NDArray[np.bool_]
    textured: NDArray[np.bool_]
    sides: tuple[float, float]

    @property
    def has_photo(self) -> bool:
        """Return whether a photo stands out, by its size, or shades take much of the page."""
        least = max(_LEAST_TILES, _PHOTO_OF_PAGE * self.textured.size)
        is_large = self.shaded.sum() >= _SHADES_OF_PAGE * self.shaded.size
        return bool(self.textured.sum() >= least or is_large)

    @property
    def has_small_pictures(self) -> bool:
        return int(self.shaded.sum()) >= _LEAST_TILES

    def over(self, shape: tuple[int, int]) -> NDArray[np.bool_]:
        """Mark the pixels of a page of that (height, width) that lie in shaded tiles."""
        down, across = (
            np.minimum((np.arange(length) + 0.5) / length / side, count - 1).astype(np.intp)
            for length, side, count in zip(shape, self.sides, self.shaded.shape, strict=True)
        )
        marked: NDArray[np.bool_] = self.shaded[down[:, np.newaxis], across[np.newaxis]]
        return marked


def _tones_of(grey: Pixels, ppi: float) -> _Tones:
    side = max(2, round(_TILE_MM / _MM_PER_INCH * ppi))
    rows, columns = max(1, grey.shape[0] // side), max(1, grey.shape[1] // side)
    height, width = min(grey.shape[0], rows * side), min(grey.shape[1], columns * side)
    cut = grey[:height, :width].reshape(rows, height // rows, columns, width // columns)
    tiles = cut.swapaxes(1, 2).astype(np.float32)
    between = ((tiles > _BETWEEN[0]) & (tiles < _BETWEEN[1])).mean(axis=(2, 3))
    shaded = (between > _MOSTLY_BETWEEN) & (tiles.std(axis=(2, 3)) > _FLAT_STEP)
    sides = (height / rows / grey.shape[0], width / columns / grey.shape[1])
    return _Tones(shaded, shaded & (_off_gradient(tiles) > _TEXTURE), sides)


def _off_gradient(tiles: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return by how much tiles, (..., height, width), differ from an even gradient (RMS)."""
    height, width = tiles.shape[-2:]
    down = np.linspace(-1, 1, height, dtype=np.float32)[:, np.newaxis]
    across = np.linspace(-1, 1, width, dtype=np.float32)[np.newaxis]
    even = tiles.mean(axis=(-2, -1), keepdims=True)
    for slope in (down, across):
        share = (tiles * slope).sum(axis=(-2, -1), keepdims=True)
        even = even + slope * (share / (np.square(slope) * np.ones_like(tiles[0, 0])).sum())
    return np.asarray(np.sqrt(np.square(tiles - even).mean(axis=(-2, -1))))


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
    tones = _tones_of(small, ppi * small.shape[0] / grey.shape[0])
    is_photo = tones.has_photo
    if is_photo and wanted.keeps_photos_grey:
        return _exact(grey, remark="it shows a photo, and stays grey")
    black = divide(grey, wanted.divide, threshold=wanted.threshold)
    has_dithered = tones.has_small_pictures and not is_photo
    if has_dithered:
        dithered = divide(grey, BitonalMethod.DIFFUSED)
        black = np.where(tones.over(grey.shape), dithered, black)
    lines = np.where(black, np.uint8(0), np.uint8(255))
    coded = encode_lines(lines, only_group4=True)
    reduced = ReducedPage(coded=coded, pixels=lines, kind="black and white")
    lost, worst = _lost_text(small, lines, ppi, tones if has_dithered else None)
    remarks = ["it shows a photo, which loses its shades in black and white"] if is_photo else []
    if has_dithered:
        remarks.append("a small picture on it is dithered")
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
    before: Pixels, lines: Pixels, ppi: float, dithered: _Tones | None
) -> tuple[int, tuple[int, int, int, int] | None]:
    """Return the number of regions, about a word each, with moved or far weaker strokes.

    And the place that is least like what it was. before: the grey page at the size it is read at.
    dithered: tiles that are no text.
    """
    after = _at_reading_size(lines, ppi)
    if dithered is not None:
        after = np.where(dithered.over(before.shape), before, after)
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
