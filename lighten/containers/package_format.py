"""A format of ECMA-376 packages as the registry lists it; libraries are loaded when used."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from lighten.contract import Editing, Offers, PicturesReading
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

__all__ = ["PackageFormat"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PackageFormat:
    """Format of packages; see `lighten.contract.Format`.

    own_member: pattern of member names that only these have, in sound and damaged files. weighing,
    editing, reading: load what they need when they are called. takes_locked: encrypted packages of
    any kind are recognised as this format.
    """

    name: str
    offers: Offers
    own_member: re.Pattern[bytes]
    weighing: Callable[[Source, Progress], WeightSheet]
    editing: "Callable[[Source, WeightSheet], AbstractContextManager[Editing]]"
    reading: "Callable[[Source], AbstractContextManager[PicturesReading]]"
    takes_locked: bool = False

    def recognises(self, source: Source) -> bool:
        from lighten.containers.recognise import is_locked_package, names_member

        if names_member(source, self.own_member):
            return True
        return self.takes_locked and is_locked_package(source)

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        return self.weighing(source, progress)

    def edit(self, source: Source, sheet: WeightSheet) -> "AbstractContextManager[Editing]":
        return self.editing(source, sheet)

    def read(self, source: Source) -> "AbstractContextManager[PicturesReading]":
        return self.reading(source)
