"""Scores of pictures by a library that is not ours, for every benchmark."""

import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from ssimulacra2 import compute_ssimulacra2

__all__ = ["ssimulacra2"]

_LEAST_PX = 512
_LEAST_MARGIN_PX = 32


def ssimulacra2(before: Image.Image, after: Image.Image) -> float:
    """100 for the same; both of one size. Through files, as the library takes nothing else.

    The library takes what lies above and below a picture for black, which drowns small pictures
    (73 became 48 at 160 x 160): both are mirrored outwards first, by 32 pixels or to 512.
    """
    with tempfile.TemporaryDirectory() as folder:
        paths = [str(Path(folder) / name) for name in ("before.png", "after.png")]
        for image, path in zip((before, after), paths, strict=True):
            Image.fromarray(_mirrored(np.asarray(image.convert("RGB")))).save(
                path, compress_level=1
            )
        return float(compute_ssimulacra2(*paths))


def _mirrored(pixels: np.ndarray) -> np.ndarray:
    margins = [max(_LEAST_MARGIN_PX, -(-(_LEAST_PX - side) // 2)) for side in pixels.shape[:2]]
    return np.pad(pixels, [(margin, margin) for margin in margins] + [(0, 0)], mode="symmetric")
