"""Servers that several machines share, started on the loopback for tests and benchmarks."""

import contextlib
import getpass
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from benchmarks.installation import Installation, kill_all

__all__ = ["WorkerMachine", "are_there", "redis_server", "shared_servers"]

_NAME = "satchels"


def are_there() -> bool:
    """Debian's PostgreSQL and Redis are installed."""
    return _postgres() is not None and shutil.which("redis-server") is not None


@contextmanager
def shared_servers(folder: Path) -> Iterator[dict[str, str]]:
    """A database, a queue and a folder for files: the settings of an installation that name them.

    All empty, and gone afterwards.
    """
    with redis_server(folder) as redis_url, _postgres_running() as database_url:
        yield {
            "GREEN_SATCHEL_REDIS_URL": redis_url,
            "GREEN_SATCHEL_DATABASE_URL": database_url,
            "GREEN_SATCHEL_FILES": str(folder / "files"),
            "GREEN_SATCHEL_SECRET_KEY": secrets.token_urlsafe(50),
        }


class WorkerMachine:
    """A worker with a working folder of its own, as on another machine.

    core: the one that it is kept to; None for all.
    """

    def __init__(self, place: Installation, folder: Path, *, core: int | None = None) -> None:
        command = [sys.executable, "-m", "host.command", "work", "--data", str(folder)]
        self._process = subprocess.Popen(
            [*([] if core is None else ["taskset", "-c", str(core)]), *command, "--workers", "1"],
            env={**place.environment, "GREEN_SATCHEL_VAR": str(folder)},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )

    def stop(self) -> None:
        self._process.terminate()
        self._process.wait()

    def kill(self) -> None:
        """Kill all processes of the machine, as in a power failure."""
        kill_all(self._process)


@contextmanager
def redis_server(folder: Path) -> Iterator[str]:
    """Its address, within; empty, and gone afterwards."""
    port = _free_port()
    command = ["redis-server", "--port", str(port), "--bind", "127.0.0.1", "--save", ""]
    with _running([*command, "--dir", str(folder)], port):
        yield f"redis://127.0.0.1:{port}/0"


@contextmanager
def _postgres_running() -> Iterator[str]:
    programs, port = _postgres(), _free_port()
    assert programs is not None
    # It refuses to run for root.
    user = "postgres" if os.geteuid() == 0 else getpass.getuser()
    with tempfile.TemporaryDirectory(dir="/tmp") as place:
        data = Path(place) / "data"
        account = pwd.getpwnam(user)
        if os.geteuid() == 0:
            os.chown(place, account.pw_uid, account.pw_gid)
        as_user = {"user": account.pw_uid, "group": account.pw_gid, "cwd": place}
        made = [
            str(programs / "initdb"),
            "-D",
            str(data),
            "-U",
            _NAME,
            "--auth=trust",
            "-E",
            "UTF8",
        ]
        subprocess.run(made, check=True, stdout=subprocess.DEVNULL, **as_user)  # type: ignore[call-overload]
        command = [str(programs / "postgres"), "-D", str(data), "-p", str(port), "-k", place]
        with _running([*command, "-c", "fsync=off"], port, **as_user):
            _until_ready(programs, port)
            created = [str(programs / "createdb"), "-h", "127.0.0.1", "-p", str(port), "-U", _NAME]
            subprocess.run([*created, _NAME], check=True)
            yield f"postgresql://{_NAME}@127.0.0.1:{port}/{_NAME}"


def _postgres() -> Path | None:
    """Return the folder of PostgreSQL's programs, which Debian keeps off the path."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin"))
    return found[-1] if found else None


def _until_ready(programs: Path, port: int) -> None:
    """Raises: SystemExit if it takes nobody in."""
    asked = [str(programs / "pg_isready"), "-q", "-h", "127.0.0.1", "-p", str(port)]
    for _ in range(300):
        if not subprocess.run(asked, check=False).returncode:
            return
        time.sleep(0.1)
    raise SystemExit(f"the database at port {port} takes nobody in")


@contextmanager
def _running(command: list[str], port: int, **options: object) -> Iterator[None]:
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    with subprocess.Popen(command, **quiet, **options) as process:  # type: ignore[call-overload]
        try:
            _until_open(port)
            yield
        finally:
            process.terminate()


def _until_open(port: int) -> None:
    """Raises: SystemExit if nobody listens there."""
    for _ in range(200):
        with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
            return
        time.sleep(0.05)
    raise SystemExit(f"nothing listens at port {port}")


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
