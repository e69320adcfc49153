"""Text documents of ECMA-376: .docx, .docm, .dotx, .dotm."""

import re
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from lighten.containers.legacy_format import LegacyFormat
from lighten.containers.package_format import PackageFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import Editing, FileKind, PicturesReading
from lighten.formats.docx.kinds import DOCX_EXTRAS, KINDS
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT", "LEGACY_FORMAT"]


def _weigh(source: Source, progress: Progress) -> WeightSheet:
    from lighten.formats.docx.weigh import weigh_docx

    return weigh_docx(source, progress)


def _edit(source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
    from lighten.formats.docx.edit import edit_docx

    return edit_docx(source, sheet)


def _read(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.docx.read import read_docx

    return read_docx(source)


def _read_legacy(path: Path, _opened: Path) -> Mapping[str, tuple[str, ...]]:
    from lighten.containers.legacy_office.words import words_by_suite

    return words_by_suite(path, "odt")


FORMAT = PackageFormat(
    name="docx",
    offers=package_offers(KINDS, DOCX_EXTRAS),
    own_member=re.compile(rb"word/(?:document|styles|settings|fontTable|media/|theme/)"),
    takes_locked=True,
    weighing=_weigh,
    editing=_edit,
    reading=_read,
)
LEGACY_FORMAT = LegacyFormat(
    name="doc",
    kind=FileKind(
        title="legacy text document", media_type="application/msword", suffixes=(".doc", ".dot")
    ),
    streams=("WordDocument",),
    becomes=FORMAT,
    target="docx:MS Word 2007 XML",
    target_with_macros="docm:MS Word 2007 XML VBA",
    read_again=_read_legacy,
)
