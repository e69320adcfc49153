"""Every test of the project, with one closing line: `python -m tests.all`."""

import re
import subprocess
import sys
import time
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

_ROOT = Path(__file__).resolve().parent.parent
_DJANGO = (sys.executable, "manage.py", "test", "--timing")


def _fuzz(first: int, count: int) -> tuple[str, ...]:
    """Damaged files, on the core of a lane; `make fuzz` tries more."""
    told = ("--first", str(first), "--inputs", str(count), "--processes", "1")
    return (sys.executable, "-m", "benchmarks.fuzz", *told)


# The lanes run side by side, about equally long. Those of the second share a database, one after
# the other.
_LANES = (
    (
        ((*_DJANGO, "tests.core"), _ROOT),
        (("npm", "test", "--silent"), _ROOT / "frontend"),
        (_fuzz(0, 600), _ROOT),
        # Copies of some seventy small files, held against their originals by readers of others.
        ((sys.executable, "-m", "benchmarks.second_opinion", "--preset", "post"), _ROOT),
    ),
    (
        ((*_DJANGO, "tests.web"), _ROOT),
        ((*_DJANGO, "tests.browser"), _ROOT),
        (_fuzz(600, 1400), _ROOT),
    ),
)


def main() -> int:
    with ThreadPoolExecutor(len(_LANES)) as lanes:
        counts = [count for lane in lanes.map(_run_all, _LANES) for count in lane]
    passed, failed = (sum(column) for column in zip(*counts, strict=True))
    print(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


def _run_all(suites: Iterable[tuple[Sequence[str], Path]]) -> list[tuple[int, int]]:
    return [_run(command, folder) for command, folder in suites]


def _run(command: Sequence[str], folder: Path) -> tuple[int, int]:
    """How many tests passed and failed; a suite that did not get to its end counts as failed."""
    began = time.monotonic()
    ran = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    text = re.sub(r"\x1b\[[0-9;]*m", "", ran.stdout + ran.stderr)
    shown = " ".join(Path(word).name for word in command)
    print(f"+ {shown}: {time.monotonic() - began:.0f} s\n{text}", flush=True)
    if match := re.search(r"^Ran (\d+) tests? in", text, re.MULTILINE):
        wrong = sum(int(n) for n in re.findall(r"(?:failures|errors)=(\d+)", text))
        done = int(match[1]) - wrong - sum(int(n) for n in re.findall(r"skipped=(\d+)", text))
    elif "Tests " in text:
        done = _last_number(r"Tests .*?(\d+) passed", text)
        wrong = _last_number(r"Tests .*?(\d+) failed", text)
    else:
        done, wrong = int(ran.returncode == 0), 0
    if ran.returncode and not wrong:
        wrong = 1
    return done, wrong


def _last_number(pattern: str, text: str) -> int:
    found = re.findall(pattern, text)
    return int(found[-1]) if found else 0


if __name__ == "__main__":
    sys.exit(main())
