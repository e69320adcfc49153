"""Where a copy of a picture no longer shows what its original does."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.align import aligned, as_light, as_sharp, sharpness_share
from lighten.pictures.faults.fault import Fault, FaultKind, Place
from lighten.pictures.faults.ink import REACH_PX, ink_faults
from lighten.pictures.faults.softness import sharpness_kept
from lighten.pictures.faults.strokes import stroke_bands
from lighten.pictures.faults.tint import ciede2000, tile_colours, tint_name
from lighten.pictures.planes import reduced

__all__ = ["find_faults"]

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]

_TILE_MM, _MM_PER_INCH = 5.0, 25.4
# A difference that coding never makes.
_LOOK = 1.15
# Clean copies keep .89 and more, half of them all; a blur of .7 pixels leaves .86 or less in 95 of
# 100 pages, .71 in half of them (134 pages). Fitted pixels have been seen to keep .71.
_LEAST_SHARPNESS, _LEAST_SHARPNESS_DRAWN = 0.87, 0.68
# Of CIEDE2000, over 5 mm: what is said, and what a person should look at.
_SAID_TINT, _SEEN_TINT, _TINT_PERCENTILE = 3.0, 8.0, 95.0
_EDGE_PX = 3
# As much of a picture as its sharpness is told from.
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
    from PIL import Image

    if pixels.ndim == 3:
        pixels = np.asarray(Image.fromarray(pixels).convert("L"))
    if pixels.shape == (height, width):
        return pixels.astype(np.float32)
    return reduced(pixels, height, width)


def _ink(before: Floats, after: Floats, tile_px: int) -> list[Fault]:
    """Band by band of tiles, and only where strokes are."""
    share = sharpness_share(before, after)
    faults: list[Fault] = []
    height, width = before.shape
    for top, low, left, right in stroke_bands(before, after, tile_px):
        rows = slice(max(0, top - REACH_PX), min(height, low + REACH_PX))
        columns = slice(max(0, left - REACH_PX), min(width, right + REACH_PX))
        piece, other = (np.ascontiguousarray(plane[rows, columns]) for plane in (before, after))
        piece = as_sharp(as_light(piece, other, tile_px), share)
        for kind, beyond in zip(_INK_KINDS, ink_faults(piece, other), strict=True):
            inner = beyond[top - rows.start : low - rows.start, left - columns.start :]
            inner = inner[:, : right - left]
            # Edges of a picture are cut otherwise by every resampler.
            inner[: max(0, _EDGE_PX - top)] = 0
            inner[max(0, height - _EDGE_PX - top) :] = 0
            inner[:, : max(0, _EDGE_PX - left)] = 0
            inner[:, max(0, width - _EDGE_PX - left) :] = 0
            faults += [
                Fault(kind=kind, strength=strength / _LOOK, place=place)
                for strength, place in _places(inner, (left, top), tile_px)
            ]
    return faults


def _places(beyond: Floats, corner: tuple[int, int], tile_px: int) -> Iterator[tuple[float, Place]]:
    """The strongest place of each tile that has one; corner: where the plane lies, x and y."""
    if beyond.max(initial=0) <= _LOOK:
        return
    half = tile_px // 2
    for top in range(0, beyond.shape[0], tile_px):
        for left in range(0, beyond.shape[1], tile_px):
            tile = beyond[top : top + tile_px, left : left + tile_px]
            if tile.max() > _LOOK:
                down, across = np.unravel_index(int(tile.argmax()), tile.shape)
                x, y = corner[0] + left + int(across), corner[1] + top + int(down)
                place = (max(0, x - half), max(0, y - half), x + half, y + half)
                yield float(tile.max()), place


def _is_soft(before: Floats, after: Floats, least: float) -> bool:
    """Told from a part of a large picture: its middle."""
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
