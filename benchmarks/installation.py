"""An installation of its own, as `green-satchel serve` runs it, for programs that strain one."""

import collections
import contextlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator, Mapping
from pathlib import Path
from types import MappingProxyType

from host.place import environment_of
from host.serve import manage

__all__ = ["PASSWORD", "Installation", "kill_all", "name_of"]

PASSWORD = "reeds and rushes"
_PEOPLE = """
from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import make_password
users = get_user_model().objects
password = make_password({password!r})
users.bulk_create(users.model(username=f"person{{n}}", password=password) for n in range({count}))
"""
# By a word of their command lines.
_KINDS = {"server": "waitress", "worker": "work", "parent": "web.jobs.fork_jobs"}


def name_of(number: int) -> str:
    """Return the user name of an account."""
    return f"person{number}"


class Installation:
    """An installation in a folder, with accounts for so many people; runs between `start` and
    `stop`.

    shared: settings of one on several machines, see `benchmarks.machines`.
    """

    def __init__(
        self,
        folder: Path,
        port: int,
        *,
        people: int,
        workers: int = 2,
        shared: Mapping[str, str] = MappingProxyType({}),
    ) -> None:
        self.folder, self.url = folder, f"http://127.0.0.1:{port}"
        self.environment = {
            **environment_of(folder),
            "GREEN_SATCHEL_HOSTS": "127.0.0.1",
            **shared,
        }
        self._command = [sys.executable, "-m", "host.command", "serve", "--data", str(folder)]
        self._command += ["--port", str(port), "--workers", str(workers)]
        self._serving: subprocess.Popen[bytes] | None = None
        manage(["migrate", "--verbosity=0"], self.environment)
        code = _PEOPLE.format(password=PASSWORD, count=people)
        manage(["shell", "--verbosity=0", "-c", code], self.environment)

    def start(self) -> None:
        """Returns once it answers. Raises: SystemExit if it does not; then it is stopped."""
        self._serving = subprocess.Popen(
            self._command,
            env=self.environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        try:
            self.wait()
        except SystemExit:
            self.stop()
            raise

    def wait(self) -> None:
        """Until it answers. Raises: SystemExit if it does not."""
        for _ in range(240):
            # It ends by itself where another one listens there.
            if self._serving is not None and self._serving.poll() is not None:
                break
            try:
                urllib.request.urlopen(f"{self.url}/api/session", timeout=5).read()
            except (OSError, urllib.error.HTTPError):
                time.sleep(0.25)
            else:
                return
        raise SystemExit("it did not start")

    def wait_for_workers(self, count: int) -> None:
        """Until so many are alive."""
        while self._living_workers() < count:
            time.sleep(0.1)

    def _living_workers(self) -> int:
        try:
            with urllib.request.urlopen(f"{self.url}/health", timeout=5) as answer:
                body = answer.read()
        except urllib.error.HTTPError as refused:
            body = refused.read()
        return int(json.loads(body)["workers"])

    def stop(self) -> None:
        if self._serving is not None:
            self._serving.terminate()
            self._serving.wait()

    def kill(self) -> None:
        """Kill all of its processes at once, as in a power failure."""
        assert self._serving is not None
        kill_all(self._serving)

    def processes(self, kind: str) -> list[int]:
        """Numbers of those that are there: "server", "worker", "parent" of jobs, or "job"."""
        assert self._serving is not None
        children = _children()
        there = list(_descendants(self._serving.pid, children))
        parents = [pid for pid in there if _KINDS["parent"] in _command_of(pid)]
        # Jobs are forked and look like what they were forked from.
        jobs = [job for parent in parents for job in children.get(parent, ()) if job in parents]
        if kind == "job":
            return jobs
        if kind == "parent":
            return [pid for pid in parents if pid not in jobs]
        return [pid for pid in there if _KINDS[kind] in _command_of(pid)]


def kill_all(process: "subprocess.Popen[bytes]") -> None:
    """The process and all that it started, and they others."""
    # The one that starts others again goes first.
    for pid in (process.pid, *_descendants(process.pid, _children())):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
    process.wait()


def _children() -> dict[int, list[int]]:
    """Return the children of every process of this machine."""
    children = collections.defaultdict(list)
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            stat = path.read_text()
        except OSError:
            continue  # gone meanwhile
        # After the name, which may have anything in it: its state, and its parent (proc(5)).
        children[int(stat.rpartition(")")[2].split()[1])].append(int(path.parent.name))
    return children


def _descendants(pid: int, children: Mapping[int, list[int]]) -> Iterator[int]:
    for child in children.get(pid, ()):
        yield child
        yield from _descendants(child, children)


def _command_of(pid: int) -> list[str]:
    try:
        return Path(f"/proc/{pid}/cmdline").read_text().split("\0")
    except OSError:
        return []
