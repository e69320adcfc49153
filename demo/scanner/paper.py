"""Ringing logs as they lie in the stand-in's feeder and on its glass, and as its lens sees them."""

import io
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFilter

from demo.scenery import logbook_page

__all__ = ["Flaws", "picture_of"]

_A4_PX = (2480, 3508)
_DRAWN_PPI = 300
# Sheets of which the other side is bare, and one that somebody left between.
_BLANK_EVERY = 5
_JPEG_QUALITY = 88

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class Flaws:
    """Flaws that the stand-in adds to pages, each from 0 (none) to 1.

    skew: how far it draws paper in askew. noise: grain. shade: light that falls off to one side.
    dust: specks on the glass.
    """

    skew: float = 0.4
    noise: float = 0.4
    shade: float = 0.3
    dust: float = 0.2


def picture_of(
    sheet: int, *, ppi: int, size: tuple[int, int], mode: str, media_type: str, flaws: Flaws
) -> bytes:
    """A side of paper as a scanner sends it.

    sheet: which side, from 0 on. size: width and height in 300ths of an inch. mode: as the
    protocol has it. media_type: "image/jpeg" or "image/png".
    """
    width, height = (round(side * ppi / 300) for side in size)
    page = Image.fromarray(_drawn(sheet))
    on_glass = Image.new("RGB", size, (236, 235, 232))
    on_glass.paste(page, (0, 0))
    random = np.random.default_rng(sheet)
    if flaws.skew:
        degrees = float(random.uniform(-1, 1)) * flaws.skew
        on_glass = on_glass.rotate(
            degrees, resample=Image.Resampling.BICUBIC, fillcolor=(236, 235, 232)
        )
    image = on_glass.resize((width, height), Image.Resampling.LANCZOS)
    seen = Image.fromarray(_seen(np.asarray(image), flaws, random))
    return _coded(seen, mode, media_type, ppi)


@lru_cache(maxsize=12)
def _drawn(sheet: int) -> Pixels:
    """At 300 ppi, (height, width, 3)."""
    if sheet % _BLANK_EVERY == _BLANK_EVERY - 1:
        return np.full((_A4_PX[1], _A4_PX[0], 3), (247, 244, 236), np.uint8)
    return logbook_page(*_A4_PX, seed=sheet + 30)


def _seen(pixels: Pixels, flaws: Flaws, random: np.random.Generator) -> Pixels:
    height, width = pixels.shape[:2]
    light = 1 - 0.2 * flaws.shade * np.linspace(0, 1, width, dtype=np.float32)[None, :, None] ** 2
    grain = random.standard_normal((height, width, 1), np.float32) * (5 * flaws.noise)
    seen = pixels * light + grain
    for _ in range(round(60 * flaws.dust)):
        y, x = int(random.integers(height - 4)), int(random.integers(width - 4))
        seen[y : y + int(random.integers(1, 4)), x : x + int(random.integers(1, 4))] -= 90
    return np.asarray(np.clip(seen, 0, 255), np.uint8)


def _coded(image: Image.Image, mode: str, media_type: str, ppi: int) -> bytes:
    if mode == "Grayscale8":
        image = image.convert("L")
    elif mode == "BlackAndWhite1":
        image = image.convert("L").filter(ImageFilter.MedianFilter(3))
        image = image.point(lambda tone: 255 if tone > 150 else 0).convert("1")
    file = io.BytesIO()
    if media_type == "image/png":
        image.save(file, "PNG", dpi=(ppi, ppi))
    else:
        if image.mode == "1":
            image = image.convert("L")
        image.save(file, "JPEG", quality=_JPEG_QUALITY, dpi=(ppi, ppi))
    return file.getvalue()
