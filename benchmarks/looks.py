"""How pictures look by a library that is not ours, for every benchmark."""

import tempfile
from pathlib import Path

from PIL import Image
from ssimulacra2 import compute_ssimulacra2

__all__ = ["ssimulacra2"]


def ssimulacra2(before: Image.Image, after: Image.Image) -> float:
    """100 for the same; both of one size. Through files, as the library takes nothing else."""
    with tempfile.TemporaryDirectory() as folder:
        paths = [str(Path(folder) / name) for name in ("before.png", "after.png")]
        for image, path in zip((before, after), paths, strict=True):
            image.convert("RGB").save(path, compress_level=1)
        return float(compute_ssimulacra2(*paths))
