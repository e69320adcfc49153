"""Slides of ISO/IEC 26300: .odp and .otp."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading, Switch
from lighten.formats.odp.kinds import KINDS, ODP_EXTRAS
from lighten.source import Progress, Source
from lighten.weights import PictureCoding, WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT"]

_OFFERS = Offers(
    kinds=KINDS,
    has_pages=False,
    can_split=False,
    can_be_laid_out=True,
    extras=ODP_EXTRAS,
    switches=frozenset(
        {
            Switch.CUT_HIDDEN,
            Switch.SUBSET_FONTS,
            Switch.DROP_EMBEDDED_FONTS,
            Switch.LIGHTEN_EMBEDDED,
        }
    ),
    codings=frozenset({PictureCoding.AUTOMATIC, PictureCoding.JPEG, PictureCoding.LOSSLESS}),
)


@dataclass(frozen=True, slots=True)
class _OpenDocumentSlides:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "odp"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.containers.odf.recognise import is_open_document

        return is_open_document(source, "presentation")

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.containers.odf.weigh_document import weigh_document
        from lighten.formats.odp.family import SLIDES

        return weigh_document(source, SLIDES, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.containers.odf.edit_document import edit_document
        from lighten.formats.odp.family import SLIDES

        return edit_document(source, sheet, SLIDES)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.odp.read import read_odp

        return read_odp(source)


FORMAT = _OpenDocumentSlides()
