"""Lines of code and of tests, blank ones left out: `make stats`."""

import subprocess
from pathlib import Path

_CODE = {".py", ".ts", ".tsx", ".css", ".sh"}
_GENERATED = ("schema.d.ts", "/migrations/")


def main() -> None:
    listed = subprocess.run(["git", "ls-files"], capture_output=True, text=True, check=True)
    code = tests = 0
    for name in listed.stdout.splitlines():
        path = Path(name)
        if path.suffix not in _CODE or any(part in name for part in _GENERATED):
            continue
        lines = sum(bool(line.strip()) for line in path.read_text().splitlines())
        if name.startswith("tests/") or ".test." in name or "/tests/" in name:
            tests += lines
        else:
            code += lines
    print(f"code {code} lines, tests {tests} lines: {tests / (tests + code):.0%} are tests")


if __name__ == "__main__":
    main()
