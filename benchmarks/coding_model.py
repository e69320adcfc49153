"""Actual bytes of pictures beside the constants of `lighten.planning.coding_model`.

`python -m benchmarks.coding_model [FILE...]`: pictures of those files (JPEG, PNG, ...), or
generated ones. For each constant what these pictures say, and the value in use; a handful of
pictures moves them by half, so a change wants many.
"""

import sys
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from demo.scenery import chart, landscape, logbook_page
from lighten.codecs.bitonal import encode_group4
from lighten.model.kinds import PictureClass
from lighten.model.treatments import BitonalMethod
from lighten.pictures.coding.decode import decode
from lighten.pictures.coding.encode import encode_as_jpeg
from lighten.pictures.coding.encode_exactly import exact_weight
from lighten.pictures.files import read_picture_file, stored_picture
from lighten.pictures.pixels.bitonal import divide
from lighten.pictures.pixels.classify import classify_alone
from lighten.pictures.pixels.colours import to_grey
from lighten.pictures.pixels.resample import resample
from lighten.planning import coding_model as model

Pixels = NDArray[np.uint8]
_LONGEST_PX = 1600
_IN_USE = {
    "grey share": model.GREY_SHARE,
    "quality slope": model.QUALITY_SLOPE,
    "scale exponent": model.SCALE_EXPONENT,
    "detail exponent": model.DETAIL_EXPONENT,
    "exact scale exponent": model.EXACT_SCALE_EXPONENT,
    "exact over lossy": model.EXACT_OVER_LOSSY,
    "bitonal bits": model.BITONAL_BITS,
    **{f"bits a pixel, {name}": bits for name, bits in model.BITS_A_PIXEL.items()},
}
_GENERATED = 6


def main(names: list[str]) -> None:
    middles: dict[str, list[float]] = {}
    rows: list[_Row] = []
    for pixels, source_bytes in _pictures(names):
        rows += _jpeg_rows(pixels, source_bytes)
        for name, value in _ratios(pixels):
            middles.setdefault(name, []).append(value)
    for name, value in _fitted(rows).items():
        print(f"{name:<26}{value:8.3f}  in use {_IN_USE[name]:.3f}")
    for name, values in middles.items():
        low, middle, high = np.percentile(values, (25, 50, 75))
        print(
            f"{name:<26}{middle:8.3f}  in use {_IN_USE[name]:.3f}  "
            f"({low:.3f} to {high:.3f}, {len(values)} pictures)"
        )


@dataclass(frozen=True, slots=True)
class _Row:
    """One JPEG: bits a pixel, of the source and of what was made of it at a share of its lines."""

    picture_class: PictureClass
    source_bits: float
    share: float
    quality: int
    bits: float


def _pictures(names: list[str]) -> Iterable[tuple[Pixels, int]]:
    """Pixels, and the bytes they came from."""
    generated = range(0 if names else _GENERATED)
    for seed in generated:
        for pixels in (landscape(1200, 900, seed), chart(1200, 900, seed)):
            yield pixels, _jpeg(pixels, 92)
        yield logbook_page(1240, 1754, seed), _jpeg(logbook_page(1240, 1754, seed), 92)
    for name in names:
        stored = stored_picture(read_picture_file(Path(name).read_bytes()))
        pixels = decode(stored)
        if pixels.ndim == 2 or pixels.shape[2] == 3:
            yield pixels, stored.weight


def _jpeg_rows(pixels: Pixels, source_bytes: int) -> Iterable[_Row]:
    height, width = pixels.shape[:2]
    picture_class = classify_alone(pixels)
    if picture_class not in model.BITS_A_PIXEL:
        return
    source_bits = 8 * source_bytes / (width * height)
    longest = min(1.0, _LONGEST_PX / max(width, height))
    for share in (longest, longest / 2):
        small = resample(pixels, (max(1, round(width * share)), max(1, round(height * share))))
        area = small.shape[0] * small.shape[1]
        for quality in (60, model.QUALITY_REFERENCE, 88):
            yield _Row(picture_class, source_bits, share, quality, 8 * _jpeg(small, quality) / area)


def _fitted(rows: list[_Row]) -> dict[str, float]:
    """Fit all constants together by least squares over the logarithms."""
    classes = sorted({row.picture_class for row in rows})
    design = [
        [float(row.picture_class == name) for name in classes]
        + [
            np.log(row.source_bits),
            np.log(row.share),
            float(row.quality - model.QUALITY_REFERENCE),
        ]
        for row in rows
    ]
    solution, *_ = np.linalg.lstsq(np.array(design), np.log([row.bits for row in rows]), rcond=None)
    bits = {
        f"bits a pixel, {name}": float(np.exp(value))
        for name, value in zip(classes, solution, strict=False)
    }
    exponents = ("detail exponent", "scale exponent", "quality slope")
    return bits | dict(zip(exponents, map(float, solution[len(classes) :]), strict=True))


def _ratios(pixels: Pixels) -> Iterable[tuple[str, float]]:
    share = min(1.0, _LONGEST_PX / max(pixels.shape[:2]))
    pixels = resample(pixels, (round(pixels.shape[1] * share), round(pixels.shape[0] * share)))
    exact, picture_class = exact_weight(pixels), classify_alone(pixels)
    yield "exact over lossy", exact / _jpeg(pixels, 92)
    if picture_class is PictureClass.GRAPHIC:
        half = resample(pixels, (pixels.shape[1] // 2, pixels.shape[0] // 2))
        yield "exact scale exponent", float(np.log(exact_weight(half) / exact) / np.log(0.5))
    if pixels.ndim == 3:
        yield "grey share", _jpeg(to_grey(pixels), 75) / _jpeg(pixels, 75)
    if picture_class is PictureClass.PAGE_SCAN:
        black = divide(to_grey(pixels), BitonalMethod.OTSU)
        yield "bitonal bits", 8 * len(encode_group4(black)) / black.size


def _jpeg(pixels: Pixels, quality: int) -> int:
    return encode_as_jpeg(pixels, quality=quality, floor=0).weight


if __name__ == "__main__":
    main(sys.argv[1:])
