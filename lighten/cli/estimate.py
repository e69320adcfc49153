"""The verb estimate: what copies would weigh."""

import argparse
import json
import sys
import tempfile
import time
from argparse import Namespace
from pathlib import Path
from typing import Any

from lighten import (
    DEFAULT_PRESET,
    PRESETS,
    CodingCache,
    Estimate,
    LightenError,
    Plan,
    Preset,
    Progress,
    Source,
    Trials,
    WeightSheet,
    error_report,
    estimate,
    plan,
    run_trials,
    share_of,
    weigh,
)
from lighten.cli.folders import Skipped, documents_in
from lighten.cli.printing import DONE, SOME_FAILED, progress_bar, size_text
from lighten.cli.switches import kept_pictures, with_switches

__all__ = ["all_trials", "estimate_files"]

_MOST_KEPT_BYTES = 1_000_000_000


def estimate_files(options: argparse.Namespace) -> int:
    """Print what the copy of each file would weigh; without a preset, by each; the exit code."""
    presets = [options.preset] if options.preset is not None else _all_presets(options)
    entries: list[dict[str, Any]] = []
    skipped, table = Skipped(), list[tuple[Path, int, list[int]]]()
    for path, _ in documents_in(options.files, skipped=skipped):
        entry: dict[str, Any] = {"path": str(path), "error": None}
        started = time.monotonic()
        try:
            sheet, likely = _estimates(path, presets, options)
        except LightenError as error:
            entry["error"] = error_report(error)
            print(error.message, file=sys.stderr)
        else:
            first = likely[0]
            entry |= {"bytes_before": sheet.size_bytes}
            if len(presets) == 1:
                entry |= _report(first)
            else:
                named = zip(presets, likely, strict=True)
                entry["presets"] = {preset.name: _report(one) for preset, one in named}
            entry["seconds"] = round(time.monotonic() - started, 3)
            table.append((path, sheet.size_bytes, [one.size_bytes for one in likely]))
            if not options.json and len(presets) == 1:
                _print_estimate(path, sheet.size_bytes, first)
        entries.append(entry)
    for line in skipped.lines():
        print(line, file=sys.stderr)
    if options.json:
        print(json.dumps(entries, indent=2))
    elif len(presets) > 1:
        _print_table(table, presets)
    return SOME_FAILED if any(entry["error"] for entry in entries) else DONE


def all_trials(
    source: Source, sheet: WeightSheet, chosen: Plan | None, progress: Progress
) -> Trials:
    """Run all trials of one file here and now."""
    trials = Trials()
    with tempfile.TemporaryDirectory() as place:
        cache = CodingCache(Path(place) / "codings", most_bytes=_MOST_KEPT_BYTES)
        for share, so_far in run_trials(source, sheet, chosen, Path(place), cache=cache):
            progress(share)
            trials = so_far
    return trials


def _all_presets(options: Namespace) -> list[Preset]:
    """Return every shipped preset with the changes that were asked for; none is saved."""
    return [
        with_switches(Namespace(**{**vars(options), "preset": preset, "save_preset": None}))
        for preset in PRESETS
    ]


def _estimates(
    path: Path, presets: list[Preset], options: Namespace
) -> tuple[WeightSheet, list[Estimate]]:
    """Return the sheet of a file, and its estimate by each preset. Raises: as `weigh`."""
    source = Source(path=path, password=options.password)
    with progress_bar(path.name) as progress:
        sheet = weigh(source, share_of(progress, 0, 0.1, "weighing"))
        exceptions = kept_pictures(sheet, options.keep, path.name)
        plans = [plan(sheet, preset, exceptions=exceptions) for preset in presets]
        usual = next((one for one in plans if one.preset == DEFAULT_PRESET.name), plans[0])
        trials = all_trials(source, sheet, usual, share_of(progress, 0.1, 1, "trying codings"))
    return sheet, [estimate(sheet, one, trials) for one in plans]


def _report(likely: Estimate) -> dict[str, int]:
    return {"estimate": likely.size_bytes, "low": likely.low_bytes, "high": likely.high_bytes}


def _print_estimate(path: Path, before: int, likely: Estimate) -> None:
    after = likely.size_bytes
    print(
        f"{path}: {size_text(before)} -> about {size_text(after)} "
        f"({after / before - 1:+.0%}), between {size_text(likely.low_bytes)} and "
        f"{size_text(likely.high_bytes)}"
    )


def _print_table(table: list[tuple[Path, int, list[int]]], presets: list[Preset]) -> None:
    """Print a line for each file and a column for each preset, with sums below several files."""
    rows = [
        (str(path), [size_text(size) for size in (before, *sizes)]) for path, before, sizes in table
    ]
    if len(table) > 1:
        columns = zip(*((before, *sizes) for _, before, sizes in table), strict=True)
        rows.append(("all", [size_text(sum(column)) for column in columns]))
    titles = ["now", *(f"~ {preset.title}" for preset in presets)]
    widths = [max(10, len(title)) for title in titles]
    name_width = max([4, *(len(name) for name, _ in rows)])
    for name, cells in [("file", titles), *rows]:
        columns_text = "  ".join(
            cell.rjust(width) for cell, width in zip(cells, widths, strict=True)
        )
        print(f"{name:<{name_width}}  {columns_text}")
