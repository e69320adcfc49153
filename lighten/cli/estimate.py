"""The verb estimate: what copies would weigh."""

import argparse
import json
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from lighten import (
    CodingCache,
    LightenError,
    Plan,
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
from lighten.cli.printing import DONE, SOME_FAILED, progress_bar, size_text

__all__ = ["all_trials", "estimate_files"]

_MOST_KEPT_BYTES = 1_000_000_000


def estimate_files(options: argparse.Namespace) -> int:
    """Print what the copy of each file would weigh; the exit code."""
    entries: list[dict[str, Any]] = []
    for path in options.files:
        entry: dict[str, Any] = {"path": str(path), "error": None}
        source = Source(path=path, password=options.password)
        try:
            with progress_bar(path.name) as progress:
                sheet = weigh(source, share_of(progress, 0, 0.1, "weighing"))
                started = time.monotonic()
                chosen = plan(sheet, options.preset)
                trials = all_trials(
                    source, sheet, chosen, share_of(progress, 0.1, 1, "trying codings")
                )
            likely = estimate(sheet, chosen, trials)
            entry |= {
                "bytes_before": sheet.size_bytes,
                "estimate": likely.size_bytes,
                "low": likely.low_bytes,
                "high": likely.high_bytes,
                "seconds": round(time.monotonic() - started, 3),
            }
        except LightenError as error:
            entry["error"] = error_report(error)
            print(error.message, file=sys.stderr)
        entries.append(entry)
        if not options.json and not entry["error"]:
            before, after = sheet.size_bytes, likely.size_bytes
            print(
                f"{path}: {size_text(before)} -> about {size_text(after)} "
                f"({after / before - 1:+.0%}), between {size_text(likely.low_bytes)} and "
                f"{size_text(likely.high_bytes)}"
            )
    if options.json:
        print(json.dumps(entries, indent=2))
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
