"""Interface that an application implements so that its printer can take jobs."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import IntEnum
from typing import BinaryIO, Protocol

__all__ = ["JobState", "PrintJob", "PrintRefusedError", "PrinterDesk", "QueueInfo"]


class JobState(IntEnum):
    """RFC 8011, 5.3.7."""

    PENDING, HELD, PROCESSING, STOPPED, CANCELED, ABORTED, COMPLETED = 3, 4, 5, 6, 7, 8, 9

    @property
    def is_over(self) -> bool:
        return self >= JobState.CANCELED


class PrintRefusedError(Exception):
    """The document cannot be taken; the message is shown to whoever prints."""


@dataclass(frozen=True, slots=True, kw_only=True)
class QueueInfo:
    """uri: under which it was asked. uuid: the same as long as there is the queue."""

    name: str
    uri: str
    uuid: str
    page_uri: str
    began_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintJob:
    """number: counted from 1 in each queue. user: as the program says. pages: 0 until known."""

    number: int
    name: str
    user: str
    state: JobState
    message: str = ""
    pages: int = 0
    created_at: datetime
    ended_at: datetime | None = None


class PrinterDesk(Protocol):
    """One queue, with its jobs."""

    @property
    def queue(self) -> QueueInfo: ...

    def jobs(self) -> Sequence[PrintJob]:
        """The latest first."""

    def begin(self, name: str, user: str) -> PrintJob:
        """A job whose document is still to come. Raises: PrintRefusedError."""

    def take(
        self, number: int, document: BinaryIO, media_type: str, pages: tuple[int, int] | None
    ) -> None:
        """Keep the document of a job, or those pages of it, the first and the last.

        Raises: PrintRefusedError, and the job is ended.
        """

    def cancel(self, number: int) -> None:
        """End a job that is not over."""
