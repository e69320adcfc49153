"""The file that work begins with, and how its progress is told."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

__all__ = ["Progress", "Source", "no_progress", "share_of"]

# Told the share done, 0 to 1.
Progress = Callable[[float], None]


def no_progress(_share: float) -> None:
    """For callers who do not watch."""


def share_of(progress: Progress, begin: float, end: float) -> Progress:
    """The progress of a piece of work that is a part of another's, from `begin` to `end`."""
    return lambda share: progress(begin + share * (end - begin))


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A file to read, and the password it may need. Nothing here ever writes to it.

    shown_as: its name in messages, where it is stored under another.
    """

    path: Path
    password: str = ""
    shown_as: str = ""

    @property
    def name(self) -> str:
        return self.shown_as or self.path.name
