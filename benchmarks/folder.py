"""Files of your own against the plain loop: `python -m benchmarks.folder FILE...`."""

import sys
import tempfile
from pathlib import Path

import pikepdf

from benchmarks.run import measure


def main() -> None:
    command = Path(sys.executable).with_name("green-satchel")
    print("pictures and whole: bytes against the plain loop's; time: proof included")
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
                f"time {ours.seconds:5.1f} / {reference.seconds:5.1f} s",
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


def _ratio(ours: int, theirs: int) -> str:
    return f"{ours / theirs:5.2f}" if theirs else "    –"


if __name__ == "__main__":
    main()
