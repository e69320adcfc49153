"""Runs a job of the core in a process of its own: limits on time and memory, cancel, progress."""

import contextlib
import json
import logging
import os
import queue
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, NamedTuple, Protocol

from django.conf import settings

from lighten import LightenError

__all__ = ["JobCancelledError", "JobFailedError", "Step", "end_job", "run_job", "start_job"]

logger = logging.getLogger(__name__)
_ASKED_EVERY_S = 0.5
_STOPPED = "stopped"


class Worked(Protocol):
    """What a job works on: a file with a name, and a folder for what is made of it."""

    name: str
    password: str

    @property
    def file(self) -> Any:
        """With its `path`."""

    @property
    def folder_path(self) -> Path:
        """Of what is made of it."""


class Step(NamedTuple):
    """How far a job is: the share done, what it does, and about how long it still takes, in s."""

    progress: float
    doing: str = ""
    seconds_left: float | None = None


class JobFailedError(LightenError):
    """The job ended with an error, or its process died."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class JobCancelledError(Exception):
    """Nobody wants the result any more."""


def run_job(
    document: Worked,
    work: str,
    *,
    on_progress: Callable[[Step], None] = lambda _step: None,
    on_partial: Callable[[float, Any], None] = lambda _share, _made: None,
    is_wanted: Callable[[], bool] = lambda: True,
    **details: Any,
) -> Any:
    """The result of a job on a document's original. One that is killed is done once more.

    Raises: JobFailedError, for the person to read; JobCancelledError once `is_wanted` says no.
    """
    for is_last in (False, True):
        process = start_job(document, work, **details)
        try:
            assert process.stdin is not None and process.stdout is not None
            with contextlib.suppress(BrokenPipeError):
                process.stdin.close()
            return _follow(process.stdout, document.name, on_progress, on_partial, is_wanted)
        except JobFailedError as error:
            if is_last or error.code != _STOPPED or process.wait() != -signal.SIGKILL:
                raise
            logger.warning("a process was killed from outside: its work is done once more")
        finally:
            end_job(process)
    raise AssertionError("the last attempt returns or raises")


def start_job(document: Worked, work: str, **details: Any) -> "subprocess.Popen[bytes]":
    """A process of its own that has been told what to do; its standard input stays open."""
    job = {
        "work": work,
        "path": document.file.path,
        "name": document.name,
        "password": document.password,
        "thumbnails": str(document.folder_path / "thumbnails"),
        "memory_bytes": settings.TASK_LIMIT_MEMORY_BYTES,
        "store": str(settings.CODINGS_PATH),
        "store_bytes": settings.CODINGS_LIMIT_BYTES,
        **details,
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "web.satchels.job_process"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        cwd=settings.ROOT,
        start_new_session=True,
    )
    assert process.stdin is not None
    # One that dies at once is found out where its first line is awaited.
    with contextlib.suppress(BrokenPipeError):
        process.stdin.write(json.dumps(job).encode() + b"\n")
        process.stdin.flush()
    return process


def _follow(
    stream: IO[bytes],
    name: str,
    on_progress: Callable[[Step], None],
    on_partial: Callable[[float, Any], None],
    is_wanted: Callable[[], bool],
) -> Any:
    """Read what the process says until it has said its result."""
    lines: queue.Queue[bytes] = queue.Queue()
    threading.Thread(target=_pass_on, args=(stream, lines), daemon=True).start()
    deadline = time.monotonic() + settings.TASK_LIMIT_SECONDS
    asked_at, step = 0.0, Step(progress=0.0)
    while True:
        now = time.monotonic()
        if now > deadline:
            raise JobFailedError(
                "too_slow", f"{name}: takes too long. Split it and try the pieces."
            )
        if now - asked_at > _ASKED_EVERY_S:
            if not is_wanted():
                raise JobCancelledError
            on_progress(step)
            asked_at = now
        try:
            line = lines.get(timeout=_ASKED_EVERY_S)
        except queue.Empty:
            continue
        if not line:
            raise JobFailedError(
                _STOPPED,
                f"{name}: the work on it broke off; nothing was changed. Try again, or split it.",
            )
        told = json.loads(line)
        if "error" in told:
            raise JobFailedError(told["error"]["code"], told["error"]["message"])
        if "result" in told:
            return told["result"]
        step = Step(told["progress"], told["doing"], told["seconds_left"])
        if "partial" in told:
            on_partial(step.progress, told["partial"])


def _pass_on(stream: IO[bytes], lines: "queue.Queue[bytes]") -> None:
    """Every line as it comes, and an empty one at the end."""
    with contextlib.suppress(ValueError):  # closed while it was read: nobody waits for the rest
        for line in stream:
            lines.put(line)
    lines.put(b"")


def end_job(process: "subprocess.Popen[bytes]") -> None:
    """No process of the job stays behind."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()
    if process.stdout is not None:
        process.stdout.close()
