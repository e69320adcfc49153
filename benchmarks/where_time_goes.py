"""Time of a proved copy by phase and by function, on one core.

`python -m benchmarks.where_time_goes FILE...` makes the copy of each file by Reading desk in this
process and prints the tables of docs/where-time-goes.md: CPU seconds by phase beside the plain
loop's, then the functions that cost most by themselves.
"""

import cProfile
import os
import pstats
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from benchmarks.reference import reduce

_TOP = 12
# The phases, by the function that each lies in.
_PHASES = {
    "weigh": ("formats/pdf/weigh.py", "weigh_pdf"),
    "pictures": ("making/make_copy.py", "_treat_pictures"),
    "fonts, packing": ("formats/pdf/edit.py", "apply_rest"),
    "save": ("formats/pdf/edit.py", "save"),
    "proof": ("proving/compare.py", "prove"),
}


def main() -> None:
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    print(f"| file | plain loop | {' | '.join(_PHASES)} | all |")
    print("|---" * (len(_PHASES) + 3) + "|")
    functions = []
    for name in sys.argv[1:]:
        row, costly = _profile(Path(name))
        print(row, flush=True)
        functions.append((Path(name).name, costly))
    for name, costly in functions:
        print(f"\n{name}\n")
        print("\n".join(costly))


def _profile(path: Path) -> tuple[str, list[str]]:
    from lighten import Order, Source, make, weigh

    with tempfile.TemporaryDirectory() as folder:
        started = time.process_time()
        reduce(path, Path(folder) / "plain.pdf")
        loop = time.process_time() - started
        profile = cProfile.Profile()
        source, out = Source(path=path), Path(folder) / "copy.pdf"
        profile.enable()
        sheet = weigh(source)
        make(source, sheet, Order(may_end_signature=True), out)
        profile.disable()
    stats = pstats.Stats(profile)
    shares = [_within(stats, *place) for place in _PHASES.values()]
    cells = " | ".join(f"{seconds:.1f}" for seconds in (loop, *shares, sum(shares)))
    return f"| {path.name} | {cells} |", _costly(stats)


def _within(stats: pstats.Stats, module: str, function: str) -> float:
    """Seconds in a function and all that it calls."""
    timings: Any = stats.stats  # type: ignore[attr-defined]
    return sum(
        float(timing[3])
        for (file, _, name), timing in timings.items()
        if name == function and file.endswith(module)
    )


def _costly(stats: pstats.Stats) -> list[str]:
    """The functions that took most by themselves."""
    timings = sorted(
        stats.stats.items(),  # type: ignore[attr-defined]
        key=lambda entry: -entry[1][2],
    )
    return [
        f"- {timing[2]:.2f} s in {timing[0]:,} calls: {_short(file)} {name}"
        for (file, _, name), timing in timings[:_TOP]
    ]


def _short(file: str) -> str:
    return "/".join(Path(file).parts[-3:]) if file not in ("~", "") else ""


if __name__ == "__main__":
    main()
