"""Picture files, by Pillow."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageCms, ImageOps, ImageSequence

from benchmarks.second_opinion.findings import Pixels, block_step

__all__ = ["compare_pictures"]

_COMPARED_PX = 700
_MOST_STEP = 20.0


def compare_pictures(original: Path, copy: Path) -> Iterator[str]:
    """Yield what a picture has lost: frames, its shape, what it shows."""
    import pillow_heif

    pillow_heif.register_heif_opener()
    with Image.open(original) as before, Image.open(copy) as after:
        counts = [getattr(image, "n_frames", 1) for image in (before, after)]
        if counts[0] != counts[1]:
            yield f"pictures in it: {counts[0]} -> {counts[1]}"
        pairs = zip(_frames(before), _frames(after), strict=False)
        for number, (one, other) in enumerate(pairs, start=1):
            if number > 3:
                return
            yield from _frame_changed(number, one, other)


def _frames(image: Any) -> Iterator[Any]:
    for frame in ImageSequence.Iterator(image):
        yield frame.copy()


def _frame_changed(number: int, before: Any, after: Any) -> Iterator[str]:
    one, other = (ImageOps.exif_transpose(image) for image in (before, after))
    shapes = [image.width / image.height for image in (one, other)]
    if abs(shapes[0] - shapes[1]) > 0.02 * shapes[0] and min(other.size) > 40:
        yield f"frame {number} has another shape"
        return
    share = min(1.0, _COMPARED_PX / max(other.size))
    size = (max(1, round(other.width * share)), max(1, round(other.height * share)))
    first, second = (_seen(image, size) for image in (one, other))
    if (step := block_step(first, second)) > _MOST_STEP:
        yield f"frame {number} looks different: a block by {step:.0f} of 255"


def _seen(image: Any, size: tuple[int, int]) -> Pixels:
    """On white where it is see-through, through its profile."""
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        shown = Image.new("RGBA", image.size, "white")
        shown.alpha_composite(image.convert("RGBA"))
        image = shown
    if image.mode.startswith("I"):
        deep = np.asarray(image).astype(np.float64)
        image = Image.fromarray((deep / max(1.0, deep.max() / 255)).astype(np.uint8))
    profile = image.info.get("icc_profile")
    if profile and image.mode in ("L", "RGB", "CMYK"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            target = ImageCms.createProfile("sRGB")
            image = ImageCms.profileToProfile(image, source, target, outputMode="RGB") or image
        except ImageCms.PyCMSError:
            pass
    return np.asarray(image.convert("RGB").resize(size, Image.Resampling.BOX), np.int16)
