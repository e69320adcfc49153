"""Visible loss of a copy of a picture: SSIMULACRA2, quick enough for trials."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lighten.model.fit_rules import INVISIBLE
from lighten.pictures.scores.visible_loss_planes import (
    differences,
    halved,
    light_of,
    linear_light,
    opponent,
)

__all__ = ["Judge", "loss_of", "tiles"]


Floats = NDArray[np.float32]

_SCALES = 5  # the sixth has no weight worth its time
# Weights by plane (0 red-green, 1 light, 2 blue), scale and norm, of: structure lost, edges that
# were not there, edges lost. Those below 0.01 are left out: together they move no score by 0.1.
_MEAN, _WORST = 0, 1
_LIGHT = 1
_WEIGHTS: dict[tuple[int, int, int], tuple[float, float, float]] = {
    (0, 1, _WORST): (1.1041726426657346, 0, 0),
    (0, 2, _WORST): (1.8422455520539298, 11.441172603757666, 0),
    (0, 3, _WORST): (1.8787594979546387, 10.94906990605142, 0),
    (0, 4, _MEAN): (0, 0.9677937080626833, 0),
    (0, 4, _WORST): (0, 0.9981766977854967, 0),
    (1, 0, _WORST): (7.466890328078848, 0, 17.445833984131262),
    (1, 1, _WORST): (6.683678146179332, 0, 1.027889937768264),
    (1, 2, _MEAN): (225.20515300849274, 0, 0),
    (1, 2, _WORST): (19.213238186143016, 0, 0),
    (1, 3, _MEAN): (176.39317598450694, 0, 0),
    (1, 3, _WORST): (24.43300999870476, 0.28520802612117757, 0),
    (1, 4, _WORST): (34.77906344483772, 44.835625328877896, 0),
    (2, 3, _WORST): (8.826982764996862, 23.19243343998926, 0),
    (2, 4, _MEAN): (95.1080498811086, 0.9863978034400682, 0.9834382792465353),
    (2, 4, _WORST): (0, 171.2667255897307, 0.9807858872435379),
}
_PLANES_AT = [
    tuple(sorted({plane for plane, at, _ in _WEIGHTS if at == scale})) for scale in range(_SCALES)
]
# A smaller picture has no scale left that could be judged.
_LEAST_PX = 8
_TILE_PX = 160
_TILES = 3


def loss_of(score: float) -> float:
    """Return the loss to be minimised: 0 where nothing is seen, growing as the score falls."""
    return max(0.0, INVISIBLE - score)


class Judge:
    """Scores copies of one picture; what concerns the picture alone is worked out once.

    Both are given as pieces, (height, width) or (height, width, 3) uint8, sRGB: the whole, or
    the same few tiles of each (see `tiles`), which score within a few points of the whole.
    Source: SSIMULACRA2, version 2.1, as published with the JPEG XL reference software; float32,
    without its terms of no weight, edges going on as they end.
    """

    def __init__(self, pieces: Sequence[NDArray[np.uint8]]) -> None:
        self._shapes = [piece.shape[:2] for piece in pieces]
        self._pieces = [_perceived(piece) for piece in pieces]

    def score(self, pieces: Sequence[NDArray[np.uint8]]) -> float:
        """Score a copy: 100 for equal; about 90 is indistinguishable, 70 high quality, 50 medium.

        Raises: ValueError for pieces of other sizes.
        """
        if [piece.shape[:2] for piece in pieces] != self._shapes:
            raise ValueError("the pieces of the two pictures differ in size")
        sums: dict[tuple[int, int], NDArray[np.float64]] = {}
        counts: dict[tuple[int, int], int] = {}
        for known, piece in zip(self._pieces, pieces, strict=True):
            for scale, (mine, theirs) in enumerate(zip(known, _perceived(piece), strict=True)):
                for plane, of_mine, of_theirs in zip(_PLANES_AT[scale], mine, theirs, strict=True):
                    key = (plane, scale)
                    sums[key] = sums.get(key, np.zeros((2, 3))) + differences(of_mine, of_theirs)
                    counts[key] = counts.get(key, 0) + of_theirs.size
        total = 0.0
        for (plane, scale, norm), weights in _WEIGHTS.items():
            if (plane, scale) in sums:
                mean = np.maximum(sums[plane, scale][norm] / counts[plane, scale], 0)
                value = mean if norm == _MEAN else mean**0.25
                total += float(value @ np.array(weights))
        return _as_score(total)


def tiles(size_px: tuple[int, int]) -> list[tuple[int, int, int, int]]:
    """Return a few regions (left, top, right, bottom) along a picture's diagonal.

    The whole where that is hardly larger than they are together.
    """
    width, height = size_px
    if height * width <= 1.5 * _TILES * _TILE_PX**2:
        return [(0, 0, width, height)]
    across, down = min(_TILE_PX, width), min(_TILE_PX, height)
    places = []
    for step in range(_TILES):
        left, top = (width - across) * step // (_TILES - 1), (height - down) * step // (_TILES - 1)
        places.append((left, top, left + across, top + down))
    return places


def _as_score(total: float) -> float:
    total *= 0.9562382616834844
    total = (
        2.326765642916932 * total
        - 0.020884521182843837 * total**2
        + 6.248496625763138e-05 * total**3
    )
    return 100.0 - 10.0 * total**0.6276336467831387 if total > 0 else 100.0


def _perceived(pixels: NDArray[np.uint8]) -> list[tuple[Floats, ...]]:
    """Return, for each scale, the planes that have weight there, each (height, width)."""
    if pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=2)
    linear = linear_light(pixels)
    bands: list[tuple[Floats, ...]] = []
    for planes in _PLANES_AT:
        if min(linear.shape[1:]) < _LEAST_PX:
            break
        if planes == (_LIGHT,):
            bands.append((light_of(linear),))
        else:
            made = opponent(linear)
            bands.append(tuple(made[plane] for plane in planes))
        linear = halved(linear)
    return bands
