"""A PDF through readers that had no part in writing the copy."""

import logging
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.codecs.pdfium_lock import pdfium_serialised
from lighten.contract import PageView
from lighten.formats.pdf.extras.annotations import ANNOTATION_KINDS
from lighten.formats.pdf.fonts.compare_fonts import changed_fonts
from lighten.formats.pdf.objects.open_file import locked, open_pdf
from lighten.formats.pdf.objects.part_ids import part_object_id
from lighten.formats.pdf.pages.same_drawing import SameDrawing
from lighten.formats.pdf.pages.shown_pictures import shown_pictures
from lighten.formats.pdf.preserved_features import annotation_boxes, preserved_features
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.proofs import Box
from lighten.model.source import Source
from lighten.pictures.pixels.planes import as_rgb

__all__ = ["PdfReading", "read_pdf"]

_POINTS_PER_INCH = 72.0
_MOST_PIXELS = 12_000_000
# As far as a box may lie beside the picture that fills it.
_NEAR_PT = 1.0
# Of a pixel: an edge that lies beside a whole one by less than that does not take in another.
_INSET_PX = 0.05


class PdfReading:
    """Pages drawn and text read by pdfium; what must survive, from the objects."""

    readers = (
        "pages, pictures and text: pdfium, one renderer",
        "structure: qpdf",
        "glyphs of fonts that changed: FreeType",
    )

    def __init__(self, document: Any, source: Source) -> None:
        self.document, self._source = document, source
        self._annotations: Mapping[int, tuple[tuple[ExtraKind, Box], ...]] | None = None
        self._page: tuple[int, Any] | None = None
        self._shown: tuple[int, list[tuple[Box, Any]]] | None = None
        self.page_sizes = tuple(document.get_page_size(index) for index in range(len(document)))

    def preserved_features(self) -> Mapping[str, tuple[str, ...]]:
        """See `Reading`; read each time it is asked for."""
        with open_pdf(self._source) as pdf:
            return preserved_features(pdf)

    def changed_fonts(self, copy: Path, *, may_lack_files: bool) -> tuple[str, ...]:
        """See `FontsReading`."""
        with open_pdf(self._source) as before, open_pdf(replace(self._source, path=copy)) as after:
            try:
                return changed_fonts(before, after, may_lack_files=may_lack_files)
            except pikepdf.PdfError as error:
                return (f"fonts were not compared: contents cannot be decoded ({error})",)

    def pages_drawn_alike(
        self, copy: Path, pages: Collection[int], treated: Collection[str]
    ) -> Mapping[int, bool]:
        """See `LockstepReading`."""
        with open_pdf(self._source) as before, open_pdf(replace(self._source, path=copy)) as after:
            walk = SameDrawing(before, after, differing={part_object_id(id_) for id_ in treated})
            return walk.equal_pages(pages)

    def annotation_boxes(self, page: int, kinds: Collection[ExtraKind]) -> tuple[Box, ...]:
        """Return the boxes of annotations of those kinds on a page, in points from lower left."""
        if ANNOTATION_KINDS.isdisjoint(kinds):
            return ()
        if self._annotations is None:
            with open_pdf(self._source) as pdf:
                self._annotations = dict(annotation_boxes(pdf))
        return tuple(box for kind, box in self._annotations.get(page, ()) if kind in kinds)

    @pdfium_serialised
    def page_text(self, page: int) -> str:
        """See `LockstepReading`."""
        import pypdfium2

        self._size_of(page)
        try:
            return _text_of_page(self._opened(page))
        except pypdfium2.PdfiumError as error:
            raise UnreadableFileError(f"page {page} cannot be read ({error})") from error

    @pdfium_serialised
    def view(self, page: int, dpi: float) -> PageView:
        """The page as pdfium shows it; a huge one at fewer dpi. Raises: UnreadableFileError."""
        import pypdfium2

        width_pt, height_pt = self._size_of(page)
        area = width_pt * height_pt * (dpi / _POINTS_PER_INCH) ** 2
        if area > _MOST_PIXELS:
            dpi *= float(np.sqrt(_MOST_PIXELS / area))
        try:
            drawn = self._opened(page)
            bitmap = drawn.render(scale=dpi / _POINTS_PER_INCH, rev_byteorder=True)
            pixels = np.array(bitmap.to_numpy()[..., :3])
            text = _text_of_page(drawn)
        except pypdfium2.PdfiumError as error:
            raise UnreadableFileError(f"page {page} cannot be drawn ({error})") from error
        if pixels.ndim == 2 or pixels.shape[2] == 1:
            pixels = np.repeat(pixels.reshape(*pixels.shape[:2], 1), 3, axis=2)
        return PageView(pixels=pixels, dpi=dpi, text=text)

    @pdfium_serialised
    def render_region_at_size(
        self, page: int, box: Box, size_px: tuple[int, int]
    ) -> NDArray[np.uint8]:
        """A box of a page over just that many pixels. Raises: UnreadableFileError.

        A picture that fills the box, and has that many pixels, comes out pixel by pixel.
        """
        import pypdfium2
        import pypdfium2.raw as pdfium

        width_pt, height_pt = self._size_of(page)
        left, low, right, high = box
        width, height = size_px
        # The page is laid over whole points first, and outer edges are rounded away from it.
        across = (width - 2 * _INSET_PX) / (right - left)
        down = (height - 2 * _INSET_PX) / (high - low)
        matrix = pdfium.FS_MATRIX(
            across * width_pt / int(width_pt),
            0,
            0,
            down * height_pt / int(height_pt),
            _INSET_PX - left * across,
            _INSET_PX - (height_pt - high) * down,
        )
        try:
            drawn = self._opened(page)
            bitmap = pypdfium2.PdfBitmap.new_native(
                width, height, pdfium.FPDFBitmap_BGR, rev_byteorder=True
            )
            bitmap.fill_rect((255, 255, 255, 255), 0, 0, width, height)
            pdfium.FPDF_RenderPageBitmapWithMatrix(
                bitmap,
                drawn,
                matrix,
                pdfium.FS_RECTF(0, 0, width, height),
                pdfium.FPDF_ANNOT | pdfium.FPDF_REVERSE_BYTE_ORDER,
            )
            return np.array(bitmap.to_numpy())
        except pypdfium2.PdfiumError as error:
            raise UnreadableFileError(f"page {page} cannot be drawn ({error})") from error

    @pdfium_serialised
    def embedded_image(self, page: int, box: Box) -> NDArray[np.uint8] | None:
        """Decode all pixels of the picture that fills a box by pdfium, without masks.

        None where there is not just one such. Returns (height, width, 3) uint8. Raises: as `view`.
        """
        import pypdfium2

        try:
            if self._shown is None or self._shown[0] != page:
                self._shown = (page, list(shown_pictures(self._opened(page))))
            fitting = [
                picture
                for sides, picture in self._shown[1]
                if all(abs(a - b) <= _NEAR_PT for a, b in zip(sides, box, strict=True))
            ]
            if len(fitting) != 1 or any(
                _covers(sides, box)
                for sides, picture in self._shown[1]
                if picture is not fitting[0]
            ):
                return None
            bitmap = fitting[0].get_bitmap()
            pixels = bitmap.to_numpy()
            return as_rgb(pixels[..., None] if pixels.ndim == 2 else pixels)
        except pypdfium2.PdfiumError as error:
            raise UnreadableFileError(f"page {page} cannot be drawn ({error})") from error

    def _opened(self, page: int) -> Any:
        """Return the open page, which caches its decoded pictures."""
        if self._page is None or self._page[0] != page:
            self.close_page()
            self._page = (page, self.document[page - 1])
        return self._page[1]

    @pdfium_serialised
    def close(self) -> None:
        self.close_page()
        self.document.close()

    def close_page(self) -> None:
        self._shown = None
        if self._page is not None:
            self._page[1].close()
            self._page = None

    def _size_of(self, page: int) -> tuple[float, float]:
        if not 1 <= page <= len(self.page_sizes):
            raise UnreadableFileError(f"there is no page {page}")
        size: tuple[float, float] = self.page_sizes[page - 1]
        return size

    @pdfium_serialised
    def render_region(self, page: int, dpi: float, box: Box) -> NDArray[np.uint8]:
        """Render part of a page by pdfium, cut to the page. Raises: UnreadableFileError."""
        import pypdfium2

        width_pt, height_pt = self._size_of(page)
        left, low, right, high = box
        crop = (
            max(0.0, left),
            max(0.0, low),
            max(0.0, width_pt - right),
            max(0.0, height_pt - high),
        )
        try:
            drawn = self._opened(page)
            bitmap = drawn.render(scale=dpi / _POINTS_PER_INCH, crop=crop, rev_byteorder=True)
            pixels = np.array(bitmap.to_numpy()[..., :3])
        except (pypdfium2.PdfiumError, ValueError) as error:
            raise UnreadableFileError(f"page {page} cannot be drawn ({error})") from error
        return np.repeat(pixels, 3, axis=2) if pixels.shape[2] == 1 else pixels


