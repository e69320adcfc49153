"""Workers killed at random moments while documents are weighed and copies made.

`python -m benchmarks.kill URL FILE... [--kills 10]` against a running `make demo`: after the last
kill every document and copy has to come to an end by itself. Prints how long each took.
"""

import argparse
import os
import random
import signal
import sys
import time
from collections.abc import Callable
from pathlib import Path

import httpx

_PATIENCE_S = 300.0
_END_STATES = {"weighed", "failed"}
_COPY_ENDS = {"done", "none", "failed"}


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("url")
    parser.add_argument("files", nargs="+", type=Path)
    parser.add_argument("--kills", type=int, default=10)
    options = parser.parse_args()
    chance = random.Random(1)
    with httpx.Client(base_url=options.url, timeout=60, follow_redirects=True) as client:
        client.get("/")
        client.get("/api/session")
        token = {"X-CSRFToken": client.cookies.get("csrftoken", ""), "Referer": options.url}
        satchel = client.post("/api/satchels", json={"name": "Killed"}, headers=token).json()["id"]
        for path in options.files:
            with path.open("rb") as file:
                sent = {"file": (path.name, file)}
                client.post(f"/api/satchels/{satchel}/documents", files=sent, headers=token)
        seconds = _kill_until_done(client, satchel, options.kills // 2, chance, _are_weighed)
        print(f"all weighed {seconds:.0f} s after the last kill")
        client.post(f"/api/satchels/{satchel}/runs", json={}, headers=token)
        seconds = _kill_until_done(client, satchel, options.kills // 2, chance, _are_copied)
        print(f"all copied {seconds:.0f} s after the last kill")
        for document in client.get(f"/api/satchels/{satchel}").json()["documents"]:
            copy = document["copy"] or {}
            print(document["name"], document["state"], copy.get("state"), copy.get("verdict"))
        client.delete(f"/api/satchels/{satchel}", headers=token)
    return 0


def _kill_until_done(
    client: httpx.Client,
    satchel: str,
    kills: int,
    chance: random.Random,
    is_done: Callable[[list[dict[str, object]]], bool],
) -> float:
    """Seconds from the last kill until all is done. Raises: SystemExit if it never is."""
    for _ in range(kills):
        time.sleep(chance.uniform(1, 6))
        if workers := _workers():
            os.kill(chance.choice(workers), signal.SIGKILL)
    began = time.monotonic()
    while time.monotonic() - began < _PATIENCE_S:
        if is_done(client.get(f"/api/satchels/{satchel}").json()["documents"]):
            return time.monotonic() - began
        time.sleep(0.5)
    raise SystemExit("something never came to an end")


def _are_weighed(documents: list[dict[str, object]]) -> bool:
    return all(document["state"] in _END_STATES for document in documents)


def _are_copied(documents: list[dict[str, object]]) -> bool:
    copies = [document["copy"] for document in documents if document["state"] == "weighed"]
    return all(isinstance(copy, dict) and copy["state"] in _COPY_ENDS for copy in copies)


def _workers() -> list[int]:
    """Process numbers of the workers on this machine. What they start goes with them."""
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdecimal():
            try:
                command = (folder / "cmdline").read_bytes().split(b"\0")
            except OSError:
                continue
            if b"work" in command and any(part.endswith(b"manage.py") for part in command):
                found.append(int(folder.name))
    return found


if __name__ == "__main__":
    sys.exit(main())
