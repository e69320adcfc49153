"""Workbooks of ISO/IEC 26300: .ods and .ots."""

from typing import TYPE_CHECKING

from lighten.containers.open_document import OpenDocumentFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import PicturesReading
from lighten.formats.ods.kinds import KINDS, ODS_EXTRAS
from lighten.model.source import Source

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from lighten.containers.odf.family import OdfFamily

__all__ = ["FORMAT"]


def _family() -> "OdfFamily":
    from lighten.formats.ods.family import SHEETS

    return SHEETS


def _reading(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.ods.read import read_ods

    return read_ods(source)


FORMAT = OpenDocumentFormat(
    name="ods",
    body="spreadsheet",
    offers=package_offers(KINDS, ODS_EXTRAS, can_be_laid_out=False),
    family=_family,
    reading=_reading,
)
