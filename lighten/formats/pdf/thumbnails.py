"""Small copies of pictures, to recognise them by."""

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.contract import Source
from lighten.errors import UnsupportedFileError
from lighten.formats.pdf.decode_pictures import decode
from lighten.formats.pdf.documents import open_pdf
from lighten.formats.pdf.inline_pictures import lift_inline_pictures
from lighten.formats.pdf.stored_pictures import read_picture, why_untouchable
from lighten.formats.pdf.weigh import part_object
from lighten.pictures.resample import resample

__all__ = ["draw_thumbnail"]


def draw_thumbnail(source: Source, part_id: str, longest_px: int) -> NDArray[np.uint8]:
    """The picture with its longer side at most `longest_px`: (height, width[, 3]) uint8.

    Raises: KeyError for an unknown id; UnsupportedFileError for one that cannot be decoded here.
    """
    with open_pdf(source) as pdf:
        picture = part_object(pdf, part_id)
        if not isinstance(picture, pikepdf.Stream):
            lift_inline_pictures(pdf)
            picture = part_object(pdf, part_id)
        if not isinstance(picture, pikepdf.Stream) or picture.get("/Subtype") != "/Image":
            raise KeyError(part_id)
        try:
            pixels = _pixels(picture, longest_px)
        except (ValueError, OSError, NotImplementedError, pikepdf.PdfError) as error:
            raise UnsupportedFileError(f"the picture cannot be drawn ({error})") from error
    height, width = pixels.shape[:2]
    scale = min(1.0, longest_px / max(width, height))
    return resample(pixels, (max(1, round(width * scale)), max(1, round(height * scale))))


def _pixels(picture: pikepdf.Stream, longest_px: int) -> NDArray[np.uint8]:
    """Its pixels, perhaps more than asked for."""
    if why_untouchable(picture):
        # The object library reads codings that the engine leaves alone.
        image = pikepdf.PdfImage(picture).as_pil_image()
        image.thumbnail((longest_px, longest_px))
        return np.asarray(image.convert("RGB"))
    stored = read_picture(picture)
    scale = longest_px / max(stored.width_px, stored.height_px)
    return decode(
        stored, at_least=(round(stored.width_px * scale), round(stored.height_px * scale))
    )
