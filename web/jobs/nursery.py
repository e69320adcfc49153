"""Processes for jobs, forked from one that has loaded the core already."""

import atexit
import contextlib
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from typing import IO

from django.conf import settings

__all__ = ["JobProcess", "Nursery", "NurseryGoneError"]

_LONGEST_ANSWER = 64
_LOOKED_EVERY_S = 0.01
# Loading takes two seconds, compiling a minute or two.
_PATIENCE_S, _ENDING_S = 300.0, 10.0


class NurseryGoneError(Exception):
    """No process for a job could be started."""


class _Parent:
    """The process that jobs are forked from, see `fork_jobs`; one question at a time."""

    def __init__(self) -> None:
        self._turn = threading.Lock()
        self._control, theirs = socket.socketpair(type=socket.SOCK_SEQPACKET)
        self._control.settimeout(_PATIENCE_S)
        with theirs:
            number = theirs.fileno()
            self._process = subprocess.Popen(
                [sys.executable, "-m", "web.jobs.fork_jobs", str(number)],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                cwd=settings.ROOT,
                pass_fds=[number],
            )

    def ask(self, message: str, files: tuple[int, ...] = ()) -> str:
        """Raises: NurseryGoneError."""
        with self._turn:
            try:
                socket.send_fds(self._control, [message.encode()], files)
                answer = self._control.recv(_LONGEST_ANSWER)
            except OSError as error:
                raise NurseryGoneError from error
        if not answer:
            raise NurseryGoneError
        return answer.decode().strip()

    def close(self) -> None:
        """Close the connection, on which the process ends itself and its jobs."""
        self._control.close()
        try:
            self._process.wait(_ENDING_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()


class JobProcess:
    """A job at work, with its standard input and output."""

    def __init__(self, parent: _Parent) -> None:
        self._parent = parent
        job_reads, self_writes = os.pipe()
        self_reads, job_writes = os.pipe()
        self.stdin: IO[bytes] = open(self_writes, "wb")  # noqa: SIM115, PTH123 # closed by `end`
        self.stdout: IO[bytes] = open(self_reads, "rb")  # noqa: SIM115, PTH123
        try:
            self.pid = int(parent.ask("start", (job_reads, job_writes)))
        except NurseryGoneError:
            self._close()
            raise
        finally:
            os.close(job_reads)
            os.close(job_writes)
        self._status: int | None = None

    def poll(self) -> int | None:
        """Return the exit status as `subprocess` gives it, or None while it runs."""
        if self._status is None:
            try:
                self._keep(self._parent.ask(f"look {self.pid}"))
            except NurseryGoneError:
                # Jobs go with what they were forked from.
                self._status = -signal.SIGKILL
        return self._status

    def wait(self, seconds: float) -> int | None:
        """Return the exit status once it ends; None after the timeout."""
        until = time.monotonic() + seconds
        while self.poll() is None and time.monotonic() < until:
            time.sleep(_LOOKED_EVERY_S)
        return self._status

    def kill(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.pid, signal.SIGKILL)

    def end(self) -> None:
        """No process of the job stays behind."""
        if self._status is None:
            try:
                self._keep(self._parent.ask(f"end {self.pid}"))
            except NurseryGoneError:
                with contextlib.suppress(ProcessLookupError):
                    os.killpg(self.pid, signal.SIGKILL)
        self._close()

    def _keep(self, answer: str) -> None:
        if answer:
            self._status = int(answer)

    def _close(self) -> None:
        for stream in (self.stdin, self.stdout):
            with contextlib.suppress(OSError):
                stream.close()


class Nursery:
    """Starter of job processes; the process that they fork from is started again if it dies."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._parent: _Parent | None = None

    def warm(self) -> None:
        """Start to preload what jobs need, without waiting."""
        with self._lock:
            if self._parent is None:
                self._parent = _Parent()
                atexit.register(self.close)

    def start(self) -> JobProcess:
        """Start a process that waits for its job. Raises: NurseryGoneError."""
        self.warm()
        try:
            return self._start()
        except NurseryGoneError:
            self.close()
            self.warm()
            return self._start()

    def _start(self) -> JobProcess:
        parent = self._parent
        if parent is None:
            raise NurseryGoneError
        return JobProcess(parent)

    def close(self) -> None:
        with self._lock:
            parent, self._parent = self._parent, None
        if parent is not None:
            parent.close()
            atexit.unregister(self.close)
