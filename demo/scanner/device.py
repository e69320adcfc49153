"""The state of the stand-in: paper in the feeder, jobs under way, what goes wrong."""

import threading
import time
import uuid
from dataclasses import dataclass, field

from demo.scanner.paper import Flaws

__all__ = ["Device", "Job", "NoPaperError"]


class NoPaperError(Exception):
    """The feeder is empty, or stuck."""


@dataclass(slots=True)
class Job:
    """One job. mode, media_type: as the protocol has them. is_duplex: each sheet has two sides."""

    source: str
    mode: str
    media_type: str
    ppi: int
    size: tuple[int, int]
    is_duplex: bool = False
    id: str = field(default_factory=lambda: str(uuid.uuid4()))
    state: str = "Processing"
    pages: int = 0


@dataclass(slots=True)
class Device:
    """sheets: in the feeder; jam_after: so many are drawn in before one gets stuck, once.

    refill_s: how long after it was emptied somebody puts paper in again; None for never.
    """

    sheets: int = 6
    jam_after: int | None = None
    refill_s: float | None = None
    flaws: Flaws = field(default_factory=Flaws)
    adf_state: str = "ScannerAdfLoaded"
    jobs: list[Job] = field(default_factory=list)
    lock: threading.RLock = field(default_factory=threading.RLock)
    _full: int = 0
    _drawn: int = 0
    _empty_since: float = 0.0

    def __post_init__(self) -> None:
        self._full = self.sheets
        self._settle()

    def load(self, sheets: int, jam_after: int | None) -> None:
        """Somebody frees what is stuck and puts paper in."""
        with self.lock:
            self.sheets, self.jam_after = sheets, jam_after
            self._full = sheets or self._full
            self._settle()

    @property
    def state(self) -> str:
        with self.lock:
            return "Processing" if any(job.state == "Processing" for job in self.jobs) else "Idle"

    def begin(self, job: Job) -> None:
        """Raises: NoPaperError if the feeder has nothing to draw in."""
        with self.lock:
            self._maybe_refill()
            if job.source == "Feeder" and self.adf_state != "ScannerAdfLoaded":
                raise NoPaperError
            self.jobs = [*self.jobs[-9:], job]

    def next_side(self, job: Job) -> int | None:
        """Return the number of the next side, from 0; None if there is none."""
        with self.lock:
            if job.state != "Processing":
                return None
            if job.source == "Platen":
                return self._side_from_glass(job)
            if job.is_duplex and job.pages % 2:
                job.pages += 1
                return self._drawn * 2 - 1
            if self.jam_after is not None and job.pages >= self.jam_after:
                self.adf_state, job.state, self.jam_after = "ScannerAdfJam", "Aborted", None
                return None
            if not self.sheets:
                job.state = "Completed"
                return None
            self.sheets -= 1
            self._drawn += 1
            job.pages += 1
            if not self.sheets:
                self.adf_state, self._empty_since = "ScannerAdfEmpty", time.monotonic()
            return self._drawn * 2 - 2 if job.is_duplex else self._drawn - 1

    def end(self, job: Job) -> None:
        with self.lock:
            if job.state == "Processing":
                job.state = "Canceled"

    def _side_from_glass(self, job: Job) -> int | None:
        if job.pages:
            job.state = "Completed"
            return None
        job.pages = 1
        return len(self.jobs) % 7

    def _maybe_refill(self) -> None:
        waited = time.monotonic() - self._empty_since
        is_waiting = self.adf_state in ("ScannerAdfEmpty", "ScannerAdfJam")
        if self.refill_s is not None and is_waiting and waited > self.refill_s:
            self.sheets, self._drawn = self._full, 0
            self._settle()

    def _settle(self) -> None:
        self.adf_state = "ScannerAdfLoaded" if self.sheets else "ScannerAdfEmpty"
