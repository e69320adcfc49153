"""What every verb prints with, and its exit codes."""

import sys
from typing import TextIO

from lighten import Progress, no_progress

__all__ = ["DONE", "SOME_FAILED", "SOME_TOO_HEAVY", "WRONG_USAGE", "progress_bar", "size_text"]

DONE, SOME_FAILED, WRONG_USAGE, SOME_TOO_HEAVY = 0, 1, 2, 3
_BAR_WIDTH = 24


class progress_bar:  # noqa: N801 - reads as a statement: with progress_bar(...)
    """A line on the terminal that says how far a file is; silent elsewhere."""

    def __init__(self, name: str, stream: TextIO = sys.stderr) -> None:
        self._name, self._stream = name, stream

    def __enter__(self) -> Progress:
        return self._draw if self._stream.isatty() else no_progress

    def __exit__(self, *_: object) -> None:
        if self._stream.isatty():
            self._stream.write("\r\033[K")

    def _draw(self, share: float) -> None:
        done = round(share * _BAR_WIDTH)
        bar = "█" * done + "·" * (_BAR_WIDTH - done)
        self._stream.write(f"\r{bar} {share:4.0%} {self._name}\033[K")
        self._stream.flush()


def size_text(size_bytes: int) -> str:
    """A size in kB or MB of 1000 (IEC 80000-13)."""
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.1f} kB"
    return f"{size_bytes / 1_000_000:.2f} MB"
