"""Files of your own against the plain loop: `python -m benchmarks.folder FILE...`.

Looks are those of whole pages that show pictures, drawn by poppler, which neither side uses.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import pikepdf
from PIL import Image

from benchmarks.looks import ssimulacra2
from benchmarks.run import measure

_PAGES_LOOKED_AT = 4
_LONGER_SIDE_PX = 1400


def main() -> None:
    command = Path(sys.executable).with_name("green-satchel")
    print("pictures and whole: bytes against the plain loop's; time: proof included")
    print("looks: SSIMULACRA2 of pages, mean and worst, ours against the plain loop's")
    total_ours = total_theirs = 0
    for name in sys.argv[1:]:
        with tempfile.TemporaryDirectory() as folder:
            source, plain = Path(name), Path(folder) / "plain.pdf"
            reference = measure([sys.executable, "-m", "benchmarks.reference", source, plain])
            ours = measure([command, "lighten", source, "--out", folder, "--allow-signed"])
            copy = Path(folder) / f"{source.stem}-light.pdf"
            if not plain.exists():
                print(f"{source.name[:38]:<40} the plain loop cannot do it")
                continue
            lighter = copy if copy.exists() else source
            pictures, theirs = _picture_bytes(lighter), _picture_bytes(plain)
            total_ours += pictures
            total_theirs += theirs
            print(
                f"{source.name[:38]:<40}"
                f"pictures {_ratio(pictures, theirs)}  "
                f"whole {_ratio(lighter.stat().st_size, plain.stat().st_size)}  "
                f"time {ours.seconds:5.1f} / {reference.seconds:5.1f} s  "
                f"looks {_looks(source, lighter, plain)}",
                flush=True,
            )
    print(f"all pictures together {_ratio(total_ours, total_theirs)} (at most 0.80)")


def _picture_bytes(path: Path) -> int:
    with pikepdf.open(path) as pdf:
        return sum(
            len(value.read_raw_bytes())
            for value in pdf.objects
            if isinstance(value, pikepdf.Stream) and value.get("/Subtype") == "/Image"
        )


def _looks(source: Path, ours: Path, theirs: Path) -> str:
    """Of pages with pictures, evenly spread."""
    pages = _pages_with_pictures(source)
    chosen = pages[:: -(-len(pages) // _PAGES_LOOKED_AT)] if pages else []
    scores = np.array(
        [
            [ssimulacra2(_drawn(source, page), _drawn(copy, page)) for copy in (ours, theirs)]
            for page in chosen
        ]
    )
    if not len(scores):
        return "no page with pictures"
    (mean, other_mean), (worst, other_worst) = scores.mean(axis=0), scores.min(axis=0)
    return f"{mean:.0f} / {other_mean:.0f}, worst {worst:.0f} / {other_worst:.0f}"


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


def _ratio(ours: int, theirs: int) -> str:
    return f"{ours / theirs:5.2f}" if theirs else "    –"


if __name__ == "__main__":
    main()
