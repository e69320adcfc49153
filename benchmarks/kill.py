"""Jobs, what they are forked from, workers, the server and everything, killed at random moments.

`python -m benchmarks.kill [--kills 40]`: each time two documents are brought to a satchel, weighed,
tried, copied and downloaded; somewhere on the way something is killed. After that every document
and copy has to come to an end by itself. Prints how long each took; and at the end whether files
were left behind, the database is sound, and every original is as it was sent.
"""

import argparse
import contextlib
import hashlib
import io
import itertools
import os
import random
import signal
import sqlite3
import statistics
import sys
import tempfile
import threading
import time
import uuid
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx

from benchmarks.files import photo_pages
from benchmarks.installation import PASSWORD, Installation, name_of

__all__ = ["KILLED", "MOMENTS", "Strain"]

_PORT, _PATIENCE_S, _ASKED_EVERY_S = 8972, 120.0, 0.3
# Within how many seconds after it began something is killed.
MOMENTS = {"upload": 0.3, "weighing": 0.5, "trials": 1.5, "copies": 1.5, "download": 0.1}
# "parent": what jobs are forked from.
KILLED = ("job", "parent", "worker", "server", "everything")
_ENDED, _COPY_ENDED = {"weighed", "failed"}, {"done", "none", "failed"}
# Files of an account that are there to stay, see `docs/architecture.md`.
_KEPT = ("original", "copy-", "thumbnails", "pages-")


class Strain:
    """Work on an installation, with something killed in the midst of it."""

    def __init__(self, place: Installation, chance: random.Random) -> None:
        self._place, self._chance = place, chance
        self._client = httpx.Client(base_url=place.url, timeout=20)
        # By what is in them: one may be taken in and nobody be told.
        self._sent: set[str] = set()
        self._killed_at: float | None = None
        account = {"username": name_of(0), "password": PASSWORD}
        self._ask("GET", "/api/session")
        self._ask("POST", "/api/session", json=account)

    def close(self) -> None:
        self._client.close()

    def go_through(self, moment: str, kind: str) -> tuple[float | None, list[str]]:
        """Seconds from the kill until all had ended by itself, and what went wrong.

        No seconds where nothing of the kind was there to be killed.
        """
        self._killed_at = None

        @contextlib.contextmanager
        def killing(phase: str) -> Iterator[None]:
            if phase != moment:
                yield
                return
            killer = threading.Thread(target=self._kill_soon, args=(kind, MOMENTS[moment]))
            killer.start()
            try:
                yield
            finally:
                killer.join()
                self._place.wait()

        satchel = self.convert_with_office(0)
        with killing("upload"):
            self._upload(satchel, 2)
        self._upload(satchel, 2 - len(self._documents(satchel)))
        with killing("weighing"):
            self.until_weighed(satchel)
        with killing("trials"):
            self._until(satchel, _are_tried)
        with killing("copies"):
            with contextlib.suppress(httpx.HTTPError):
                self.start_copies(satchel)
            self.until_copied(satchel)
        with killing("download"):
            self._download(satchel)
        faults = self.until_settled(satchel)
        seconds = None if self._killed_at is None else time.monotonic() - self._killed_at
        return seconds, faults

    def convert_with_office(self, count: int) -> str:
        """A new satchel with so many documents; its id."""
        satchel = str(self._again("POST", "/api/satchels", json={"name": "Season"})["id"])
        self._upload(satchel, count)
        return satchel

    def until_weighed(self, satchel: str) -> None:
        self._until(satchel, _are_weighed)

    def start_copies(self, satchel: str) -> None:
        self._ask("POST", f"/api/satchels/{satchel}/runs", json={})

    def until_copied(self, satchel: str) -> list[Any]:
        """The documents, once there is a copy of each, or a reason for none."""
        return self._until(satchel, _are_copied)

    def until_settled(self, satchel: str) -> list[str]:
        """Wait until all copies and trials are made; return the faults."""
        self.until_copied(satchel)
        return [*_failures(self._until(satchel, _are_tried)), *self._download(satchel)]

    def faults(self) -> Iterator[str]:
        """Return the faults of the installation, which is stopped."""
        with contextlib.closing(sqlite3.connect(self._place.folder / "satchels.sqlite3")) as base:
            ((verdict,),) = base.execute("PRAGMA integrity_check").fetchall()
            if verdict != "ok":
                yield f"the database: {verdict}"
            rows = base.execute("SELECT id FROM satchels_document").fetchall()
        known = {str(uuid.UUID(row[0])) for row in rows}
        folders = {path.name: path for path in (self._place.folder / "files").glob("*/*")}
        yield from (f"the files of {name} are gone" for name in known - folders.keys())
        yield from (f"{name} belongs to no document" for name in folders.keys() - known)
        for path in folders.values():
            for file in path.iterdir():
                if not file.name.startswith(_KEPT) or file.suffix:
                    yield f"{file.name} was left behind"
            original = (path / "original").read_bytes()
            if hashlib.sha256(original).hexdigest() not in self._sent:
                yield f"the original {path.name} is not as it was sent"
        yield from (f"{path.name} was left behind" for path in self._uploads())

    def _uploads(self) -> Iterator[Path]:
        return (self._place.folder / "uploads").iterdir()

    def _kill_soon(self, kind: str, within_s: float) -> None:
        time.sleep(self._chance.uniform(0, within_s))
        if kind == "everything":
            self._killed_at = time.monotonic()
            self._place.kill()
            self._place.start()
        elif there := self._place.processes(kind):
            with contextlib.suppress(ProcessLookupError):
                os.kill(self._chance.choice(there), signal.SIGKILL)
                self._killed_at = time.monotonic()

    def _upload(self, satchel: str, count: int) -> None:
        for _ in range(count):
            content = photo_pages(*self._chance.sample(range(8), 3)) + uuid.uuid4().bytes
            file = {"file": ("page.pdf", content)}
            self._sent.add(hashlib.sha256(content).hexdigest())
            # What was not taken in is no document.
            with contextlib.suppress(httpx.HTTPError):
                self._ask("POST", f"/api/satchels/{satchel}/documents", files=file)

    def _download(self, satchel: str) -> list[str]:
        """Return the faults of the ZIP of the last run."""
        run = self._again("GET", f"/api/satchels/{satchel}")["run"]
        try:
            answer = self._client.get(f"/api/runs/{run['id']}/bundle")
            answer.raise_for_status()
        except httpx.HTTPError:
            return ["the copies could not be downloaded"]
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            is_whole = archive.testzip() is None and len(archive.namelist()) >= 2
        return [] if is_whole else ["the ZIP of the copies is not whole"]

    def _documents(self, satchel: str) -> list[Any]:
        return list(self._again("GET", f"/api/satchels/{satchel}")["documents"])

    def _until(self, satchel: str, is_so: Callable[[list[Any]], bool]) -> list[Any]:
        """Raises: SystemExit if it never is."""
        until = time.monotonic() + _PATIENCE_S
        while not is_so(documents := self._documents(satchel)):
            if time.monotonic() > until:
                states = [
                    (one["state"], one["trial_progress"], (one["copy"] or {}).get("state"))
                    for one in documents
                ]
                raise SystemExit(f"something never came to an end: {states}")
            time.sleep(_ASKED_EVERY_S)
        return documents

    def _again(self, method: str, path: str, **options: Any) -> Any:
        """The answer, also where the server has to come back first."""
        try:
            return self._ask(method, path, **options)
        except httpx.HTTPError:
            self._place.wait()
            return self._ask(method, path, **options)

    def _ask(self, method: str, path: str, **options: Any) -> Any:
        token = self._client.cookies.get("csrftoken") or ""
        headers = {"X-CSRFToken": token, "Referer": self._place.url}
        answer = self._client.request(method, path, headers=headers, **options)
        answer.raise_for_status()
        return answer.json() if answer.content else None


