"""The PDFs that speed, size, memory and looks are measured on."""

import io
import sys
import zlib
from pathlib import Path

import numpy as np
import pikepdf
from PIL import Image
from skimage import data

from demo.scenery import chart, landscape
from tests.builders import PdfBuilder, Show

__all__ = ["make_mixed_book", "make_picture_book", "photo_pages"]

_PAGE_PT = (595, 842)
_PICTURES_A_PAGE = 3


def make_picture_book(
    path: Path, *, pages: int = 100, ppis: tuple[int, int, int] = (200, 300, 400)
) -> None:
    """Three pictures a page at `ppis` in turn: four in five photos in JPEG, the rest charts."""
    pdf = pikepdf.new()
    for page in range(pages):
        pictures = [_picture(pdf, page * _PICTURES_A_PAGE + slot, ppis) for slot in range(3)]
        content = b"".join(
            b"q 400 0 0 250 90 %d cm /P%d Do Q\n" % (20 + 270 * slot, slot) for slot in range(3)
        )
        resources = {f"/P{slot}": picture for slot, picture in enumerate(pictures)}
        _add_page(pdf, content, resources)
    pdf.save(path)


def make_mixed_book(path: Path, *, seed: int, pictures: int = 40) -> None:
    """Pictures of many kinds at many sizes and finenesses, as documents grow over the years.

    Photos of scikit-image, scenes and charts made here; 90 to 400 points wide, 110 to 450 ppi.
    """
    random = np.random.default_rng(seed)
    photos = [
        data.astronaut(),
        data.coffee(),
        data.chelsea(),
        data.rocket(),
        data.immunohistochemistry(),
    ]
    pdf = pikepdf.new()
    for number in range(pictures):
        width_pt, ppi = int(random.integers(90, 400)), int(random.integers(110, 450))
        size = (width_pt * ppi // 72, width_pt * 2 // 3 * ppi // 72)
        kind = number % 4
        if kind == 0:
            pixels = chart(*size, seed=seed * 100 + number)
        elif kind == 1:
            pixels = landscape(*size, seed=seed * 100 + number)
        else:
            photo = photos[int(random.integers(len(photos)))]
            pixels = np.asarray(Image.fromarray(photo).resize(size, Image.Resampling.LANCZOS))
        picture = _stream_of(pdf, pixels, is_jpeg=kind != 0)
        content = b"q %d 0 0 %d 60 200 cm /P0 Do Q" % (width_pt, width_pt * 2 // 3)
        _add_page(pdf, content, {"/P0": picture})
    pdf.save(path)


def _add_page(pdf: pikepdf.Pdf, content: bytes, resources: dict[str, pikepdf.Stream]) -> None:
    pdf.pages.append(
        pikepdf.Page(
            pikepdf.Dictionary(
                Type=pikepdf.Name.Page,
                MediaBox=[0, 0, *_PAGE_PT],
                Contents=pdf.make_stream(content),
                Resources=pikepdf.Dictionary(XObject=pikepdf.Dictionary(resources)),
            )
        )
    )


def photo_pages(*seeds: int) -> bytes:
    """A PDF with a photo of about 1 MB on each page."""
    out = io.BytesIO()
    builder = PdfBuilder()
    for seed in seeds:
        builder.jpeg(f"Photo{seed}", landscape(1700, 1100, seed), quality=90)
        builder.page(Show(f"Photo{seed}", (480, 0, 0, 320, 60, 300)))
    builder.pdf.save(out)
    return out.getvalue()


def _picture(pdf: pikepdf.Pdf, number: int, ppis: tuple[int, int, int]) -> pikepdf.Stream:
    """400 x 250 points at one of `ppis`."""
    ppi = ppis[number % 3]
    size = (400 * ppi // 72, 250 * ppi // 72)
    is_chart = number % 5 == 4
    pixels = chart(*size, seed=number) if is_chart else landscape(*size, seed=number)
    return _stream_of(pdf, pixels, is_jpeg=not is_chart)


def _stream_of(pdf: pikepdf.Pdf, pixels: np.ndarray, *, is_jpeg: bool) -> pikepdf.Stream:
    if is_jpeg:
        coded = io.BytesIO()
        Image.fromarray(pixels).save(coded, "JPEG", quality=92)
        stream = pdf.make_stream(coded.getvalue())
        stream.Filter = pikepdf.Name.DCTDecode
    else:
        stream = pdf.make_stream(zlib.compress(pixels.tobytes(), 6))
        stream.Filter = pikepdf.Name.FlateDecode
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = pixels.shape[1], pixels.shape[0], 8
    stream.ColorSpace = pikepdf.Name.DeviceRGB
    return stream


if __name__ == "__main__":
    make_picture_book(Path(sys.argv[1]))
