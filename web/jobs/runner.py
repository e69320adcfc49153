"""Runs a job of the core in a process of its own: limits on time and memory, cancel, progress."""

import contextlib
import json
import logging
import queue
import signal
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, NamedTuple, Protocol

from django.conf import settings

from lighten import LightenError
from web.jobs.apps import nursery
from web.jobs.job_kinds import Job, JobFile, dump_job
from web.jobs.nursery import JobProcess, NurseryGoneError

__all__ = ["JobCancelledError", "JobFailedError", "Step", "run_job", "start_job"]

logger = logging.getLogger(__name__)
_ASKED_EVERY_S = 0.5
_STOPPED = "stopped"
# What said its last word is gone by then.
_DYING_S = 5.0


class Worked(Protocol):
    """Object of a job: a file with a name, and a folder for results."""

    pk: Any
    name: str
    password: str

    @property
    def file(self) -> Any:
        """File of the object, with its `path`."""

    @property
    def folder_path(self) -> Path:
        """Return the folder of its results."""


class Step(NamedTuple):
    """Progress of a job: the share done, the present step, and about the remaining seconds."""

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
    job: Job,
    *,
    on_progress: Callable[[Step], None] = lambda _step: None,
    on_partial: Callable[[float, Any], None] = lambda _share, _made: None,
    is_wanted: Callable[[], bool] = lambda: True,
) -> Any:
    """Run a job on a document's original; one whose process was killed is repeated once.

    Raises: JobFailedError, for the person to read; JobCancelledError once `is_wanted` says no.
    """
    began, outcome = time.monotonic(), "done"
    try:
        return _done_twice_if_killed(document, job, on_progress, on_partial, is_wanted)
    except JobFailedError as error:
        outcome = error.code
        raise
    except JobCancelledError:
        outcome = "cancelled"
        raise
    finally:
        event = {"work": job.work, "document": str(document.pk), "outcome": outcome}
        seconds = round(time.monotonic() - began, 3)
        logger.info("job ended", extra={**event, "seconds": seconds})


def _done_twice_if_killed(
    document: Worked,
    job: Job,
    *hear: Any,
) -> Any:
    for is_last in (False, True):
        process = start_job(document, job)
        try:
            with contextlib.suppress(BrokenPipeError):
                process.stdin.close()
            return _follow(process.stdout, document.name, *hear)
        except JobFailedError as error:
            was_killed = error.code == _STOPPED and process.wait(_DYING_S) == -signal.SIGKILL
            if is_last or not was_killed:
                raise
            logger.warning("a process was killed from outside: its work is done once more")
        finally:
            process.end()
    raise AssertionError("the last attempt returns or raises")


def start_job(document: Worked, job: Job) -> JobProcess:
    """Start a process for a job and send it; its standard input stays open.

    Raises: JobFailedError.
    """
    file = JobFile(
        path=document.file.path,
        name=document.name,
        password=document.password,
        thumbnails=str(document.folder_path / "thumbnails"),
        memory_bytes=settings.TASK_LIMIT_MEMORY_BYTES,
        cache=str(settings.CODINGS_PATH),
        cache_bytes=settings.CODINGS_LIMIT_BYTES,
    )
    try:
        process = nursery().start()
    except NurseryGoneError as error:
        raise _broken_off(document.name) from error
    # One that dies at once is found out where its first line is awaited.
    with contextlib.suppress(BrokenPipeError):
        process.stdin.write(json.dumps(dump_job(file, job)).encode() + b"\n")
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
            raise _broken_off(name)
        message = json.loads(line)
        if "error" in message:
            raise JobFailedError(message["error"]["code"], message["error"]["message"])
        if "result" in message:
            return message["result"]
        step = Step(message["progress"], message["doing"], message["seconds_left"])
        if "partial" in message:
            on_partial(step.progress, message["partial"])


def _pass_on(stream: IO[bytes], lines: "queue.Queue[bytes]") -> None:
    """Every line as it comes, and an empty one at the end."""
    with contextlib.suppress(ValueError):  # closed while it was read: nobody waits for the rest
        for line in stream:
            lines.put(line)
    lines.put(b"")


def _broken_off(name: str) -> JobFailedError:
    message = f"{name}: the work on it broke off; nothing was changed. Try again, or split it."
    return JobFailedError(_STOPPED, message)
