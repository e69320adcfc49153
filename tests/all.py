"""Every test of the project, with one closing line: `python -m tests.all`."""

import re
import subprocess
import sys
import time
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
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
        outcomes = [outcome for lane in lanes.map(_run_all, _LANES) for outcome in lane]
    passed = sum(outcome.passed for outcome in outcomes)
    failed = sum(outcome.failed for outcome in outcomes)
    # Repeated here, as a long log may be kept by its end only.
    for outcome in outcomes:
        if outcome.failed:
            print(f"FAILED {outcome.suite}", *outcome.report, sep="\n  ")
    print(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


@dataclass(frozen=True)
class _Outcome:
    suite: str
    passed: int
    failed: int
    report: tuple[str, ...]
    """Headings and last lines of each failure."""


def _run_all(suites: Iterable[tuple[Sequence[str], Path]]) -> list[_Outcome]:
    return [_run(command, folder) for command, folder in suites]


def _run(command: Sequence[str], folder: Path) -> _Outcome:
    """Run one suite and count its tests; a suite that stops early counts as one failure."""
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
    return _Outcome(shown, done, wrong, tuple(_failure_lines(text)))


def _failure_lines(text: str) -> list[str]:
    """List the lines that name a failed test or its exception, or the last lines without any."""
    found = re.findall(r"^(?:FAIL|ERROR): .*|^\s*FAIL .*|^\w*(?:Error|Exception)\b.*", text, re.M)
    return [line[:300] for line in found[:40] or text.splitlines()[-10:]]


def _last_number(pattern: str, text: str) -> int:
    found = re.findall(pattern, text)
    return int(found[-1]) if found else 0


if __name__ == "__main__":
    sys.exit(main())
