"""Speed, size, looks and memory against the plain loop, in the same run: `make bench`."""

import resource
import subprocess
import sys
import tempfile
import threading
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pikepdf
from PIL import Image
from skimage.metrics import structural_similarity

from benchmarks.files import make_picture_book
from benchmarks.looks import ssimulacra2

_TRACED_EVERY_S = 0.05
_LOOKED_AT = 60  # pictures whose likeness is measured, evenly spread


@dataclass(frozen=True, slots=True)
class Measured:
    """One finished command. peak_mb: of all its processes together, by proportional share."""

    seconds: float
    cpu_seconds: float
    peak_mb: float


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        book, plain, light = (Path(folder) / name for name in ("book.pdf", "plain.pdf", "out"))
        print("making the file of 100 pages and 300 pictures ...")
        make_picture_book(book)
        command = Path(sys.executable).with_name("green-satchel")
        reference = measure([sys.executable, "-m", "benchmarks.reference", book, plain])
        weighed = measure([command, "weigh", book])
        lightened = measure([command, "lighten", book, "--out", light])
        copy = light / "book-light.pdf"
        print(f"file                 {book.stat().st_size:>12,} bytes")
        print(f"plain loop           {plain.stat().st_size:>12,} bytes, {reference.seconds:6.1f} s")
        print(f"Reading desk         {copy.stat().st_size:>12,} bytes, {lightened.seconds:6.1f} s")
        print(f"weigh                {weighed.seconds:.2f} s, {weighed.peak_mb:.0f} MB at peak")
        print(
            f"bytes ratio          {copy.stat().st_size / plain.stat().st_size:.3f} (at most 0.80)"
        )
        print(f"time ratio           {lightened.seconds / reference.seconds:.2f} (at most 1.2)")
        print(f"weigh ratio          {weighed.seconds / reference.seconds:.3f} (at most 0.1)")
        print(f"peak memory          {lightened.peak_mb:.0f} MB (at most 700)")
        for name, ours, theirs in zip(
            ("SSIMULACRA2", "SSIM (luma)"), _looks(book, copy), _looks(book, plain), strict=True
        ):
            print(f"{name} mean     {ours.mean():8.4f} against {theirs.mean():8.4f}")
            print(f"{name} worst    {ours.min():8.4f} against {theirs.min():8.4f}")


def measure(command: list[str | Path]) -> Measured:
    started, cpu = time.monotonic(), _cpu_seconds()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    peak = [0.0]
    watcher = threading.Thread(target=_watch, args=(process, peak))
    watcher.start()
    if process.wait() != 0:
        raise SystemExit(f"{command} failed")
    seconds = time.monotonic() - started
    watcher.join()
    return Measured(seconds, _cpu_seconds() - cpu, peak[0])


def _cpu_seconds() -> float:
    """Return the CPU seconds of all commands that have ended."""
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def _watch(process: "subprocess.Popen[bytes]", peak: list[float]) -> None:
    while process.poll() is None:
        peak[0] = max(peak[0], sum(_share_mb(pid) for pid in _family(process.pid)))
        time.sleep(_TRACED_EVERY_S)


def _family(pid: int) -> list[int]:
    family = [pid]
    for path in Path(f"/proc/{pid}/task").glob("*/children"):
        try:
            for child in path.read_text().split():
                family += _family(int(child))
        except OSError:
            continue
    return family


def _share_mb(pid: int) -> float:
    try:
        lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    except OSError:
        return 0.0
    return sum(int(line.split()[1]) for line in lines if line.startswith("Pss:")) / 1024


def _looks(original: Path, copy: Path) -> tuple["np.ndarray", "np.ndarray"]:
    """SSIMULACRA2 and SSIM of pictures to the original's, brought to the copy's size."""
    with pikepdf.open(original) as one, pikepdf.open(copy) as other:
        pairs = [
            (picture, page_two.obj.Resources.XObject[name])
            for page, page_two in zip(one.pages, other.pages, strict=True)
            for name, picture in page.obj.Resources.XObject.items()
        ]
        chosen = pairs[:: max(1, len(pairs) // _LOOKED_AT)]
        looks = [_look(*pair) for pair in chosen]
    return np.array([look[0] for look in looks]), np.array([look[1] for look in looks])


def _look(one: pikepdf.Object, other: pikepdf.Object) -> tuple[float, float]:
    before, after = _decoded(one), _decoded(other)
    before = before.resize(after.size, Image.Resampling.LANCZOS)
    structure = structural_similarity(
        np.asarray(before.convert("L")), np.asarray(after.convert("L")), data_range=255
    )
    return ssimulacra2(before, after), float(structure)


def _decoded(picture: pikepdf.Object) -> Image.Image:
    assert isinstance(picture, pikepdf.Stream)
    return pikepdf.PdfImage(picture).as_pil_image().convert("RGB")


if __name__ == "__main__":
    main()
