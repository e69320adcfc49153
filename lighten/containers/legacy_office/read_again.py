"""A document read by its format, and by a program that had no part in bringing it there."""

import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.containers.legacy_office.streams import macros_mark
from lighten.contract import PicturesReading

__all__ = ["ReadTwice"]

_INSIDE, _MACROS = "embedded files", "vbaProject.bin"

Promises = Mapping[str, tuple[str, ...]]


class ReadTwice:
    """See `lighten.contract.PicturesReading`."""

    def __init__(self, reading: PicturesReading, again: Callable[[], Promises], path: Path) -> None:
        """again: function that reads with the other program, in seconds. path: of `reading`."""
        self._reading, self._again, self._path = reading, again, path
        self.readers = (*reading.readers, "cells and words of the old form: readers of their own")

    def preserved_features(self) -> Promises:
        features = dict(self._reading.preserved_features())
        with zipfile.ZipFile(self._path) as members:
            features[_INSIDE] = tuple(
                _steady(members, entry) for entry in features.get(_INSIDE, ())
            )
        return {**features, **self._again()}

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> NDArray[np.uint8]:
        return self._reading.picture(part_id, least_px)

    def fingerprint(self, part_id: str) -> str:
        return self._reading.fingerprint(part_id)


def _steady(members: zipfile.ZipFile, entry: str) -> str:
    """Return entries of macros without the parts that change with every conversion."""
    name, _, _ = entry.partition(" ")
    return f"{name} {macros_mark(members.read(name))}" if name.endswith(_MACROS) else entry
