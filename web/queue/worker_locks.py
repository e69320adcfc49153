"""Locks of the workers of this machine, which the system releases when a worker dies."""

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

__all__ = ["is_alive", "kept_alive", "living_workers"]


@contextmanager
def kept_alive(worker_id: str) -> Iterator[None]:
    """The worker of that name counts as alive within."""
    path = _path(worker_id)
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        try:
            yield
        finally:
            path.unlink(missing_ok=True)


def is_alive(worker_id: str) -> bool:
    path = _path(worker_id)
    try:
        with path.open("r") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return False
    except BlockingIOError:
        return True
    path.unlink(missing_ok=True)
    return False


def living_workers() -> int:
    """Return the number of living workers of this machine."""
    return sum(is_alive(path.stem) for path in _path("any").parent.glob("*.lock"))


def _path(worker_id: str) -> Path:
    return settings.WORKERS_LOCK_PATH.parent / "workers" / f"{worker_id}.lock"
