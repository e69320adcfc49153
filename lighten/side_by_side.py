"""Pages of a copy and its original, drawn as somebody looks at them."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.contract import Reading, Source
from lighten.pictures.likeness import luma
from lighten.proofs import Box
from lighten.registry import format_of

__all__ = ["SideBySide", "read_both"]

# Differences of light that the heat shows: from hardly visible to plain, of 255.
_COOL, _HOT = 2.0, 32.0
_RUST = (180, 71, 46)
_MOST_HEAT = 230


class SideBySide:
    """Two readings of one document."""

    def __init__(self, original: Reading, copy: Reading) -> None:
        self._sides = {"original": original, "copy": copy}

    def draw(self, side: str, page: int, box: Box | None, dpi: float, out: Path | str) -> None:
        """A page, or the `box` of it, as a PNG file at `out`.

        side: "original", "copy", or "difference": rust where they differ, see-through elsewhere.
        Raises: UnreadableFileError if it cannot be drawn.
        """
        from PIL import Image

        if side == "difference":
            pixels = _heat(
                self._pixels("original", page, box, dpi), self._pixels("copy", page, box, dpi)
            )
        else:
            pixels = self._pixels(side, page, box, dpi)
        Image.fromarray(pixels).save(out, "PNG", compress_level=1)

    def _pixels(self, side: str, page: int, box: Box | None, dpi: float) -> NDArray[np.uint8]:
        reading = self._sides[side]
        return reading.view(page, dpi).pixels if box is None else reading.spot(page, dpi, box)


@contextmanager
def read_both(original: Source, copy: Path) -> Iterator[SideBySide]:
    """Both files opened. Raises: as `Format.read`."""
    format_ = format_of(original)
    with format_.read(original) as one, format_.read(replace(original, path=copy)) as other:
        yield SideBySide(one, other)


def _heat(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height, width, 4) uint8: rust, the stronger the more the two differ there."""
    height, width = min(one.shape[0], other.shape[0]), min(one.shape[1], other.shape[1])
    off = np.abs(luma(one[:height, :width]) - luma(other[:height, :width]))
    strength = np.clip((off - _COOL) / (_HOT - _COOL), 0, 1) ** 0.6
    heat = np.empty((height, width, 4), np.uint8)
    heat[..., :3] = _RUST
    heat[..., 3] = (strength * _MOST_HEAT).astype(np.uint8)
    return heat
