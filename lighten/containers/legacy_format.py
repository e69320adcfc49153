"""Format of a legacy kind of office file; libraries are loaded when they are used.

Beside `legacy_office` and not in it, as `open_document.py` is.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING

from lighten.containers.legacy_office.legacy_kind import LegacyKind
from lighten.contract import Editing, Offers, PicturesReading
from lighten.model.kinds import PartKind
from lighten.model.source import Progress, Source, share_of
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["LegacyFormat"]

_CONVERTING_SHARE = 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class LegacyFormat(LegacyKind):
    """Files of before 2007, made lighter as what they become; see `lighten.contract.Format`."""

    @property
    def offers(self) -> Offers:
        return replace(self.becomes.offers, kinds=(self.kind, *self.becomes.offers.kinds))

    def recognises(self, source: Source) -> bool:
        from lighten.containers.recognise import has_ole_mark

        if not has_ole_mark(source):
            return False
        from lighten.containers.legacy_office.streams import has_stream

        return has_stream(source, self.streams)

    def convert(self, source: Source) -> Source:
        """Return the form that the file is converted to, unchanged otherwise. Raises:
        UnsupportedFileError.
        """
        from lighten.containers.legacy_office.convert_with_office import convert_with_office

        return convert_with_office(source, self)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        from lighten.containers.legacy_office.weigh_legacy import sheet_for_legacy_file

        progress(0, f"bringing it to {self.ending}")
        opened = self.convert(source)
        sheet = self.becomes.weigh(opened, share_of(progress, _CONVERTING_SHARE, 1))
        return sheet_for_legacy_file(sheet, source, self)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        parts = tuple(part for part in sheet.parts if part.kind is not PartKind.LEGACY_FORM)
        opened = replace(
            sheet,
            format=self.becomes.name,
            parts=parts,
            size_bytes=sum(part.size_bytes for part in parts),
        )
        return self.becomes.edit(self.convert(source), opened)

    @contextmanager
    def read(self, source: Source) -> "Iterator[PicturesReading]":
        """Read a legacy file, or a copy, which is converted already."""
        from lighten.containers.legacy_office.read_again import ReadTwice

        opened = self.convert(source) if self.recognises(source) else source
        with self.becomes.read(opened) as reading:
            assert isinstance(reading, PicturesReading)
            again = partial(self.read_again, source.path, opened.path)
            yield ReadTwice(reading, again, opened.path)
