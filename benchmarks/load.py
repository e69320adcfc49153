"""Fifty people at once on this machine.

`python -m benchmarks.load [--people N] [--workers N] [--within S]`

Each signs in, brings a file of 1 MB, looks until it is weighed, opens its sheet, has a copy made,
looks until it is done, and downloads it; all within three minutes, over the loopback, against an
installation of its own as `green-satchel serve` runs it.
"""

import argparse
import collections
import http.client
import json
import statistics
import sys
import tempfile
import threading
import time
import urllib.parse
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

from benchmarks.files import photo_pages
from benchmarks.installation import PASSWORD, Installation, name_of

_PORT, _LONGEST_S = 8971, 180.0


class Visit:
    """One person's browser: one connection, which stays."""

    def __init__(self, number: int, took: dict[str, list[float]]) -> None:
        self._number, self._took = number, took
        self._connection = http.client.HTTPConnection("127.0.0.1", _PORT, timeout=120)
        self._cookies: dict[str, str] = {}

    def ask(
        self, kind: str, method: str, path: str, body: bytes | None = None, media_type: str = ""
    ) -> bytes:
        headers = {"X-CSRFToken": self._cookies.get("csrftoken", "")}
        headers["Cookie"] = "; ".join(f"{name}={value}" for name, value in self._cookies.items())
        if media_type:
            headers["Content-Type"] = media_type
        began = time.monotonic()
        self._connection.request(method, path, body, headers)
        answer = self._connection.getresponse()
        content = answer.read()
        self._took[kind].append(time.monotonic() - began)
        if answer.status >= 400:
            raise ValueError(f"{method} {path}: {answer.status}")
        for cookie in answer.headers.get_all("Set-Cookie", []):
            name, _, value = cookie.partition(";")[0].partition("=")
            self._cookies[name] = value
        return content

    def tell(self, kind: str, path: str, body: Any) -> Any:
        return json.loads(
            self.ask(kind, "POST", path, json.dumps(body).encode(), "application/json")
        )

    def go(self, file: bytes, until: float) -> None:
        self.ask("page", "GET", "/")
        self.ask("answers", "GET", "/api/session")
        account = {"username": name_of(self._number), "password": PASSWORD}
        self.tell("sign-in", "/api/session", account)
        self.ask("answers", "GET", "/api/satchels")
        satchel = self.tell("answers", "/api/satchels", {"name": "Load"})["id"]
        mark = uuid.uuid4().hex
        head = (
            f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="a.pdf"\r\n'
            "Content-Type: application/pdf\r\n\r\n"
        )
        form = head.encode() + file + f"\r\n--{mark}--\r\n".encode()
        path = f"/api/satchels/{satchel}"
        kind = f"multipart/form-data; boundary={mark}"
        self.ask("upload", "POST", f"{path}/documents", form, kind)
        document = self._look(path, "weighed after", until, lambda one: one["state"] == "weighed")
        self.ask("answers", "GET", f"/api/documents/{document['id']}/sheet")
        self.tell("answers", f"{path}/runs", {})
        document = self._look(
            path, "copied after", until, lambda one: one["copy"]["state"] in ("done", "none")
        )
        if document["copy"]["state"] == "done":
            self.ask("download", "GET", f"/api/copies/{document['copy']['id']}/file")

    def _look(self, path: str, kind: str, until: float, is_there: Callable[[Any], bool]) -> Any:
        """Poll as the page does: everything once, then the changes."""
        began = time.monotonic()
        bench = json.loads(self.ask("answers", "GET", path))
        (document,) = bench["documents"]
        while not is_there(document):
            if time.monotonic() > until:
                raise TimeoutError(kind)
            time.sleep(bench["ask_again_ms"] / 1000)
            since = urllib.parse.quote(bench["as_of"])
            bench = json.loads(self.ask("polls", "GET", f"{path}/changes?since={since}"))
            if bench["documents"]:
                (document,) = bench["documents"]
        self._took[kind].append(time.monotonic() - began)
        return document


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument(
        "--within", type=float, default=0.0, metavar="S", help="they come in so many seconds"
    )
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        place = Installation(Path(folder), _PORT, people=options.people, workers=options.workers)
        place.start()
        try:
            return _visit_all(options.people, options.within)
        finally:
            place.stop()


def _visit_all(people: int, within_s: float) -> int:
    took: dict[str, list[float]] = collections.defaultdict(list)
    failures: collections.Counter[str] = collections.Counter()
    files = [photo_pages(seed) for seed in range(min(people, 8))]
    until = time.monotonic() + _LONGEST_S

    def visit(number: int) -> None:
        time.sleep(within_s * number / people)
        try:
            # Nobody's file is another's, so that no coding is kept from before.
            Visit(number, took).go(files[number % len(files)] + b"%%%d\n" % number, until)
        except (OSError, TimeoutError, ValueError, KeyError) as error:
            failures[f"{type(error).__name__} {error}"] += 1

    threads = [threading.Thread(target=visit, args=(number,)) for number in range(people)]
    began = time.monotonic()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    print(f"{people} people, {time.monotonic() - began:.0f} s")
    for kind, seconds in took.items():
        p95 = sorted(seconds)[int(0.95 * (len(seconds) - 1))]
        middle = statistics.median(seconds)
        print(f"{kind:14} {len(seconds):5} median {middle:6.2f} p95 {p95:6.2f} s")
    for failure, count in failures.items():
        print(f"{count} x {failure}")
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