def _are_weighed(documents: list[Any]) -> bool:
    return all(document["state"] in _ENDED for document in documents)


def _are_tried(documents: list[Any]) -> bool:
    return all(document["trial_progress"] == 1 for document in documents)


def _are_copied(documents: list[Any]) -> bool:
    copies = [document["copy"] for document in documents]
    return all(copy is not None and copy["state"] in _COPY_ENDED for copy in copies)


def _failures(documents: list[Any]) -> Iterator[str]:
    for document in documents:
        for row in (document, document["copy"]):
            if row["state"] == "failed":
                yield f"failed: {row['error']['message']}"


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--kills", type=int, default=40)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    chance = random.Random(options.seed)
    every_pair = list(itertools.product(MOMENTS, KILLED))
    chance.shuffle(every_pair)
    waits: list[float] = []
    wrong: list[str] = []
    with tempfile.TemporaryDirectory() as folder:
        place = Installation(Path(folder), _PORT, people=1)
        place.start()
        strain = Strain(place, chance)
        try:
            for moment, kind in itertools.islice(itertools.cycle(every_pair), options.kills):
                seconds, faults = strain.go_through(moment, kind)
                duration = "none was there" if seconds is None else f"{seconds:5.1f} s"
                print(f"{kind:10} during {moment:9} {duration}", *faults, flush=True)
                waits += [] if seconds is None else [seconds]
                wrong += faults
            place.kill()
            # What nobody is at any more is swept away at a start.
            place.start()
        finally:
            place.stop()
            strain.close()
        wrong += strain.faults()
    print(
        f"{len(waits)} kills, ended by itself after {statistics.median(waits):.1f} s at the median,"
        f" {max(waits):.1f} s at most"
    )
    print(*wrong or ["nothing lost, nothing left behind, every original as it was"], sep="\n")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
