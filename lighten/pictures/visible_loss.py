"""What the eye misses in a copy of a picture: SSIMULACRA2, made quick enough for trials."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["INVISIBLE", "Judge", "loss_of", "tiles"]

# A score from here on is seen by nobody (the metric's own scale: 90 is very high quality).
INVISIBLE = 90.0

Floats = NDArray[np.float32]

_SIGMA = 1.5
_RADIUS = 5
_WINDOW = np.exp(-(np.arange(-_RADIUS, _RADIUS + 1) ** 2) / (2 * _SIGMA**2)).astype(np.float32)
_WINDOW /= _WINDOW.sum()
_SCALES = 5  # the sixth has no weight worth its time
_C2 = np.float32(0.0009)
# Cone responses of linear red, green, blue, and what is added before the cube root.
_CONES = np.array(
    [
        [0.30, 0.622, 0.078],
        [0.23, 0.692, 0.078],
        [0.24342268924547819, 0.20476744424496821, 0.5518098665095536],
    ],
    np.float32,
)
# Of the 256 levels of sRGB (IEC 61966-2-1).
_LEVELS = np.arange(256) / 255
_LINEAR = np.where(_LEVELS <= 0.04045, _LEVELS / 12.92, ((_LEVELS + 0.055) / 1.055) ** 2.4).astype(
    np.float32
)
_BIAS = np.float32(0.0037930732552754493)
# Weights by plane (0 red-green, 1 light, 2 blue), scale and norm, of: structure lost, edges that
# were not there, edges lost. Those below 0.01 are left out: together they move no score by 0.1.
_MEAN, _WORST = 0, 1
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
    """What is to be kept small: 0 where nothing is seen, growing as the score falls from there."""
    return max(0.0, INVISIBLE - score)


class Judge:
    """Scores copies of one picture; what concerns the picture alone is worked out once.

    Both are given as pieces, (height, width) or (height, width, 3) uint8, sRGB: the whole, or
    the same few tiles of each (see `tiles`), which score within a few points of the whole.
    Source: SSIMULACRA2, version 2.1, as published with the JPEG XL reference software; float32,
    without its terms of no weight.
    """

    def __init__(self, pieces: Sequence[NDArray[np.uint8]]) -> None:
        self._shapes = [piece.shape[:2] for piece in pieces]
        self._pieces = [[_known(planes) for planes in _perceived(piece)] for piece in pieces]

    def score(self, pieces: Sequence[NDArray[np.uint8]]) -> float:
        """100 for the same; about 90 cannot be told apart, 70 is high quality, 50 medium.

        Raises: ValueError for pieces of other sizes.
        """
        if [piece.shape[:2] for piece in pieces] != self._shapes:
            raise ValueError("the pieces of the two pictures differ in size")
        sums: dict[tuple[int, int], Floats] = {}
        counts: dict[tuple[int, int], int] = {}
        for known, piece in zip(self._pieces, pieces, strict=True):
            for scale, (mine, theirs) in enumerate(zip(known, _perceived(piece), strict=True)):
                differences = _differences(mine, theirs)
                for index, plane in enumerate(_PLANES_AT[scale]):
                    key = (plane, scale)
                    sums[key] = sums.get(key, np.float32(0)) + differences[:, :, index]
                    counts[key] = counts.get(key, 0) + theirs[0].size
        total = 0.0
        for (plane, scale, norm), weights in _WEIGHTS.items():
            if (plane, scale) in sums:
                mean = np.maximum(sums[plane, scale][norm] / counts[plane, scale], 0)
                value = mean if norm == _MEAN else mean**0.25
                total += float(value @ np.array(weights, np.float32))
        return _as_score(total)


def tiles(size_px: tuple[int, int]) -> list[tuple[int, int, int, int]]:
    """Left, top, right, bottom of a few places along the diagonal of a picture of (width, height).

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


@dataclass(frozen=True, slots=True)
class _Known:
    """Of the reference at one scale, each (planes, height, width)."""

    planes: Floats
    means: Floats
    squares: Floats
    edges: Floats


def _known(planes: Floats) -> _Known:
    means = _blurred(planes)
    return _Known(
        planes, means, _blurred(planes * planes) - means * means, 1 + np.abs(planes - means)
    )


