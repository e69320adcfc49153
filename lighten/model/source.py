"""Source files, and reports of progress."""

import time
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

__all__ = ["Progress", "Source", "TimeLeft", "no_progress", "share_of"]

# From less nothing is foretold.
_LEAST_SHARE, _LEAST_S = 0.05, 0.5


class Progress(Protocol):
    """Told the share done, 0 to 1, and what is being done, or "" for the same as before."""

    def __call__(self, share: float, doing: str = "", /) -> None: ...


def no_progress(_share: float, _doing: str = "", /) -> None:
    """Ignore progress."""


def share_of(progress: Progress, begin: float, end: float, doing: str = "") -> Progress:
    """Return progress of a sub-task, mapped to `begin` to `end` of the whole.

    doing: what it does, where it does not say so itself.
    """

    def tell(share: float, what: str = "", /) -> None:
        progress(begin + share * (end - begin), what or doing)

    return tell


class TimeLeft:
    """Remaining time of a piece of work, extrapolated from the time so far."""

    def __init__(self) -> None:
        self._started = time.monotonic()

    def after(self, share: float) -> float | None:
        """Return the remaining seconds after a share of the work; None while unknown."""
        taken = time.monotonic() - self._started
        if share < _LEAST_SHARE or taken < _LEAST_S:
            return None
        return taken * max(0.0, 1 - share) / share


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A file to read, and the password it may need. Nothing here ever writes to it.

    shown_as: its name in messages, where it is stored under another.
    keeps_in: a folder for what is made of it on the way and may be of use again, if there is one.
    """

    path: Path
    password: str = ""
    shown_as: str = ""
    keeps_in: Path | None = None

    @property
    def name(self) -> str:
        return self.shown_as or self.path.name
