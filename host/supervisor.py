"""Supervision of programs that run together until stopped; those that die are started again."""

import os
import signal
import subprocess
import time
from collections.abc import Mapping, Sequence
from types import FrameType

__all__ = ["run_together"]

_ASKED_EVERY_S, _PATIENCE_S = 0.5, 8
# How long after it died something is started again, and at most, where it dies again and again.
_FIRST_PAUSE_S, _LONGEST_PAUSE_S, _STEADY_AFTER_S = 1.0, 30.0, 60.0


class _Kept:
    """A program that runs as long as we do, or is started again, later each time it dies soon."""

    def __init__(self, command: Sequence[str], environment: Mapping[str, str]) -> None:
        self._command, self._environment = command, environment
        self._pause_s, self._due = _FIRST_PAUSE_S, 0.0
        self.process = self._start()

    def look_after(self) -> None:
        now = time.monotonic()
        if self.process.poll() is None:
            if now - self._started > _STEADY_AFTER_S:
                self._pause_s = _FIRST_PAUSE_S
            self._due = 0.0
        elif not self._due:
            name = " ".join(self._command[1:4])
            print(f"{name} ended; it is started again in {self._pause_s:.0f} s", flush=True)
            self._due = now + self._pause_s
            self._pause_s = min(_LONGEST_PAUSE_S, 2 * self._pause_s)
        elif now >= self._due:
            self.process = self._start()

    def _start(self) -> "subprocess.Popen[bytes]":
        self._started = time.monotonic()
        # A session of its own, so that Ctrl-C reaches it once: through us.
        return subprocess.Popen(self._command, env=self._environment, start_new_session=True)


def run_together(commands: Sequence[Sequence[str]], environment: Mapping[str, str]) -> int:
    """Run all until stopped by a signal; programs that end before are started again."""
    is_stop_requested = False

    def stop(_signal: int, _frame: FrameType | None) -> None:
        nonlocal is_stop_requested
        is_stop_requested = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    kept = [_Kept(command, environment) for command in commands]
    while not is_stop_requested:
        for one in kept:
            one.look_after()
        time.sleep(_ASKED_EVERY_S)
    processes = [one.process for one in kept]
    for process in processes:
        process.terminate()
    deadline = time.monotonic() + _PATIENCE_S
    for process in processes:
        try:
            process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
    print("Stopped.", flush=True)
    return 0
