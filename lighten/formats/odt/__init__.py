"""Text documents of ISO/IEC 26300: .odt and .ott."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading, Switch
from lighten.formats.odt.kinds import KINDS, ODT_EXTRAS
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
    extras=ODT_EXTRAS,
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
class _OpenDocumentTexts:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "odt"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.formats.odt.recognise import is_open_document_text

        return is_open_document_text(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.odt.weigh import weigh_odt

        return weigh_odt(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.odt.edit import edit_odt

        return edit_odt(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.odt.read import read_odt

        return read_odt(source)


FORMAT = _OpenDocumentTexts()
