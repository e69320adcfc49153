"""Text documents of ISO/IEC 26300: .odt and .ott."""

from typing import TYPE_CHECKING

from lighten.containers.open_document import OpenDocumentFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import PicturesReading
from lighten.formats.odt.kinds import KINDS, ODT_EXTRAS
from lighten.model.source import Source

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from lighten.containers.odf.family import OdfFamily

__all__ = ["FORMAT"]


def _family() -> "OdfFamily":
    from lighten.formats.odt.family import TEXTS

    return TEXTS


def _reading(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.odt.read import read_odt

    return read_odt(source)


FORMAT = OpenDocumentFormat(
    name="odt",
    body="text",
    offers=package_offers(KINDS, ODT_EXTRAS),
    family=_family,
    reading=_reading,
)
