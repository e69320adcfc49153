"""Every test of the project, with one closing line: `python -m tests.all`."""

import re
import subprocess
import sys
from pathlib import Path

_ROOT = Path(__file__).resolve().parent.parent
_SUITES = ("tests.core", "tests.web", "tests.browser")


def main() -> int:
    passed = failed = 0
    for suite in _SUITES:
        done, wrong = _run([sys.executable, "manage.py", "test", suite, "--timing"], _ROOT)
        passed, failed = passed + done, failed + wrong
    done, wrong = _run(["npm", "test", "--silent"], _ROOT / "frontend")
    passed, failed = passed + done, failed + wrong
    print(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


def _run(command: list[str], folder: Path) -> tuple[int, int]:
    """How many tests passed and failed; a suite that did not get to its end counts as failed."""
    print("+", " ".join(Path(word).name for word in command), flush=True)
    ran = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    text = re.sub(r"\x1b\[[0-9;]*m", "", ran.stdout + ran.stderr)
    print(text, flush=True)
    if match := re.search(r"^Ran (\d+) tests? in", text, re.MULTILINE):
        wrong = sum(int(n) for n in re.findall(r"(?:failures|errors)=(\d+)", text))
        done = int(match[1]) - wrong - sum(int(n) for n in re.findall(r"skipped=(\d+)", text))
    else:
        done = _last_number(r"Tests .*?(\d+) passed", text)
        wrong = _last_number(r"Tests .*?(\d+) failed", text)
    if ran.returncode and not wrong:
        wrong = 1
    return done, wrong


def _last_number(pattern: str, text: str) -> int:
    found = re.findall(pattern, text)
    return int(found[-1]) if found else 0


if __name__ == "__main__":
    sys.exit(main())
