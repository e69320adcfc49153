"""Layered drawings in OpenRaster (freedesktop.org, baseline 0.0.5): made lighter as one picture."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from lighten.contract import Editing, Format, Offers, PicturesReading
from lighten.formats.ora.kinds import ORA
from lighten.model.source import Progress, Source, share_of
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["layered_drawings"]

# The first member, stored, so that the kind can be read at a place that is known.
_AT_START = re.compile(rb"PK\x03\x04.{26}mimetype.{0,64}?image/openraster", re.DOTALL)
_LOOKED_AT = 4096
_FLATTENING_SHARE = 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class _LayeredDrawings:
    """The format as the registry lists it; see `lighten.contract.ConvertingFormat`."""

    becomes: Format
    name: str = "ora"

    @property
    def offers(self) -> Offers:
        others = self.becomes.offers
        return replace(others, kinds=(ORA, *others.kinds))

    def recognises(self, source: Source) -> bool:
        with source.path.open("rb") as file:
            return bool(_AT_START.match(file.read(_LOOKED_AT)))

    def convert(self, source: Source) -> Source:
        """The flattened picture. Raises: UnreadableFileError, LimitExceededError."""
        from lighten.formats.ora.convert import flattened

        return flattened(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.formats.ora.weigh import weigh_layers

        progress(0, "flattening")
        picture = self.convert(source)
        sheet = self.becomes.weigh(picture, share_of(progress, _FLATTENING_SHARE, 1))
        return weigh_layers(source, sheet, self.name)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        from lighten.formats.ora.weigh import sheet_of_picture

        picture = self.convert(source)
        flat = sheet_of_picture(sheet, self.becomes.name, picture.path.stat().st_size)
        return self.becomes.edit(picture, flat)

    @contextmanager
    def read(self, source: Source) -> "Iterator[PicturesReading]":
        """Read the merged picture of a drawing, or the copy."""
        from lighten.formats.ora.convert import merged_by_its_program

        shown = merged_by_its_program(source) if self.recognises(source) else source
        with self.becomes.read(shown) as reading:
            assert isinstance(reading, PicturesReading)
            yield reading


def layered_drawings(becomes: Format) -> _LayeredDrawings:
    """becomes: the format of single pictures, which no other format may know."""
    return _LayeredDrawings(becomes=becomes)
