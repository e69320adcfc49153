"""Text documents of ECMA-376: .docx, .docm, .dotx, .dotm."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.containers.legacy_format import LegacyFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, FileKind, Offers, PicturesReading
from lighten.formats.docx.kinds import DOCX_EXTRAS, KINDS
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT", "OLD_FORMAT"]

_OFFERS = package_offers(KINDS, DOCX_EXTRAS)


@dataclass(frozen=True, slots=True)
class _TextDocuments:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "docx"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.formats.docx.recognise import is_text_document

        return is_text_document(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.docx.weigh import weigh_docx

        return weigh_docx(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.docx.edit import edit_docx

        return edit_docx(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.docx.read import read_docx

        return read_docx(source)


def _read_old(path: Path, _opened: Path) -> Mapping[str, tuple[str, ...]]:
    from lighten.containers.legacy_office.words import words_by_suite

    return words_by_suite(path, "odt")


FORMAT = _TextDocuments()
OLD_FORMAT = LegacyFormat(
    name="doc",
    kind=FileKind(
        title="old text document", media_type="application/msword", suffixes=(".doc", ".dot")
    ),
    streams=("WordDocument",),
    becomes=FORMAT,
    target="docx:MS Word 2007 XML",
    target_with_macros="docm:MS Word 2007 XML VBA",
    read_again=_read_old,
)
