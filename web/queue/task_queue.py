"""Interface of the application's queue, for either engine."""

from collections.abc import Iterable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Protocol

__all__ = ["BegunTask", "TaskQueue", "Waiting"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """Tasks that nobody has begun. oldest_s: how long the first of them has waited."""

    count: int
    oldest_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BegunTask:
    """One that a worker is at, or was.

    about: the ids that it was given. worker: its name, "" where nobody knows it. tries: how often
    it was begun.
    """

    id: str
    about: tuple[str, ...]
    worker: str
    tries: int


class TaskQueue(Protocol):
    """Tasks with a priority, of which the highest goes first, and the workers that do them.

    errors: what all of it raises where the queue cannot be reached.
    """

    errors: tuple[type[Exception], ...]

    def waiting(self) -> Waiting: ...

    def waiting_about(self) -> set[str]:
        """The ids that waiting tasks were given."""

    def has_more_urgent(self, priority: int) -> bool:
        """A task of a higher priority waits."""

    def begun(self) -> Iterable[BegunTask]: ...

    def hand_back(self, task: BegunTask) -> None:
        """Put a task back to wait as if it had not begun; its number of attempts stays."""

    def give_up(self, task: BegunTask) -> None:
        """Mark a task as failed for good."""

    def kept_alive(self, worker: str) -> AbstractContextManager[None]:
        """The worker of that name counts as alive within, and soon not any more after."""

    def is_alive(self, worker: str) -> bool: ...

    def living_workers(self) -> int:
        """Return the number of living workers, on every machine that the queue knows of."""

    def work(self, worker: str, interval_s: float) -> None:
        """Do tasks, one after the other, until stopped by a signal."""
