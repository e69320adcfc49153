"""The demo, as `green-satchel serve` does it, with files and a scanner beside: `make demo`."""

import os
import sys
from pathlib import Path

from demo.files import make_demo_files
from demo.satchels import write_satchels
from host.place import environment_of
from host.serve import commands_of, manage, why_not_heard
from host.supervisor import run_together

_WORKERS = 2
# Somebody puts paper into the stand-in scanner's feeder again.
_REFILL_S = 15


def main() -> int:
    root = Path(__file__).resolve().parent.parent
    data = Path(os.environ.get("GREEN_SATCHEL_VAR", root / "var")).resolve()
    port = int(os.environ.get("PORT", "8000"))
    scanner_port = port + 10
    for used in (port, scanner_port):
        if reason := why_not_heard("127.0.0.1", used):
            print(f"make demo: {reason} (PORT=8100 make demo)", file=sys.stderr)
            return 2
    environment = {**environment_of(data), "GREEN_SATCHEL_DEMO": "1"}
    print("Making the demo's files (once, up to a minute) ...", flush=True)
    make_demo_files(data / "demo")
    manage(["make_demo", str(write_satchels(data, data / "demo"))], environment)
    environment["GREEN_SATCHEL_SCANNERS"] = (
        f"Station office scanner=http://127.0.0.1:{scanner_port}/eSCL"
    )
    environment["GREEN_SATCHEL_MAIL_FOLDER"] = str(data / "sent")
    stand_in = [sys.executable, "-m", "demo.scanner", "--port", str(scanner_port)]
    commands = commands_of("127.0.0.1", port, _WORKERS, environment)
    commands.append([*stand_in, "--sheets=6", f"--refill={_REFILL_S}"])
    print(f"Green Satchel: http://127.0.0.1:{port}  (Ctrl-C stops it)", flush=True)
    return run_together(commands, environment)


if __name__ == "__main__":
    sys.exit(main())