def _differences(known: _Known, copy: Floats) -> Floats:
    """(2 norms, 3 kinds, planes): sums over all pixels, and of the fourth powers."""
    count = len(copy)
    blurred = _blurred(np.concatenate([copy, copy * copy, copy * known.planes]))
    means, squares, products = blurred[:count], blurred[count : 2 * count], blurred[2 * count :]
    shift = known.means - means
    alike = (1 - shift * shift) * (2 * (products - known.means * means) + _C2)
    lost = np.maximum(1 - alike / (known.squares + squares - means * means + _C2), 0)
    edges = (1 + np.abs(copy - means)) / known.edges - 1
    kinds = (lost, np.maximum(edges, 0), np.maximum(-edges, 0))
    sums = np.empty((2, 3, count), np.float32)
    for index, kind in enumerate(kinds):
        flat = kind.reshape(count, -1)
        sums[_MEAN, index] = flat.sum(axis=1)
        squared = flat * flat
        sums[_WORST, index] = np.einsum("ij,ij->i", squared, squared)
    return sums


def _as_score(total: float) -> float:
    total *= 0.9562382616834844
    total = (
        2.326765642916932 * total
        - 0.020884521182843837 * total**2
        + 6.248496625763138e-05 * total**3
    )
    return 100.0 - 10.0 * total**0.6276336467831387 if total > 0 else 100.0


def _perceived(pixels: NDArray[np.uint8]) -> list[Floats]:
    """For each scale the planes that have weight there: (planes, height, width)."""
    if pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=2)
    linear: Floats = _LINEAR[np.ascontiguousarray(np.moveaxis(pixels, 2, 0))]
    bands: list[Floats] = []
    for planes in _PLANES_AT:
        if min(linear.shape[1:]) < _LEAST_PX:
            break
        bands.append(_opponent(linear, planes))
        linear = _halved(linear)
    return bands


def _opponent(linear: Floats, planes: tuple[int, ...]) -> Floats:
    """Red-green, light and blue as the metric wants them, all above zero."""
    cones = _CONES if 2 in planes else _CONES[:2]
    mixed = np.tensordot(cones, linear, axes=1)
    seen = np.cbrt(np.maximum(mixed + _BIAS, 0)) - np.cbrt(_BIAS)
    light = (seen[0] + seen[1]) / 2
    made = {1: light + np.float32(0.01)}
    if 0 in planes:
        made[0] = (seen[0] - seen[1]) * 7 + np.float32(0.42)
    if 2 in planes:
        made[2] = seen[2] - light + np.float32(0.55)
    return np.stack([made[plane] for plane in planes])


def _halved(linear: Floats) -> Floats:
    """Half as many pixels each way; a last odd one counts by itself."""
    odd = [(0, 0), (0, linear.shape[1] % 2), (0, linear.shape[2] % 2)]
    even = np.pad(linear, odd, mode="edge") if any(after for _, after in odd) else linear
    quarters = even[:, ::2, ::2] + even[:, 1::2, ::2] + even[:, ::2, 1::2] + even[:, 1::2, 1::2]
    return np.asarray(quarters * np.float32(0.25))


def _blurred(planes: Floats) -> Floats:
    """A Gaussian of `_SIGMA` pixels along both axes; edges are mirrored, as tiles need it."""
    return _blurred_along(_blurred_along(planes, 1), 2)


def _blurred_along(planes: Floats, axis: int) -> Floats:
    length = planes.shape[axis]
    before, after = np.arange(_RADIUS)[::-1], np.arange(length - _RADIUS, length)[::-1]
    padded = np.concatenate(
        [planes.take(before, axis), planes, planes.take(after, axis)], axis=axis
    )
    shifted = [
        padded[:, step : step + length] if axis == 1 else padded[:, :, step : step + length]
        for step in range(2 * _RADIUS + 1)
    ]
    blurred: Floats = shifted[_RADIUS] * _WINDOW[_RADIUS]
    for step in range(_RADIUS):
        # The window is the same to both sides.
        both = shifted[step] + shifted[-1 - step]
        both *= _WINDOW[step]
        blurred += both
    return blurred
