"""Server and workers of one machine, started and stopped together: `python -m demo.serve`.

What dies is started again.
"""

import os
import secrets
import signal
import subprocess
import sys
import time
from pathlib import Path
from types import FrameType

from demo.files import make_demo_files
from demo.satchels import write_satchels

_WORKERS = 2
# Somebody puts paper into the stand-in scanner's feeder again.
_REFILL_S = 15
_ASKED_EVERY_S = 0.5
_PATIENCE_S = 8
_SERVER_OPTIONS = (
    *("--threads=8", "--connection-limit=1000", "--asyncore-use-poll", "--channel-timeout=60"),
    "--max-request-body-size=510000000",
)
# How long after it died something is started again, and at most, where it dies again and again.
_FIRST_PAUSE_S, _LONGEST_PAUSE_S, _STEADY_AFTER_S = 1.0, 30.0, 60.0


def main() -> int:
    # Database and files are for whoever runs it, and nobody else on the machine.
    os.umask(0o077)
    root = Path(__file__).resolve().parent.parent
    var = Path(os.environ.get("GREEN_SATCHEL_VAR", root / "var"))
    port = os.environ.get("PORT", "8000")
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "GREEN_SATCHEL_DEMO": "1",
        "GREEN_SATCHEL_SECRET_KEY": _secret_key(var),
    }
    manage = [sys.executable, str(root / "manage.py")]
    print("Making the demo's files (once, up to a minute) ...", flush=True)
    make_demo_files(var / "demo")
    satchels = write_satchels(var, var / "demo")
    subprocess.run([*manage, "make_demo", str(satchels)], env=environment, cwd=root, check=True)
    # It takes a whole request before that takes up a thread, so that slow clients hold up nobody.
    server = [sys.executable, "-m", "waitress", f"--listen=127.0.0.1:{port}", *_SERVER_OPTIONS]
    commands = [[*server, "config.wsgi:application"]]
    scanner_port = str(int(port) + 10)
    environment["GREEN_SATCHEL_SCANNERS"] = (
        f"Station office scanner=http://127.0.0.1:{scanner_port}/eSCL"
    )
    environment["GREEN_SATCHEL_MAIL_FOLDER"] = str(var / "sent")
    stand_in = [sys.executable, "-m", "demo.scanner", "--port", scanner_port]
    commands.append([*stand_in, "--sheets=6", f"--refill={_REFILL_S}"])
    commands += [[*manage, "work", "--interval=0.3", "--no-startup-delay"]] * _WORKERS
    print(f"Green Satchel: http://127.0.0.1:{port}  (Ctrl-C stops it)", flush=True)
    return _run_together(commands, environment, root)


def _secret_key(var: Path) -> str:
    """Of this installation, made once."""
    path = var / "secret-key"
    if not path.exists():
        var.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


class _Kept:
    """A program that runs as long as we do, or is started again, later each time it dies soon."""

    def __init__(self, command: list[str], environment: dict[str, str], root: Path) -> None:
        self._command, self._environment, self._root = command, environment, root
        self._pause_s, self._due = _FIRST_PAUSE_S, 0.0
        self.process = self._start()

    def look_after(self) -> None:
        now = time.monotonic()
        if self.process.poll() is None:
            if now - self._started > _STEADY_AFTER_S:
                self._pause_s = _FIRST_PAUSE_S
            self._due = 0.0
        elif not self._due:
            name = " ".join(self._command[1:4])
            print(f"{name} ended; it is started again in {self._pause_s:.0f} s", flush=True)
            self._due = now + self._pause_s
            self._pause_s = min(_LONGEST_PAUSE_S, 2 * self._pause_s)
        elif now >= self._due:
            self.process = self._start()

    def _start(self) -> "subprocess.Popen[bytes]":
        self._started = time.monotonic()
        # A session of its own, so that Ctrl-C reaches it once: through us.
        return subprocess.Popen(
            self._command, env=self._environment, cwd=self._root, start_new_session=True
        )


def _run_together(commands: list[list[str]], environment: dict[str, str], root: Path) -> int:
    """Run all until we are told to stop; what ends before is started again."""
    is_told_to_stop = False

    def stop(_signal: int, _frame: FrameType | None) -> None:
        nonlocal is_told_to_stop
        is_told_to_stop = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    kept = [_Kept(command, environment, root) for command in commands]
    while not is_told_to_stop:
        for one in kept:
            one.look_after()
        time.sleep(_ASKED_EVERY_S)
    processes = [one.process for one in kept]
    for process in processes:
        process.terminate()
    deadline = time.monotonic() + _PATIENCE_S
    for process in processes:
        try:
            process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
    print("Stopped.", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
