"""Two-tone codings: Group 3 and 4 (ITU-T T.4, T.6) and JBIG2 (ITU-T T.88).

Group 4 is written by libtiff, JBIG2 by `lighten.codecs.jbig2`. All are read by pdfium, which knows
every variant that a PDF may hold; it is given a PDF of one picture.
"""

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.pdfium_lock import pdfium_serialised

__all__ = [
    "CCITT",
    "JBIG2",
    "BitonalParameters",
    "decode_bitonal",
    "encode_group4",
    "pdf_of_one_picture",
]

# The codings by the names that a PDF has for them (ISO 32000-1, table 6).
CCITT, JBIG2 = "CCITTFaxDecode", "JBIG2Decode"

_TIFF_COMPRESSION_GROUP4 = "group4"
# Tags of TIFF 6.0.
_ROWS_PER_STRIP, _STRIP_OFFSETS, _STRIP_BYTES = 278, 273, 279
_FILL_ORDER = 266


@dataclass(frozen=True, slots=True, kw_only=True)
class BitonalParameters:
    """Values that the coded bytes do not carry themselves.

    dictionary: the filter's parameters as PDF text. jbig2_globals: shared symbols, or none.
    Source: ISO 32000-1, tables 11 and 12.
    """

    dictionary: bytes = b""
    jbig2_globals: bytes = b""


def encode_group4(black: NDArray[np.bool_]) -> bytes:
    """Encode (height, width) pixels, true where black, in Group 4; decoded bits of 1 are black."""
    from PIL import Image

    file = io.BytesIO()
    # The coder takes ones for black whatever the TIFF calls them; asked to call them so, Pillow
    # turns every pixel round by itself, for seconds.
    Image.fromarray(black).save(
        file,
        "TIFF",
        compression=_TIFF_COMPRESSION_GROUP4,
        tiffinfo={_ROWS_PER_STRIP: black.shape[0]},
    )
    with Image.open(io.BytesIO(file.getvalue())) as image:
        tags = image.tag_v2  # type: ignore[attr-defined] # of TIFF images
        (start,), (size,) = tags[_STRIP_OFFSETS], tags[_STRIP_BYTES]
        assert tags.get(_FILL_ORDER, 1) == 1
    return file.getvalue()[start : start + size]


@pdfium_serialised
def decode_bitonal(
    data: bytes, coding: str, parameters: BitonalParameters, *, width_px: int, height_px: int
) -> NDArray[np.uint8]:
    """The samples as PDF counts them, 0 or 1: (height, width) uint8.

    coding: `CCITT` or `JBIG2`. Raises: ValueError if they cannot be read.
    """
    import pypdfium2
    import pypdfium2.raw as pdfium

    whole = pdf_of_one_picture(data, coding, parameters, width_px, height_px)
    document = pypdfium2.PdfDocument(whole)
    try:
        page = document[0]
        pictures = list(page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE]))
        if not pictures:
            raise ValueError(f"{coding} that cannot be read")
        drawn = pictures[0].get_bitmap()
        pixels = np.array(drawn.to_numpy())
    except pypdfium2.PdfiumError as error:
        raise ValueError(f"{coding} that cannot be read") from error
    finally:
        document.close()
    if pixels.shape[:2] != (height_px, width_px):
        raise ValueError(f"{coding} of another size than declared")
    plane = pixels if pixels.ndim == 2 else pixels[..., 0]
    return np.asarray(plane > 127, np.uint8)


def pdf_of_one_picture(
    data: bytes, coding: str, parameters: BitonalParameters, width_px: int, height_px: int
) -> bytes:
    """A PDF of one page that shows nothing but the picture."""
    extra = parameters.dictionary
    if parameters.jbig2_globals:
        extra = b"/JBIG2Globals 6 0 R " + extra
    picture = (
        b"<</Type/XObject/Subtype/Image/ColorSpace/DeviceGray/BitsPerComponent 1"
        b"/Width %d/Height %d/Filter/%s/DecodeParms<<%s>>/Length %d>>stream\n"
        % (width_px, height_px, coding.encode(), extra, len(data))
    )
    bodies = [
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R"
        b"/Resources<</XObject<</P 5 0 R>>>>>>",
        b"<</Length 5>>stream\n/P Do\nendstream",
        picture + data + b"\nendstream",
    ]
    if parameters.jbig2_globals:
        shared = parameters.jbig2_globals
        bodies.append(b"<</Length %d>>stream\n%s\nendstream" % (len(shared), shared))
    out = bytearray(b"%PDF-1.5\n")
    places = []
    for number, body in enumerate(bodies, start=1):
        places.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, body)
    start = len(out)
    out += b"xref\n0 %d\n0000000000 65535 f \n" % (len(bodies) + 1)
    out += b"".join(b"%010d 00000 n \n" % place for place in places)
    out += b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n" % (len(bodies) + 1, start)
    return bytes(out)