def _text_of_page(page: Any) -> str:
    text_page = page.get_textpage()
    text: str = text_page.get_text_bounded()
    text_page.close()
    return text


def _covers(sides: Box, box: Box) -> bool:
    """Return whether another picture covers part of the box."""
    across = min(sides[2], box[2]) - max(sides[0], box[0])
    upward = min(sides[3], box[3]) - max(sides[1], box[1])
    return across > _NEAR_PT and upward > _NEAR_PT


@contextmanager
def read_pdf(source: Source) -> Iterator[PdfReading]:
    """The file opened for comparison. Raises: UnreadableFileError, PasswordNeededError."""
    reading = _open(source)
    try:
        yield reading
    finally:
        reading.close()


@pdfium_serialised
def _open(source: Source) -> PdfReading:
    import pypdfium2

    try:
        # Of forms in XFA it says, each time, that it shows them as plain ones.
        logging.getLogger("pypdfium2").setLevel(logging.ERROR)
        document = pypdfium2.PdfDocument(source.path, password=source.password or None)
        if document.get_formtype():
            document.init_forms()
        return PdfReading(document, source)
    except pypdfium2.PdfiumError as error:
        if error.err_code == pypdfium2.raw.FPDF_ERR_PASSWORD:
            raise locked(source) from error
        raise UnreadableFileError(
            f"{source.name}: a second reader cannot open it ({error})."
        ) from error
