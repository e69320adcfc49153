"""Server and workers of one machine, started and stopped together: `python -m demo.serve`."""

import os
import secrets
import signal
import subprocess
import sys
import time
from pathlib import Path
from types import FrameType

from demo.files import make_demo_files

_WORKERS = 2
# Somebody puts paper into the stand-in scanner's feeder again.
_REFILL_S = 15
_ASKED_EVERY_S = 0.5
_PATIENCE_S = 8


def main() -> int:
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
    print("Making the demo's files (once, about a minute) ...", flush=True)
    files = make_demo_files(var / "demo")
    subprocess.run([*manage, "make_demo", *map(str, files)], env=environment, cwd=root, check=True)
    gunicorn = [sys.executable, "-m", "gunicorn", "config.wsgi", "--bind", f"127.0.0.1:{port}"]
    commands = [[*gunicorn, "--workers=1", "--threads=8", "--timeout=120", "--log-level=warning"]]
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


def _run_together(commands: list[list[str]], environment: dict[str, str], root: Path) -> int:
    """Run all until one ends or we are told to stop; then end the others."""
    is_told_to_stop = False

    def stop(_signal: int, _frame: FrameType | None) -> None:
        nonlocal is_told_to_stop
        is_told_to_stop = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    # Sessions of their own, so that Ctrl-C reaches them once: through us.
    processes = [
        subprocess.Popen(command, env=environment, cwd=root, start_new_session=True)
        for command in commands
    ]
    while not is_told_to_stop and all(process.poll() is None for process in processes):
        time.sleep(_ASKED_EVERY_S)
    for process in processes:
        process.terminate()
    deadline = time.monotonic() + _PATIENCE_S
    for process in processes:
        try:
            process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
    print("Stopped.", flush=True)
    return 0 if is_told_to_stop else 1


if __name__ == "__main__":
    sys.exit(main())
