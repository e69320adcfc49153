"""Estimates of presets without trials of their own: `python -m benchmarks.untried_presets FILE...`.

Trials are made for Reading desk, as the bench makes them first; then each lossy preset is estimated
from them, and without any, and its copy is made. Errors are shares of the copy.
"""

import sys
import tempfile
from pathlib import Path

import numpy as np

from lighten import (
    DEFAULT_PRESET,
    CodingCache,
    Source,
    Trials,
    estimate,
    keep_workers,
    make_copy,
    plan,
    preset_named,
    run_trials,
    weigh,
)

_PRESETS = ("Print room", "Reading desk", "Post", "Feather")
_MOST_KEPT_BYTES = 1_000_000_000


def main() -> None:
    print(f"| file | {' | '.join(_PRESETS)} |")
    print("|---" * (len(_PRESETS) + 1) + "|")
    untried: list[float] = []
    for name in sys.argv[1:]:
        errors, without = _errors(Source(path=Path(name)))
        cells = [f"{one:+.0%} ({two:+.0%})" for one, two in zip(errors, without, strict=True)]
        print(f"| {Path(name).name} | {' | '.join(cells)} |", flush=True)
        untried += [
            abs(error)
            for preset, error in zip(_PRESETS, errors, strict=True)
            if preset != DEFAULT_PRESET.title
        ]
    half, most = np.median(untried), np.percentile(untried, 90)
    print(f"\nwithout trials of any in brackets; others: half below {half:.1%}, 9 of 10 {most:.1%}")


def _errors(source: Source) -> tuple[list[float], list[float]]:
    """Return the error of each preset's estimate, from trials of the default, and from none."""
    sheet = weigh(source)
    tried, untried = [], []
    with tempfile.TemporaryDirectory() as place, keep_workers():
        folder = Path(place)
        cache = CodingCache(folder / "codings", most_bytes=_MOST_KEPT_BYTES)
        usual = plan(sheet, DEFAULT_PRESET)
        *_, (_, trials) = run_trials(source, sheet, usual, folder, cache=cache)
        for name in _PRESETS:
            chosen = plan(sheet, preset_named(name))
            made = make_copy(source, sheet, chosen, folder / name, cache=cache).bytes_after
            tried.append(estimate(sheet, chosen, trials).size_bytes / made - 1)
            untried.append(estimate(sheet, chosen, Trials()).size_bytes / made - 1)
    return tried, untried


if __name__ == "__main__":
    main()
