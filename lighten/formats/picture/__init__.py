"""A picture by itself: JPEG, PNG, WebP, HEIC, BMP and still GIF."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading, Switch
from lighten.formats.picture.kinds import KINDS, PICTURE_EXTRAS
from lighten.model.kinds import PictureCoding
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["FORMAT"]

_HEAD_BYTES = 32
_OFFERS = Offers(
    first_picture="picture",
    kinds=tuple(KINDS.values()),
    has_pages=False,
    can_split=False,
    extras=PICTURE_EXTRAS,
    switches=frozenset({Switch.ASSUMED_SIZE}),
    codings=frozenset({PictureCoding.AUTOMATIC, PictureCoding.JPEG, PictureCoding.LOSSLESS}),
)


@dataclass(frozen=True, slots=True)
class _Picture:
    """The format as the registry lists it; libraries are loaded when they are used."""

    name: str = "picture"
    offers: Offers = _OFFERS

    def recognises(self, source: Source) -> bool:
        from lighten.pictures.files import kind_of_picture

        with source.path.open("rb") as file:
            return bool(kind_of_picture(file.read(_HEAD_BYTES)))

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.picture.weigh import weigh_picture

        return weigh_picture(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.picture.edit import edit_picture

        return edit_picture(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        from lighten.formats.picture.read import read_picture

        return read_picture(source)


FORMAT = _Picture()
