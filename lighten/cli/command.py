"""The command green-satchel.

Exit codes: 0 all done, 1 some file could not be done (the others are), 2 wrong usage, 3 some file
cannot be made as light as its limit.
"""

import argparse
import io
import logging
import os
import signal
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, redirect_stdout
from typing import TextIO

from lighten.cli.parser import command_parser
from lighten.cli.printing import progress_bar

__all__ = ["main"]


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; the exit code."""
    # Remarks of imaging libraries; failures are reported by us.
    for name in ("pyvips", "lighten"):
        logging.getLogger(name).addHandler(logging.NullHandler())
    words = list(sys.argv[1:] if arguments is None else arguments)
    options = command_parser().parse_args(list(_with_dashed_values(words)))
    command: Callable[[argparse.Namespace], int] = options.command
    progress_bar.is_silent = options.quiet
    is_silent = options.quiet and not options.json
    try:
        with _ending_on_request(), redirect_stdout(None if is_silent else _Output(sys.stdout)):
            code = command(options)
            print(end="", flush=True)
            return code
    except KeyboardInterrupt:
        print("Stopped. Originals are as they were.", file=sys.stderr)
        return INTERRUPTED
    except _Terminated:
        print("Ended. Originals are as they were.", file=sys.stderr)
        return TERMINATED


# By custom of shells: 128 and the number of the signal.
INTERRUPTED, TERMINATED = 130, 143


class _Terminated(SystemExit):
    """Raised where the system asks the command to end, so that it cleans up after itself."""


@contextmanager
def _ending_on_request() -> Iterator[None]:
    """Turn SIGTERM into an exception, as Python does with an interrupt from the keyboard."""

    def end(*_: object) -> None:
        raise _Terminated

    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGTERM, end)
    try:
        yield
    finally:
        signal.signal(signal.SIGTERM, before)


class _Output(io.TextIOBase):
    """Standard output whose reader may go: work goes on, and nothing more is printed."""

    def __init__(self, stream: TextIO) -> None:
        self._stream: TextIO | None = stream

    def write(self, text: str) -> int:
        if self._stream is not None:
            try:
                return self._stream.write(text)
            except BrokenPipeError:
                self._close()
        return len(text)

    def flush(self) -> None:
        if self._stream is not None:
            try:
                self._stream.flush()
            except BrokenPipeError:
                self._close()

    def fileno(self) -> int:
        return sys.__stdout__.fileno() if sys.__stdout__ else -1

    def isatty(self) -> bool:
        return self._stream is not None and self._stream.isatty()

    def _close(self) -> None:
        """Let the interpreter write what it still holds to nowhere."""
        assert self._stream is not None
        os.dup2(os.open(os.devnull, os.O_WRONLY), self._stream.fileno())
        self._stream = None


def _with_dashed_values(arguments: Sequence[str]) -> Iterator[str]:
    """Join `--suffix -light` to one argument: the value would be taken for an option."""
    waiting = ""
    for argument in arguments:
        if waiting:
            is_value = argument.startswith("-") and not argument.startswith("--")
            yield from (f"{waiting}={argument}",) if is_value else (waiting, argument)
            waiting = ""
        elif argument in ("--suffix", "--prefix"):
            waiting = argument
        else:
            yield argument
    if waiting:
        yield waiting


if __name__ == "__main__":
    sys.exit(main())
