"""PDF: ISO 32000-1 and -2."""

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PagedReading, Switch
from lighten.formats.pdf.extras.kinds import PDF_EXTRAS
from lighten.formats.pdf.kind import PDF
from lighten.model.kinds import ExtraKind, PictureCoding
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT"]

# Readers look for the mark in the first kilobyte (ISO 32000-1, annex H.3.4.1).
_MARK = b"%PDF-"
_MARK_WITHIN = 1024

_OFFERS = Offers(
    kinds=(PDF,),
    has_pages=True,
    can_split=True,
    extras=(*PDF_EXTRAS, ExtraKind.UNUSED),
    switches=frozenset(
        {
            Switch.SUBSET_FONTS,
            Switch.DROP_STANDARD_FONTS,
            Switch.SIMPLIFY_DRAWING,
            Switch.LINEARIZE,
            Switch.CUT_HIDDEN,
        }
    ),
    codings=frozenset(PictureCoding),
)


@dataclass(frozen=True, slots=True)
class _Pdf:
    """The format as the registry lists it; the object library is loaded when it is used."""

    name: str = "pdf"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        with source.path.open("rb") as file:
            return _MARK in file.read(_MARK_WITHIN)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.pdf.weigh import weigh_pdf

        return weigh_pdf(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.pdf.edit import edit_pdf

        return edit_pdf(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PagedReading]":
        from lighten.formats.pdf.read import read_pdf

        return read_pdf(source)

    def excerpt(self, source: Source, first: int, last: int, out: Path) -> None:
        from lighten.formats.pdf.pages.excerpt import write_excerpt

        write_excerpt(source, first, last, out)


FORMAT = _Pdf()
