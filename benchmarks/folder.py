"""PDFs against the plain loop, Reading desk: `python -m benchmarks.folder FILE...`.

Prints the table of docs/against-a-plain-loop.md: bytes; time and CPU of whole commands, proof
included; peak memory of all processes; mean and worst looks (SSIMULACRA2).
Looks are those of whole pages that show pictures, drawn by poppler, which neither side uses.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.looks import ssimulacra2
from benchmarks.run import measure

__all__ = ["looks_of"]

_PAGES_LOOKED_AT = 4
_LONGER_SIDE_PX = 1400


def main() -> None:
    command = Path(sys.executable).with_name("green-satchel")
    columns = (
        "file",
        "bytes",
        "loop",
        "ours",
        "ratio",
        "s, loop",
        "s, ours",
        "CPU s, loop",
        "CPU s, ours",
        "MB",
        "looks, loop",
        "looks, ours",
    )
    print(f"| {' | '.join(columns)} |")
    print("|---" * 12 + "|")
    rows = []
    for name in sys.argv[1:]:
        with tempfile.TemporaryDirectory() as folder:
            source, plain = Path(name), Path(folder) / "plain.pdf"
            reference = measure([sys.executable, "-m", "benchmarks.reference", source, plain])
            ours = measure([command, "lighten", source, "--out", folder, "--allow-signed"])
            copy = Path(folder) / f"{source.stem}-light.pdf"
            lighter = copy if copy.exists() else source
            before, theirs = source.stat().st_size, plain.stat().st_size
            after = lighter.stat().st_size
            rows.append((theirs, after, reference, ours))
            looks = [_as_text(scores) for scores in looks_of(source, plain, lighter)]
            print(
                f"| {source.name} | {before:,} | {theirs:,} | {after:,} | {after / theirs:.2f} "
                f"| {reference.seconds:.1f} | {ours.seconds:.1f} | {reference.cpu_seconds:.1f} "
                f"| {ours.cpu_seconds:.1f} | {ours.peak_mb:.0f} | {looks[0]} | {looks[1]} |",
                flush=True,
            )
    theirs = sum(row[0] for row in rows)
    after = sum(row[1] for row in rows)
    seconds, cpu = (
        sum(getattr(row[3], name) for row in rows) / sum(getattr(row[2], name) for row in rows)
        for name in ("seconds", "cpu_seconds")
    )
    print(f"\nall: bytes {after / theirs:.2f}, time {seconds:.1f}, CPU {cpu:.1f} of the loop's")


def looks_of(source: Path, *copies: Path) -> list[list[float]]:
    """Scores of pages with pictures, evenly spread, of each copy."""
    pages = _pages_with_pictures(source)
    chosen = pages[:: -(-len(pages) // _PAGES_LOOKED_AT)] if pages else []
    drawn = [_drawn(source, page) for page in chosen]
    return [
        [
            ssimulacra2(before, _drawn(copy, page))
            for page, before in zip(chosen, drawn, strict=True)
        ]
        for copy in copies
    ]


def _as_text(scores: list[float]) -> str:
    """The mean, and the worst."""
    return f"{np.mean(scores):.0f} / {min(scores):.0f}" if scores else "–"


def _pages_with_pictures(source: Path) -> list[int]:
    listed = subprocess.run(
        ["pdfimages", "-list", source], capture_output=True, text=True, check=True
    )
    return sorted({int(line.split()[0]) for line in listed.stdout.splitlines()[2:]})


def _drawn(path: Path, page: int) -> Image.Image:
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "page"
        command = ["pdftoppm", "-scale-to", str(_LONGER_SIDE_PX), "-f", str(page), "-l", str(page)]
        subprocess.run([*command, "-singlefile", path, target], check=True, capture_output=True)
        with Image.open(target.with_suffix(".ppm")) as image:
            return image.convert("RGB")


if __name__ == "__main__":
    main()
