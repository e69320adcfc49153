"""The pages of a document as pixels, one after the other."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.pdfium_lock import pdfium_serialised
from lighten.contract import ConvertingFormat, Format
from lighten.gathering.loose_pictures import LoosePicture, loose_pictures
from lighten.model.errors import LimitExceededError, MissingToolError, UnreadableFileError
from lighten.model.kinds import PictureClass
from lighten.model.source import Source
from lighten.office_suite import OfficeSuite
from lighten.pictures.coding.decode import UNREADABLE, decode_on_white
from lighten.pictures.pixels.classify import classify_alone
from lighten.pictures.pixels.colours import plain_inks, through_profile
from lighten.pictures.pixels.resample import resample
from lighten.pictures.pixels.upright import upright
from lighten.registry import format_of

__all__ = ["DrawnPage", "as_pdf", "count_pages", "drawn_pages", "pages_of_pictures"]

_POINTS_PER_INCH = 72.0
_MOST_PIXELS = 150_000_000

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnPage:
    """pixels: (height, width) grey or (height, width, 3) sRGB. ppi: as it is shown.

    has_text: something is written on it.
    """

    pixels: Pixels
    ppi: float
    has_text: bool


@contextmanager
def as_pdf(source: Source) -> Iterator[Source | None]:
    """Yield the document as a PDF, laid out if needed; None for pictures, which are their own
    pages.

    Raises: UnreadableFileError, UnsupportedFileError; MissingToolError where an office suite is
    needed and none is installed.
    """
    format_ = format_of(source)
    if format_.offers.has_pages:
        yield source
    elif format_.offers.first_picture:
        yield None
    else:
        with tempfile.TemporaryDirectory(prefix="pages-") as folder:
            yield _laid_out(source, format_, Path(folder))


def count_pages(pdf: Source) -> int:
    """Return the number of pages. Raises: UnreadableFileError."""
    from lighten.formats.pdf.read import read_pdf

    with read_pdf(pdf) as reading:
        return len(reading.page_sizes)


def drawn_pages(
    pdf: Source, first: int, last: int, ppi: float, *, in_greys: bool
) -> Iterator[DrawnPage]:
    """Draw some pages of a PDF, counted from 1, at `ppi`.

    in_greys: colours are not wanted; drawing is quicker without. Raises: UnreadableFileError,
    LimitExceededError.
    """
    from lighten.formats.pdf.read import read_pdf

    with read_pdf(pdf) as reading:
        drawing = _Drawing(reading.document, pdf.name, ppi, in_greys=in_greys)
        yield from drawing.pages(reading.page_sizes, first, last)


def _laid_out(source: Source, format_: Format, folder: Path) -> Source:
    suite = OfficeSuite()
    if not suite.available():
        raise MissingToolError(
            f"{source.name}: has no pages of its own, and no office suite is installed here to lay "
            "it out. Export it as a PDF, and take that."
        )
    media_type = format_.offers.kinds[0].media_type
    if isinstance(format_, ConvertingFormat):
        source = format_.convert(source)
        media_type = format_.becomes.offers.kinds[0].media_type
    ending = Path(source.name).suffix or format_.offers.kind_of(media_type).suffixes[0]
    made = suite.lay_out([(source.path, ending)], folder)
    if made is None:
        raise UnreadableFileError(f"{source.name}: the office suite could not lay it out.")
    return replace(source, path=made[0], password="")


class _Drawing:
    """Draws the pages of an opened PDF."""

    def __init__(self, document: Any, name: str, ppi: float, *, in_greys: bool) -> None:
        self._document, self._name, self._ppi = document, name, ppi
        self._in_greys = in_greys

    def pages(
        self, sizes_pt: tuple[tuple[float, float], ...], first: int, last: int
    ) -> Iterator[DrawnPage]:
        scale = self._ppi / _POINTS_PER_INCH
        for number in range(first, last + 1):
            width_pt, height_pt = sizes_pt[number - 1]
            if width_pt * height_pt * scale * scale > _MOST_PIXELS:
                raise LimitExceededError(
                    f"{self._name}: page {number} would have more than "
                    f"{_MOST_PIXELS // 1_000_000} million pixels. Ask for fewer ppi."
                )
            pixels, has_text = self._draw(number, scale)
            yield DrawnPage(pixels=pixels, ppi=self._ppi, has_text=has_text)

    @pdfium_serialised
    def _draw(self, number: int, scale: float) -> tuple[Pixels, bool]:
        import pypdfium2

        try:
            page = self._document[number - 1]
            bitmap = page.render(
                scale=scale,
                grayscale=self._in_greys,
                rev_byteorder=not self._in_greys,
            )
            samples = bitmap.to_numpy()
            is_grey = samples.ndim == 2 or samples.shape[2] == 1
            pixels = np.array(samples.reshape(samples.shape[:2]) if is_grey else samples[..., :3])
            text_page = page.get_textpage()
            has_text = text_page.count_chars() > 0
            text_page.close()
            page.close()
        except pypdfium2.PdfiumError as error:
            raise UnreadableFileError(
                f"{self._name}: page {number} cannot be drawn ({error})."
            ) from error
        return pixels, has_text


def pages_of_pictures(source: Source, ppi: float) -> Iterator[DrawnPage]:
    """Each picture as a page, with no more pixels than it has. Raises: UnreadableFileError."""
    for picture in loose_pictures(source):
        try:
            pixels = _as_light(picture)
        except UNREADABLE as error:
            raise UnreadableFileError(f"{picture.name}: its pixels cannot be read.") from error
        own_ppi = picture.stored.width_px / picture.scanned_pt[0] * _POINTS_PER_INCH
        if own_ppi > ppi:
            height, width = (round(side * ppi / own_ppi) for side in pixels.shape[:2])
            pixels = resample(pixels, (max(1, width), max(1, height)))
        has_text = classify_alone(pixels) is PictureClass.PAGE_SCAN
        yield DrawnPage(pixels=pixels, ppi=min(ppi, own_ppi), has_text=has_text)


def _as_light(picture: LoosePicture) -> Pixels:
    """Return a page upright, as grey or sRGB. Raises: as `decode`."""
    pixels = upright(decode_on_white(picture.stored), picture.orientation)
    if picture.stored.profile:
        return through_profile(pixels, picture.stored.profile)
    return plain_inks(pixels) if pixels.ndim == 3 and pixels.shape[2] == 4 else pixels
