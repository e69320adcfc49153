"""Where a copy of a picture no longer shows what its original does."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.faults.align import aligned, as_light, as_sharp
from lighten.pictures.faults.ink import ink_faults
from lighten.pictures.faults.kernels import reduced
from lighten.pictures.faults.softness import sharpness_kept
from lighten.pictures.faults.tint import ciede2000, tile_colours, tint_name

__all__ = ["Fault", "FaultKind", "find_faults"]

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]
Place = tuple[int, int, int, int]

_TILE_MM, _MM_PER_INCH = 5.0, 25.4
# A difference that coding never makes; more where the copy was to be sharpened.
_LOOK, _LOOK_IF_SHARPENED = 1.15, 1.75
# Clean copies keep .89 and more, half of them all; a blur of .7 pixels leaves .86 or less in 95 of
# 100 pages, .71 in half of them (134 pages). Fitted pixels have been seen to keep .71.
_LEAST_SHARPNESS, _LEAST_SHARPNESS_DRAWN = 0.88, 0.68
# Of CIEDE2000, over 5 mm: what is said, and what a person should look at.
_SAID_TINT, _SEEN_TINT, _TINT_PERCENTILE = 3.0, 8.0, 95.0
# Edges of a picture are cut otherwise by every resampler.
_EDGE_PX = 3
_LEAST_PX = 24


class FaultKind(StrEnum):
    """What is wrong with a copy."""

    LOST_INK = "lost-ink"
    ADDED_INK = "added-ink"
    SOFT = "soft"
    TINT = "tint"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """strength: above 1 it is there; how far beyond what coding does.

    place: left, top, right, bottom in pixels of the copy, about 5 mm; None for the whole.
    words: of a tint, "warmer" and the like.
    """

    kind: FaultKind
    strength: float
    place: Place | None = None
    words: str = ""


def find_faults(
    original: Pixels,
    copy: Pixels,
    *,
    ppi: float,
    was_sharpened: bool = False,
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
    before = as_light(aligned(before, after), after, tile_px)
    faults = _ink(before, after, tile_px, _LOOK_IF_SHARPENED if was_sharpened else _LOOK)
    kept = sharpness_kept(before, after)
    least = _LEAST_SHARPNESS_DRAWN if is_drawn else _LEAST_SHARPNESS
    if kept is not None and kept < least:
        faults.append(Fault(kind=FaultKind.SOFT, strength=least / max(kept, 0.01)))
    if judges_colour:
        faults += _tints(original, copy, tile_px)
    return tuple(faults)


def _luma_at(pixels: Pixels, height: int, width: int) -> Floats:
    from PIL import Image

    if pixels.ndim == 3:
        pixels = np.asarray(Image.fromarray(pixels).convert("L"))
    plane = pixels.astype(np.float32)
    return plane if plane.shape == (height, width) else reduced(plane, height, width)


def _ink(before: Floats, after: Floats, tile_px: int, enough: float) -> list[Fault]:
    lost, added = ink_faults(as_sharp(before, after), after)
    return [
        *_places(lost, FaultKind.LOST_INK, tile_px, enough),
        *_places(added, FaultKind.ADDED_INK, tile_px, enough),
    ]


def _places(beyond: Floats, kind: FaultKind, tile_px: int, enough: float) -> list[Fault]:
    """The strongest place of each tile that has one."""
    beyond[:_EDGE_PX] = beyond[-_EDGE_PX:] = 0
    beyond[:, :_EDGE_PX] = beyond[:, -_EDGE_PX:] = 0
    if beyond.max() <= enough:
        return []
    faults = []
    height, width = beyond.shape
    for top in range(0, height, tile_px):
        for left in range(0, width, tile_px):
            tile = beyond[top : top + tile_px, left : left + tile_px]
            if tile.max() > enough:
                y, x = np.unravel_index(int(tile.argmax()), tile.shape)
                middle_x, middle_y = left + int(x), top + int(y)
                half = tile_px // 2
                place = (
                    max(0, middle_x - half),
                    max(0, middle_y - half),
                    min(width, middle_x + half),
                    min(height, middle_y + half),
                )
                strength = float(tile.max()) / enough
                faults.append(Fault(kind=kind, strength=strength, place=place))
    return faults


def _tints(original: Pixels, copy: Pixels, tile_px: int) -> list[Fault]:
    rows, columns = (max(1, side // tile_px) for side in copy.shape[:2])
    before, after = (tile_colours(pixels, rows, columns) for pixels in (original, copy))
    shifts = ciede2000(before, after)
    strongest = float(np.percentile(shifts, _TINT_PERCENTILE))
    if strongest <= _SAID_TINT:
        return []
    moved = (after - before)[shifts >= strongest].mean(axis=0)
    return [Fault(kind=FaultKind.TINT, strength=strongest / _SAID_TINT, words=tint_name(moved))]
