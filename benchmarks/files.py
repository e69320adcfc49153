"""The PDF that speed, size and memory are measured on: 100 pages, 300 pictures."""

import io
import sys
import zlib
from pathlib import Path

import pikepdf
from PIL import Image

from demo.scenery import chart, landscape

__all__ = ["make_picture_book"]

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
    pdf.save(path)


def _picture(pdf: pikepdf.Pdf, number: int, ppis: tuple[int, int, int]) -> pikepdf.Stream:
    """400 x 250 points at one of `ppis`."""
    ppi = ppis[number % 3]
    size = (400 * ppi // 72, 250 * ppi // 72)
    is_chart = number % 5 == 4
    pixels = chart(*size, seed=number) if is_chart else landscape(*size, seed=number)
    if is_chart:
        stream = pdf.make_stream(zlib.compress(pixels.tobytes(), 6))
        stream.Filter = pikepdf.Name.FlateDecode
    else:
        coded = io.BytesIO()
        Image.fromarray(pixels).save(coded, "JPEG", quality=92)
        stream = pdf.make_stream(coded.getvalue())
        stream.Filter = pikepdf.Name.DCTDecode
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = *size, 8
    stream.ColorSpace = pikepdf.Name.DeviceRGB
    return stream


if __name__ == "__main__":
    make_picture_book(Path(sys.argv[1]))
