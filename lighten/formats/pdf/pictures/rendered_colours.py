"""A picture as readers show it, for colours whose samples are not light."""

import io
from dataclasses import dataclass

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.codecs.pdfium_lock import pdfium_serialised

__all__ = ["PictureAlone"]


@dataclass(frozen=True, slots=True)
class PictureAlone:
    """A PDF of one page that shows a picture, without its masks, a point a pixel."""

    pdf: bytes

    @classmethod
    def of(cls, picture: pikepdf.Stream) -> "PictureAlone":
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
        return cls(out.getvalue())

    @property
    def key(self) -> bytes:
        return self.pdf

    @pdfium_serialised
    def pixels(self, width_px: int, height_px: int) -> NDArray[np.uint8]:
        """Return the pixels as rendered: (height, width, 3) uint8, sRGB. Raises: ValueError."""
        import pypdfium2

        try:
            document = pypdfium2.PdfDocument(self.pdf)
            drawn = document[0].render(scale=1, rev_byteorder=True).to_numpy()
            pixels = np.array(drawn[:height_px, :width_px, :3])
            document.close()
        except pypdfium2.PdfiumError as error:
            raise ValueError("its colours cannot be shown") from error
        return pixels
