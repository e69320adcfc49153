"""TIFF: one picture or many, a page each, as scanners, cameras and archives keep them."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading, Switch
from lighten.formats.tiff.kinds import TIFF, TIFF_EXTRAS
from lighten.model.kinds import PictureCoding
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT"]

_HEAD_BYTES = 8
_OFFERS = Offers(
    first_picture="page:1",
    kinds=(TIFF,),
    has_pages=False,
    can_split=False,
    extras=TIFF_EXTRAS,
    switches=frozenset({Switch.ASSUMED_SIZE}),
    codings=frozenset(
        {
            PictureCoding.AUTOMATIC,
            PictureCoding.JPEG,
            PictureCoding.LOSSLESS,
            PictureCoding.GROUP_4,
        }
    ),
)


@dataclass(frozen=True, slots=True)
class _Tiff:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "tiff"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.formats.tiff.directories import begins_like_tiff

        with source.path.open("rb") as file:
            return begins_like_tiff(file.read(_HEAD_BYTES))

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.tiff.weigh import weigh_tiff

        return weigh_tiff(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.tiff.edit import edit_tiff

        return edit_tiff(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.tiff.read import read_tiff

        return read_tiff(source)


FORMAT = _Tiff()
