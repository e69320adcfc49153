"""Search for regions where a copy of a picture no longer shows the content of its original."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.align import aligned, as_light, as_sharp, sharpness_share
from lighten.pictures.faults.fault import Fault, FaultKind, Place
from lighten.pictures.faults.ink import REACH_PX, ink_faults, suspects
from lighten.pictures.faults.softness import sharpness_kept
from lighten.pictures.faults.strokes import Band, stroke_bands
from lighten.pictures.faults.tint import ciede2000, tile_colours, tint_name
from lighten.pictures.pixels.planes import luma, reduced

__all__ = ["MOST_READ_PPI", "find_faults"]

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]

# Finer pictures are read at that: a lost stroke is as plain there.
MOST_READ_PPI = 200.0
_TILE_MM, _MM_PER_INCH = 5.0, 25.4
# A difference that coding never makes.
_LOOK = 1.15
# Clean copies keep .89 and more, half of them all; a blur of .7 pixels leaves .86 or less in 95 of
# 100 pages, .71 in half of them (134 pages). Fitted pixels have been seen to keep .71.
_LEAST_SHARPNESS, _LEAST_SHARPNESS_DRAWN = 0.87, 0.68
# Of CIEDE2000, over 5 mm: what is said, and what a person should look at.
_SAID_TINT, _SEEN_TINT, _TINT_PERCENTILE = 3.0, 8.0, 95.0
_EDGE_PX = 3
# Region of a picture from which its sharpness is measured.
_SOFTNESS_AREA_PX, _SOFTNESS_PX = 1_000_000, 256
_LEAST_PX = 24


_INK_KINDS = (FaultKind.LOST_INK, FaultKind.ADDED_INK)


def find_faults(
    original: Pixels,
    copy: Pixels,
    *,
    ppi: float,
    judges_colour: bool = True,
    is_drawn: bool = False,
) -> tuple[Fault, ...]:
    """The faults of a copy, the strongest of each kind and place.

    original, copy: the same picture, (height, width) or (height, width, 3) uint8 sRGB; the larger
    is brought to the size of the smaller. ppi: how finely that is shown. is_drawn: a reader has
    fitted their pixels to others, which softens them.
    """
    height = min(original.shape[0], copy.shape[0])
    width = min(original.shape[1], copy.shape[1])
    if min(height, width) < _LEAST_PX:
        return ()
    tile_px = max(8, round(_TILE_MM / _MM_PER_INCH * ppi))
    before, after = (_luma_at(pixels, height, width) for pixels in (original, copy))
    before = aligned(before, after)
    faults = _ink(before, after, tile_px)
    if _is_soft(before, after, _LEAST_SHARPNESS_DRAWN if is_drawn else _LEAST_SHARPNESS):
        faults.append(Fault(kind=FaultKind.SOFT, strength=1.0))
    if judges_colour:
        faults += _tints(original, copy, tile_px)
    return tuple(faults)


def _luma_at(pixels: Pixels, height: int, width: int) -> Floats:
    plane = luma(pixels)
    return plane if plane.shape == (height, width) else reduced(plane, height, width)


def _ink(before: Floats, after: Floats, tile_px: int) -> list[Fault]:
    """Compare ink by bands of tiles, where strokes are and differences are large."""
    share = sharpness_share(before, after)
    inside = np.zeros(before.shape, np.bool_)
    # Edges of a picture are cut otherwise by every resampler.
    inside[_EDGE_PX:-_EDGE_PX, _EDGE_PX:-_EDGE_PX] = True
    faults: list[Fault] = []
    for band in stroke_bands(before, after, tile_px):
        rows, columns = _with_margin(band, before.shape)
        piece, other = (np.ascontiguousarray(plane[rows, columns]) for plane in (before, after))
        piece = as_sharp(as_light(piece, other, tile_px), share)
        top, low, left, right = band
        in_band = (
            slice(top - rows.start, low - rows.start),
            slice(left - columns.start, right - columns.start),
        )
        suspected = np.zeros(piece.shape, np.bool_)
        suspected[in_band] = suspects(piece, other, _LOOK)[in_band] & inside[top:low, left:right]
        corner = columns.start, rows.start
        faults += _faults_among(suspected, piece, other, corner, tile_px)
    return faults


def _faults_among(
    suspected: NDArray[np.bool_],
    before: Floats,
    after: Floats,
    corner: tuple[int, int],
    tile_px: int,
) -> Iterator[Fault]:
    """Return the faults that a close look at suspected pixels confirms.

    corner: x and y of the planes within the picture.
    """
    if not suspected.any():
        return
    down, across = (np.flatnonzero(suspected.any(axis=axis)) for axis in (1, 0))
    part = int(down[0]), int(down[-1]) + 1, int(across[0]), int(across[-1]) + 1
    rows, columns = _with_margin(part, before.shape)
    pieces = (np.ascontiguousarray(plane[rows, columns]) for plane in (before, after))
    corner = corner[0] + columns.start, corner[1] + rows.start
    for kind, beyond in zip(_INK_KINDS, ink_faults(*pieces), strict=True):
        beyond[~suspected[rows, columns]] = 0
        for strength, place in _places(beyond, corner, tile_px):
            yield Fault(kind=kind, strength=strength / _LOOK, place=place)


def _with_margin(part: Band, shape: tuple[int, ...]) -> tuple[slice, slice]:
    """Return rows and columns of a tile with the surroundings that may count for it."""
    top, low, left, right = part
    return (
        slice(max(0, top - REACH_PX), min(shape[0], low + REACH_PX)),
        slice(max(0, left - REACH_PX), min(shape[1], right + REACH_PX)),
    )


def _places(beyond: Floats, corner: tuple[int, int], tile_px: int) -> Iterator[tuple[float, Place]]:
    """The strongest place of each tile that has one; corner: where the plane lies, x and y."""
    if beyond.max(initial=0) <= _LOOK:
        return
    half = tile_px // 2
    for top in range(-(corner[1] % tile_px), beyond.shape[0], tile_px):
        for left in range(-(corner[0] % tile_px), beyond.shape[1], tile_px):
            tile = beyond[max(0, top) : top + tile_px, max(0, left) : left + tile_px]
            if tile.max() > _LOOK:
                down, across = np.unravel_index(int(tile.argmax()), tile.shape)
                x, y = (
                    corner[0] + max(0, left) + int(across),
                    corner[1] + max(0, top) + int(down),
                )
                place = (max(0, x - half), max(0, y - half), x + half, y + half)
                yield float(tile.max()), place


def _is_soft(before: Floats, after: Floats, least: float) -> bool:
    """Return whether the copy is soft, measured in the middle of large pictures."""
    height, width = before.shape
    rows = min(height, max(_SOFTNESS_PX, _SOFTNESS_AREA_PX // width))
    top = (height - rows) // 2
    kept = sharpness_kept(before[top : top + rows], after[top : top + rows])
    return kept is not None and kept < least


def _tints(original: Pixels, copy: Pixels, tile_px: int) -> list[Fault]:
    rows, columns = (max(1, side // tile_px) for side in copy.shape[:2])
    before, after = (tile_colours(pixels, rows, columns) for pixels in (original, copy))
    shifts = ciede2000(before, after)
    strongest = float(np.percentile(shifts, _TINT_PERCENTILE))
    if strongest <= _SAID_TINT:
        return []
    moved = (after - before)[shifts >= strongest].mean(axis=0)
    return [Fault(kind=FaultKind.TINT, strength=strongest / _SAID_TINT, words=tint_name(moved))]
