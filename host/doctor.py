"""`green-satchel doctor`: what is missing on this machine, and what to do about it."""

import argparse
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from importlib import import_module
from importlib.metadata import version
from pathlib import Path

from host.place import add_data

__all__ = ["Finding", "doctor_command", "findings"]

_LIBRARIES = {
    "pikepdf": "PDF objects",
    "pypdfium2": "drawing of PDF pages",
    "pyvips": "pictures",
    "PIL": "pictures",
    "numba": "quick loops",
}
_PACKAGES = {"PIL": "pillow"}
_LEAST_FREE_BYTES = 2_000_000_000


@dataclass(frozen=True, slots=True)
class Finding:
    """is_needed: nothing works without it; else something is done without."""

    text: str
    is_well: bool
    is_needed: bool = True


def doctor_command(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(prog="green-satchel doctor", description=__doc__)
    add_data(parser)
    options = parser.parse_args(arguments)
    is_well = True
    for finding in findings(options.data):
        sign = "ok " if finding.is_well else "NO " if finding.is_needed else "-- "
        print(sign + finding.text)
        is_well = is_well and (finding.is_well or not finding.is_needed)
    return 0 if is_well else 1


def findings(data: Path) -> Iterator[Finding]:
    for module, purpose in _LIBRARIES.items():
        yield _library(module, purpose)
    yield _office_suite()
    yield _fonts()
    there = data if data.exists() else data.absolute().parent
    free = shutil.disk_usage(there).free
    yield Finding(
        f"disk: {free / 1e9:.1f} GB free at {data}"
        + ("" if free > _LEAST_FREE_BYTES else "; make room, or name another with --data"),
        free > _LEAST_FREE_BYTES,
    )
    may_write = os.access(there, os.W_OK | os.X_OK)
    yield Finding(f"data: {data} can{'' if may_write else 'not'} be written to", may_write)
    secret = data / "secret-key"
    if secret.exists():
        is_ours = not secret.stat().st_mode & 0o077
        yield Finding(
            "secret key: for whoever runs this alone"
            if is_ours
            else f"secret key: others can read it; chmod 600 {secret}",
            is_ours,
        )


def _library(module: str, purpose: str) -> Finding:
    try:
        import_module(module)
        return Finding(f"{module} {version(_PACKAGES.get(module, module))}: {purpose}", True)
    except (ImportError, OSError) as error:
        return Finding(f"{module}: {purpose}; cannot be loaded ({error}). Install again", False)


def _office_suite() -> Finding:
    program = shutil.which("soffice")
    if program is None:
        return Finding(
            "office suite: none. Old office files (.doc, .ppt, .xls) are refused, and pages of "
            "documents are not drawn; install LibreOffice's writer, calc and impress",
            False,
            is_needed=False,
        )
    ran = subprocess.run([program, "--version"], capture_output=True, text=True, check=False)
    return Finding(f"office suite: {ran.stdout.strip() or program}", ran.returncode == 0, False)


def _fonts() -> Finding:
    program = shutil.which("fc-list")
    listed = (
        subprocess.run([program], capture_output=True, text=True, check=False).stdout
        if program
        else ""
    )
    count = len(listed.splitlines())
    return Finding(
        f"fonts: {count}"
        + ("" if count else ". Pages of office files look other than elsewhere; install some"),
        count > 0,
        is_needed=False,
    )


if __name__ == "__main__":
    sys.exit(doctor_command(sys.argv[1:]))
