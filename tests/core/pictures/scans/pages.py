"""Pages as a scanner sees them, for the tests of layers."""

from pathlib import Path

import numpy as np
import reportlab
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter, ImageFont

__all__ = ["PPI", "print_page", "scanned"]

PPI = 300
_MM = PPI / 25.4
_FONT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
_LINES = ("Ringed at the fen on 14 May", "reed warbler  A 7318  wing 66.5", "sedge warbler  B 0926")


def print_page(
    width_mm: float = 90, height_mm: float = 60, ink: tuple[int, int, int] = (20, 20, 24)
) -> NDArray[np.uint8]:
    """Lines of 10 pt text on white, (height, width, 3)."""
    page = Image.new("RGB", (round(width_mm * _MM), round(height_mm * _MM)), "white")
    pen, font = ImageDraw.Draw(page), ImageFont.truetype(str(_FONT), round(10 / 72 * PPI))
    for number in range(int((height_mm - 12) / 6)):
        text = _LINES[number % len(_LINES)]
        pen.text((8 * _MM, (6 + 6 * number) * _MM), text, font=font, fill=ink)
    return np.asarray(page)


def scanned(page: NDArray[np.uint8], seed: int = 1) -> NDArray[np.uint8]:
    """A little soft, on paper with a tint and grain."""
    soft = np.asarray(Image.fromarray(page).filter(ImageFilter.GaussianBlur(0.8)), np.float64)
    paper = np.array([248.0, 245.0, 236.0])
    grain = np.random.default_rng(seed).normal(0, 1.5, page.shape)
    return np.clip(soft * paper / 255 + grain, 0, 255).astype(np.uint8)
