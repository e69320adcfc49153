"""Small PDFs, made piece by piece, each as a real program might have written it."""

import io
import shutil
import tempfile
import unittest
import zlib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from demo.scenery import chart, landscape
from demo.scenery import logbook_page as logbook

__all__ = [
    "FolderCase",
    "PdfBuilder",
    "Show",
    "as_jpeg",
    "chart",
    "landscape",
    "logbook",
    "print_of",
    "text_page",
]

Pixels = NDArray[np.uint8]
LETTER_PT = (612, 792)


class FolderCase(unittest.TestCase):
    """A test with a folder of its own, gone afterwards."""

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="lighten-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)


@dataclass
class Show:
    """A picture at a place of a page: name of the picture, matrix as in "cm"."""

    name: str
    matrix: tuple[float, ...]


def as_jpeg(pixels: Pixels, quality: int = 90, **options: Any) -> bytes:
    coded = io.BytesIO()
    Image.fromarray(pixels).save(coded, "JPEG", quality=quality, **options)
    return coded.getvalue()


def print_of(words: str, seed: int = 1, wear: float = 0.02) -> NDArray[np.bool_]:
    """Lines of print, black where true, with pixels turned at borders, as scanners do."""
    font = ImageFont.load_default(28)
    image = Image.new("L", (900, 420), 255)
    draw = ImageDraw.Draw(image)
    for line in range(10):
        draw.text((20, 10 + 40 * line), words, fill=0, font=font)
    black = np.asarray(image) < 128
    edge = black ^ np.roll(black, 1, axis=1)
    return black ^ (edge & (np.random.default_rng(seed).random(black.shape) < wear))


def text_page(words: str, size: int = 14) -> bytes:
    """Content that writes one line in Helvetica."""
    escaped = words.replace("\\", r"\\").replace("(", r"\(").replace(")", r"\)")
    return f"BT /F1 {size} Tf 72 700 Td ({escaped}) Tj ET\n".encode("latin-1")


@dataclass
class PdfBuilder:
    """Adds pictures and pages, then saves."""

    pdf: pikepdf.Pdf = field(default_factory=pikepdf.new)
    pictures: dict[str, pikepdf.Object] = field(default_factory=dict)

    def jpeg(self, name: str, pixels: Pixels, quality: int = 90) -> "PdfBuilder":
        """A picture in DCT, grey or colour as its pixels are."""
        return self.stream(
            name,
            as_jpeg(pixels, quality),
            size=(pixels.shape[1], pixels.shape[0]),
            Filter=pikepdf.Name.DCTDecode,
            ColorSpace=pikepdf.Name.DeviceGray if pixels.ndim == 2 else pikepdf.Name.DeviceRGB,
        )

    def flate(self, name: str, pixels: Pixels, **entries: Any) -> "PdfBuilder":
        """A picture in Flate without a predictor."""
        return self.stream(
            name,
            zlib.compress(pixels.tobytes(), 6),
            size=(pixels.shape[1], pixels.shape[0]),
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.DeviceGray if pixels.ndim == 2 else pikepdf.Name.DeviceRGB,
            **entries,
        )

    def stream(
        self, name: str, data: bytes, *, size: tuple[int, int], bits: int = 8, **entries: Any
    ) -> "PdfBuilder":
        stream = self.pdf.make_stream(data)
        stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
        stream.Width, stream.Height, stream.BitsPerComponent = *size, bits
        for key, value in entries.items():
            stream[f"/{key}"] = value
        self.pictures[name] = stream
        return self

    def page(
        self,
        *shows: Show,
        content: bytes = b"",
        size: tuple[float, float] = LETTER_PT,
        **entries: Any,
    ) -> "PdfBuilder":
        drawing = content + b"".join(
            b"q %s cm /%s Do Q\n"
            % (" ".join(f"{number:g}" for number in show.matrix).encode(), show.name.encode())
            for show in shows
        )
        font = pikepdf.Dictionary(
            Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica
        )
        shown = {f"/{show.name}": self.pictures[show.name] for show in shows}
        page = pikepdf.Dictionary(
            Type=pikepdf.Name.Page,
            MediaBox=[0, 0, *size],
            Contents=self.pdf.make_stream(drawing),
            Resources=pikepdf.Dictionary(
                XObject=pikepdf.Dictionary(shown), Font=pikepdf.Dictionary(F1=font)
            ),
        )
        for key, value in entries.items():
            page[f"/{key}"] = value
        self.pdf.pages.append(pikepdf.Page(page))
        return self

    def save(self, path: Path, **options: Any) -> Path:
        self.pdf.save(path, **{"fix_metadata_version": False, **options})
        return path
