"""Bytes at equal looks against the plain loop: `python -m benchmarks.equal_looks FILE...`.

The loop is run at several qualities; what it would weigh where its pages look as well as those of
our Reading desk (mean SSIMULACRA2, drawn by poppler) lies between two of them. A file that the
loop cannot bring to such looks, or only to better ones, counts by its nearest quality, and is
marked.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.folder import looks_of
from benchmarks.reference import reduce

_QUALITIES = (25, 40, 55, 65, 75, 85, 92, 96)


def main() -> None:
    print("| file | ours | mean, p5, min | loop at that mean | its p5, min | ratio |")
    print("|---" * 6 + "|")
    ratios = []
    for name in sys.argv[1:]:
        row = _compared(Path(name))
        if row is not None:
            ratios.append(row)
    print(f"\n{len(ratios)} files: mean ratio {np.exp(np.mean(np.log(ratios))):.2f}")


def _compared(source: Path) -> float | None:
    command = Path(sys.executable).with_name("green-satchel")
    with tempfile.TemporaryDirectory() as folder:
        ordered = [str(command), "lighten", str(source), "--out", folder, "--allow-signed"]
        subprocess.run(ordered, capture_output=True, check=False)
        ours = Path(folder) / f"{source.stem}-light.pdf"
        plain = [Path(folder) / f"{quality}.pdf" for quality in _QUALITIES]
        for quality, path in zip(_QUALITIES, plain, strict=True):
            reduce(source, path, quality)
        if not ours.exists():
            return None
        looks, *others = looks_of(source, ours, *plain)
        if not looks:
            return None
        means = np.array([np.mean(scores) for scores in others])
        order = np.argsort(means)
        sizes = np.log([path.stat().st_size for path in plain])
        mean = float(np.mean(looks))
        theirs = float(np.exp(np.interp(mean, means[order], sizes[order])))
        nearest = others[int(np.argmin(abs(means - mean)))]
        mark = "" if means.min() <= mean <= means.max() else " (outside)"
        after = ours.stat().st_size
        print(
            f"| {source.name} | {after:,} | {_described(looks)} | {theirs:,.0f}{mark} "
            f"| {_described(nearest)} | {after / theirs:.2f} |",
            flush=True,
        )
        return after / theirs


def _described(scores: list[float]) -> str:
    return f"{np.mean(scores):.0f}, {np.percentile(scores, 5):.0f}, {min(scores):.0f}"


if __name__ == "__main__":
    main()
