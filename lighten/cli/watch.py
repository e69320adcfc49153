"""The verb watch: what arrives in a folder becomes lighter in another, as long as it runs."""

import argparse
import json
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from lighten import Verdict, keep_workers
from lighten.cli.copy_names import CopyNames
from lighten.cli.folders import documents_in, temporary_name
from lighten.cli.lighten import lighten_file, order_of
from lighten.cli.printing import DONE, SOME_FAILED, WRONG_USAGE, size_text

__all__ = ["watch_folder"]

# What was done is known after a restart by it.
_RECORD = ".watched.json"

Stamp = list[int]


def watch_folder(options: argparse.Namespace) -> int:
    """Watch a folder until stopped; with --once, until all its files are done."""
    folder, out = options.folder.resolve(), options.out.resolve()
    if not folder.is_dir():
        print(f"{options.folder}: is no folder.", file=sys.stderr)
        return WRONG_USAGE
    if out == folder or out.is_relative_to(folder):
        print(f"{options.out}: lies in the folder that is watched.", file=sys.stderr)
        return WRONG_USAGE
    out.mkdir(parents=True, exist_ok=True)
    watch = _Watch(options, out)
    with keep_workers():
        while True:
            failed = watch.look()
            if options.once:
                return SOME_FAILED if failed else DONE
            time.sleep(options.settle)


class _Watch:
    """Knows what was done, and what was seen when it looked last."""

    def __init__(self, options: argparse.Namespace, out: Path) -> None:
        self._options, self._record = options, out / _RECORD
        self._done: dict[str, Stamp] = self._recalled()
        self._seen: dict[str, Stamp] = {}
        self._names = self._names_given()

    def look(self) -> int:
        """Lighten files that have arrived and are complete; return how many failed."""
        failed = 0
        for path, below, name, stamp in self._waiting():
            # Twice the same: whoever writes it is done.
            is_settled = self._options.once or self._seen.get(name) == stamp
            self._seen[name] = stamp
            if is_settled:
                failed += not self._lighten(path, below)
                self._done[name] = stamp
                self._remember()
        return failed

    def _waiting(self) -> Iterator[tuple[Path, Path, str, Stamp]]:
        for path, below in documents_in([self._options.folder]):
            try:
                state = path.stat()
            except OSError:
                continue  # gone meanwhile
            name, stamp = str(below / path.name), [state.st_size, state.st_mtime_ns]
            if self._done.get(name) != stamp:
                yield path, below, name, stamp

    def _lighten(self, path: Path, below: Path) -> bool:
        entry = lighten_file(path, below, order_of(self._options), self._options, self._names)
        slip = self._options.out / below / f"{path.name}.slip.json"
        slip.parent.mkdir(parents=True, exist_ok=True)
        _write(slip, json.dumps(entry, indent=2))
        if entry["error"]:
            print(entry["error"]["message"], file=sys.stderr, flush=True)
            return False
        print(_line(entry), flush=True)
        return True

    def _names_given(self) -> CopyNames:
        """Restore the name that each original's copy had before."""
        names = CopyNames((), may_replace=self._options.force)
        for slip in self._options.out.rglob("*.slip.json"):
            entry = _read(slip)
            if entry.get("copy") and entry.get("path"):
                names.claim(Path(entry["copy"]), Path(entry["path"]))
        return names

    def _recalled(self) -> dict[str, Stamp]:
        return _read(self._record)

    def _remember(self) -> None:
        _write(self._record, json.dumps(self._done))


def _line(entry: dict[str, Any]) -> str:
    if entry["copy"] is None:
        return f"{entry['path']}: {'; '.join(entry['reasons'])}"
    sizes = f"{size_text(entry['bytes_before'])} -> {size_text(entry['bytes_after'])}"
    note = ". Look at it before you send it" if entry["verdict"] == Verdict.CHECK else ""
    return f"{entry['copy']}: {sizes}, {entry['verdict']}{note}"


def _read(path: Path) -> dict[str, Any]:
    """Return the stored JSON object, or an empty one."""
    try:
        stored = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return stored if isinstance(stored, dict) else {}


def _write(path: Path, text: str) -> None:
    """Write a file so that it appears whole or not at all."""
    partial = path.with_name(temporary_name(path.name))
    partial.write_text(text, encoding="utf-8")
    partial.replace(path)
