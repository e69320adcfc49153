"""The plain loop that anybody would write first: pikepdf and Pillow, one picture after another.

Every picture is decoded, brought to 150 ppi, coded as JPEG at quality 75, and the file saved with
object streams.
"""

import io
import sys
from pathlib import Path

import pikepdf
from pikepdf import DependencyError
from PIL import Image

__all__ = ["reduce"]

_PPI = 150
_QUALITY = 75


def reduce(source: Path, out: Path, quality: int = _QUALITY) -> None:
    """A reduced copy of `source` at `out`."""
    with pikepdf.open(source) as pdf:
        shown = _widths_shown_pt(pdf)
        for stream in pdf.objects:
            if isinstance(stream, pikepdf.Stream) and stream.get("/Subtype") == "/Image":
                _reduce_picture(stream, shown.get(stream.objgen), quality)
        pdf.save(out, object_stream_mode=pikepdf.ObjectStreamMode.generate)


def _reduce_picture(stream: pikepdf.Stream, width_pt: float | None, quality: int) -> None:
    if stream.get("/ImageMask", False) or width_pt is None:
        return
    try:
        image = pikepdf.PdfImage(stream).as_pil_image()
    except (NotImplementedError, ValueError, OSError, pikepdf.PdfError, DependencyError):
        return
    if image.mode not in ("L", "RGB"):
        image = image.convert("RGB")
    target = round(width_pt / 72 * _PPI)
    if target < image.width:
        height = max(1, round(image.height * target / image.width))
        image = image.resize((target, height), Image.Resampling.LANCZOS)
    coded = io.BytesIO()
    image.save(coded, "JPEG", quality=quality)
    if len(coded.getvalue()) >= len(stream.read_raw_bytes()):
        return
    stream.write(coded.getvalue(), filter=pikepdf.Name.DCTDecode)
    stream.Width, stream.Height, stream.BitsPerComponent = image.width, image.height, 8
    stream.ColorSpace = pikepdf.Name.DeviceGray if image.mode == "L" else pikepdf.Name.DeviceRGB
    for key in ("/Decode", "/DecodeParms"):
        if key in stream:
            del stream[key]


def _widths_shown_pt(pdf: pikepdf.Pdf) -> dict[tuple[int, int], float]:
    """The widest showing of each picture straight on a page; forms are not followed."""
    widths: dict[tuple[int, int], float] = {}
    for page in pdf.pages:
        current, saved = pikepdf.Matrix(), []
        for drawn in pikepdf.parse_content_stream(page, "q Q cm Do"):
            operands = drawn.operands
            match str(drawn.operator):
                case "q":
                    saved.append(current)
                case "Q" if saved:
                    current = saved.pop()
                case "cm":
                    current = pikepdf.Matrix(*operands) @ current
                case "Do":
                    picture = page.resources.get("/XObject", pikepdf.Dictionary()).get(
                        str(operands[0])
                    )
                    if isinstance(picture, pikepdf.Stream):
                        width = (current.a**2 + current.b**2) ** 0.5
                        widths[picture.objgen] = max(widths.get(picture.objgen, 0), width)
    return widths


if __name__ == "__main__":
    reduce(Path(sys.argv[1]), Path(sys.argv[2]))
