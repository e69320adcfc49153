"""Slides of ISO/IEC 26300: .odp and .otp."""

from typing import TYPE_CHECKING

from lighten.containers.open_document import OpenDocumentFormat
from lighten.containers.package_offers import package_offers
from lighten.contract import PicturesReading
from lighten.formats.odp.kinds import KINDS, ODP_EXTRAS
from lighten.model.source import Source

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from lighten.containers.odf.family import OdfFamily

__all__ = ["FORMAT"]


def _family() -> "OdfFamily":
    from lighten.formats.odp.family import SLIDES

    return SLIDES


def _reading(source: Source) -> "AbstractContextManager[PicturesReading]":
    from lighten.formats.odp.read import read_odp

    return read_odp(source)


FORMAT = OpenDocumentFormat(
    name="odp",
    body="presentation",
    offers=package_offers(KINDS, ODP_EXTRAS),
    family=_family,
    reading=_reading,
)
