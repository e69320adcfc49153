"""A kind of OpenDocument as the registry lists it; libraries are loaded when they are used.

Not beside what it uses: a module of that package would load all of it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from lighten.containers.odf.family import OdfFamily

__all__ = ["OpenDocumentFormat"]


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenDocumentFormat:
    """Format of a document of ISO/IEC 26300; see `lighten.contract.Format`.

    body: its name in the media type, as "text". family, reading: its differences from the others,
    and its own reader, each loaded when it is called for.
    """

    name: str
    body: str
    offers: Offers
    family: "Callable[[], OdfFamily]"
    reading: "Callable[[Source], AbstractContextManager[PicturesReading]]"

    def recognises(self, source: Source) -> bool:
        from lighten.containers.odf.recognise import is_open_document

        return is_open_document(source, self.body)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.containers.odf.weigh_document import weigh_document

        return weigh_document(source, self.family(), progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.containers.odf.edit_document import edit_document

        return edit_document(source, sheet, self.family())

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        return self.reading(source)
