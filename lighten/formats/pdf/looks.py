"""A picture as readers show it, for colours whose samples are not light."""

import io

import numpy as np
import pikepdf
from numpy.typing import NDArray

__all__ = ["decode_looks", "picture_alone"]


def picture_alone(picture: pikepdf.Stream) -> bytes:
    """A PDF of one page that shows the picture, without its masks, a point a pixel."""
    alone = pikepdf.new()
    copied = alone.copy_foreign(picture)
    for key in ("/SMask", "/Mask", "/OC", "/Metadata"):
        if key in copied:
            del copied[key]
    width, height = int(picture.Width), int(picture.Height)
    page = alone.add_blank_page(page_size=(width, height))
    page.obj.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=copied))
    page.obj.Contents = alone.make_stream(b"%d 0 0 %d 0 0 cm /P Do" % (width, height))
    out = io.BytesIO()
    alone.save(out)
    return out.getvalue()


def decode_looks(alone: bytes, width_px: int, height_px: int) -> NDArray[np.uint8]:
    """(height, width, 3) uint8, sRGB, of what `picture_alone` wrote. Raises: ValueError."""
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(alone)
        drawn = document[0].render(scale=1, rev_byteorder=True).to_numpy()
        pixels = np.array(drawn[:height_px, :width_px, :3])
        document.close()
    except pypdfium2.PdfiumError as error:
        raise ValueError("its colours cannot be shown") from error
    return pixels
