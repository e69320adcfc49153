"""Printing and exit codes of every verb."""

import sys
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

from lighten import Progress, TimeLeft, no_progress

__all__ = [
    "DONE",
    "SOME_FAILED",
    "SOME_TOO_HEAVY",
    "WRONG_USAGE",
    "InRun",
    "not_written",
    "progress_bar",
    "size_text",
    "wait_text",
]

DONE, SOME_FAILED, WRONG_USAGE, SOME_TOO_HEAVY = 0, 1, 2, 3
_BAR_WIDTH = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class InRun:
    """A file among several. begin, end: what shares of all bytes are done before and after it."""

    number: int
    count: int
    begin: float
    end: float
    time_left: TimeLeft

    def text(self, share: float) -> str:
        """Return the position of the whole run, once a share of this file is done."""
        left = self.time_left.after(self.begin + share * (self.end - self.begin))
        waiting = "" if left is None else f", all in {wait_text(left).removesuffix(' left')}"
        return f"{self.number} of {self.count}{waiting}"


class progress_bar:  # noqa: N801 - reads as a statement: with progress_bar(...)
    """A line on the terminal: how far a file is, what is done, how long still; silent elsewhere.

    place: of the file among several, where there are several. is_silent: on terminals as well.
    """

    is_silent = False

    def __init__(
        self, name: str, stream: TextIO = sys.stderr, *, place: InRun | None = None
    ) -> None:
        self._name, self._stream, self._place = name, stream, place
        self._time_left, self._doing = TimeLeft(), ""

    def __enter__(self) -> Progress:
        return self._draw if self._is_shown else no_progress

    def __exit__(self, *_: object) -> None:
        if self._is_shown:
            self._stream.write("\r\033[K")

    @property
    def _is_shown(self) -> bool:
        return self._stream.isatty() and not self.is_silent

    def _draw(self, share: float, doing: str = "", /) -> None:
        self._doing = doing or self._doing
        done = round(share * _BAR_WIDTH)
        bar = "█" * done + "·" * (_BAR_WIDTH - done)
        left = self._time_left.after(share)
        said = (
            self._name,
            self._doing,
            "" if left is None else wait_text(left),
            "" if self._place is None else self._place.text(share),
        )
        self._stream.write(f"\r{bar} {share:4.0%} {', '.join(filter(None, said))}\033[K")
        self._stream.flush()


def wait_text(seconds: float) -> str:
    """Return a rounded duration in words."""
    if seconds < 1.5:
        return "a second left"
    if seconds < 90:
        return f"about {seconds:.0f} s left"
    return f"about {seconds / 60:.0f} min left"


def size_text(size_bytes: int) -> str:
    """A size in kB or MB of 1000 (IEC 80000-13)."""
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.1f} kB"
    return f"{size_bytes / 1_000_000:.2f} MB"


def not_written(error: OSError, out: Path) -> dict[str, str]:
    """Return the reason that nothing, or nothing new, is at `out`, as --json prints errors."""
    if isinstance(error, FileExistsError):
        # Ours name the path alone, those of the system besides a number.
        there = error.filename or error.args[0]
        message = f"{there}: is there already. Use --force, if it is no original, or another name."
        return {"code": "exists", "message": message}
    message = f"{out.name}: cannot be written ({error.strerror})."
    return {"code": "not_written", "message": message}
