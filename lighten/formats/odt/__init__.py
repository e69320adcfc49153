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
        from lighten.containers.odf.recognise import is_open_document

        return is_open_document(source, "text")

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.containers.odf.weigh_document import weigh_document
        from lighten.formats.odt.family import TEXTS

        return weigh_document(source, TEXTS, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.containers.odf.edit_document import edit_document
        from lighten.formats.odt.family import TEXTS

        return edit_document(source, sheet, TEXTS)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.odt.read import read_odt

        return read_odt(source)


FORMAT = _OpenDocumentTexts()
