"""Legacy kind of office file: what it becomes, and by what it is recognised."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from lighten.contract import FileKind, Format

__all__ = ["LegacyKind"]

# Features that a second program finds in a file: its path, and that of its converted form, which
# may be the same.
SecondReading = Callable[[Path, Path], Mapping[str, tuple[str, ...]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class LegacyKind:
    """A kind of file of before 2007.

    kind: of the legacy files. streams: one of them is in the root of theirs alone. becomes: the
    format of the converted form. target, target_with_macros: the office suite's names of that form.
    read_again: by a program that had no part in making it lighter.
    """

    name: str
    kind: FileKind
    streams: tuple[str, ...]
    becomes: Format
    target: str
    target_with_macros: str
    read_again: SecondReading

    @property
    def ending(self) -> str:
        """Return the extension of the converted form, with its dot."""
        return self.becomes.offers.kinds[0].suffixes[0]
