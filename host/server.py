"""The web server: waitress, in which whoever comes in lets those who are in go first."""

import heapq
import itertools
import sys
import time
from typing import Any

from waitress import serve
from waitress.runner import run
from waitress.task import ThreadedTaskDispatcher

__all__ = ["DueQueue"]

# Signing in takes as much of the processor as ten other answers, so that nobody can try out many
# passwords, and a whole office does it at nine.
_SIGNING_IN = ("POST", "/api/session")
_SIGNED_IN_WITHIN_S = 2.0


class DueQueue:
    """Requests that wait for a thread, the earliest due first.

    Most are due as they come; signing in is due some time later, but then before what comes after.
    In the place of a dispatcher's own queue, which is a deque.
    """

    def __init__(self) -> None:
        self._waiting: list[tuple[float, int, Any]] = []
        self._counter = itertools.count()

    def __len__(self) -> int:
        return len(self._waiting)

    def append(self, channel: Any) -> None:
        """channel: of waitress, with at least one request."""
        request = channel.requests[0]
        is_signing_in = (request.command, request.path) == _SIGNING_IN
        due = time.monotonic() + (_SIGNED_IN_WITHIN_S if is_signing_in else 0.0)
        heapq.heappush(self._waiting, (due, next(self._counter), channel))

    def popleft(self) -> Any:
        return heapq.heappop(self._waiting)[-1]


def _serve(application: Any, **options: Any) -> None:
    dispatcher = ThreadedTaskDispatcher()
    dispatcher.queue = DueQueue()
    dispatcher.set_thread_count(int(options["threads"]))
    serve(application, _dispatcher=dispatcher, **options)


if __name__ == "__main__":
    sys.exit(run(sys.argv, _serve=_serve))
