"""Text documents against a plain loop over their pictures: bytes, seconds, memory, worst looks.

`python -m benchmarks.text_documents [FILE ...]`: files that are named, else three that are made
here: a handbook of camera photos, 200 pictures with bitmaps and formatting by the run, and 3,000
paragraphs without a picture.
"""

import io
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from PIL import Image

from benchmarks.run import measure
from demo.handbook import make_handbook_docx, make_handbook_odt
from demo.scenery import chart, landscape
from lighten import Order, Source, make, preset_named, weigh

__all__ = ["make_many_paragraphs", "make_many_pictures"]

_LOOP_PX, _LOOP_QUALITY = 945, 75  # 16 cm, the width of a text, at 150 ppi
_PICTURES = (".jpg", ".jpeg", ".png", ".bmp")


def main(names: list[str]) -> None:
    with TemporaryDirectory() as folder:
        paths = [Path(name) for name in names] or _made(Path(folder))
        print(
            f"{'file':34} {'bytes':>11} {'share':>6} {'loop':>6} {'worst':>6} {'weigh':>6}"
            f" {'copy':>6} {'loop s':>6} {'MB':>5}  verdict"
        )
        for path in paths:
            _measure(path, Path(folder))


def _made(folder: Path) -> list[Path]:
    makers: dict[str, Callable[[Path], None]] = {
        "handbook.docx": make_handbook_docx,
        "handbook.odt": make_handbook_odt,
        "200-pictures.docx": make_many_pictures,
        "3000-paragraphs.docx": make_many_paragraphs,
    }
    paths = []
    for name, maker in makers.items():
        maker(folder / name)
        paths.append(folder / name)
    return paths


def _measure(path: Path, folder: Path) -> None:
    """Each in a process of its own, as people run it, and as the plain loop is."""
    plain, report = folder / "loop", folder / "told"
    loop = measure([*_THIS, "loop", path, plain])
    weighed = measure([*_THIS, "weigh", path, report])
    copied = measure([*_THIS, "copy", path, report])
    copy_bytes, worst, verdict = report.read_text().split()
    before = path.stat().st_size
    print(
        f"{path.name:34} {before:11,} {int(copy_bytes) / before:6.3f}"
        f" {plain.stat().st_size / before:6.3f} {worst:>6} {weighed.seconds:6.2f}"
        f" {copied.seconds:6.2f} {loop.seconds:6.2f} {copied.peak_mb:5.0f}  {verdict}",
        flush=True,
    )


_THIS: list[str | Path] = [sys.executable, "-m", "benchmarks.text_documents", "--do"]


def _do(what: str, path: Path, out: Path) -> None:
    """Run one side. out: the loop's copy; else the file for our report."""
    if what == "loop":
        _loop(path, out)
        return
    source = Source(path=path)
    sheet = weigh(source)
    if what == "weigh":
        return
    copy = out.with_name("copy")
    copy.unlink(missing_ok=True)
    made = make(source, sheet, Order(preset=preset_named("reading-desk")), copy)
    scores = [
        picture.score
        for picture in (made.proof.pictures if made.proof else ())
        if picture.score is not None
    ]
    verdict = made.proof.verdict if made.proof else "none"
    out.write_text(f"{made.copy.bytes_after} {min(scores, default=100):.1f} {verdict}")


def _loop(path: Path, out: Path) -> None:
    """Shrink as a simple script: every picture to the width of the text, quality 75."""
    with zipfile.ZipFile(path) as before, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as after:
        for entry in before.infolist():
            content = before.read(entry)
            if entry.filename.lower().endswith(_PICTURES):
                with Image.open(io.BytesIO(content)) as image:
                    small = image.convert("RGB")
                    if small.width > _LOOP_PX:
                        height = small.height * _LOOP_PX // small.width
                        small = small.resize((_LOOP_PX, height))
                    coded = io.BytesIO()
                    small.save(coded, "JPEG", quality=_LOOP_QUALITY)
                content = min(content, coded.getvalue(), key=len)
            after.writestr(entry.filename, content)


def make_many_pictures(path: Path) -> None:
    """200 pictures, about 20 MB: camera photos, screenshots, a bitmap now and then."""
    import docx
    from docx.shared import Cm

    document = docx.Document()
    photos = [landscape(1600, 1200, seed=seed) for seed in range(14)]
    for number in range(200):
        if number % 20 == 0:
            document.add_heading(f"Round {number // 20 + 1}", level=1)
        file = io.BytesIO()
        photo = photos[number % len(photos)]
        shifted = photo[number % 97 :, number % 89 :]
        if number % 25 == 24:
            Image.fromarray(chart(700, 420, seed=number)).save(file, "BMP")
        elif number % 9 == 4:
            Image.fromarray(chart(1000, 600, seed=number)).save(file, "PNG")
        else:
            size = (640, 480)
            Image.fromarray(shifted).resize(size).save(file, "JPEG", quality=97, subsampling=0)
        file.seek(0)
        document.add_picture(file, width=Cm(3.2))
        _add_words(document, number, 8)
    document.save(str(path))


def make_many_paragraphs(path: Path) -> None:
    """3,000 paragraphs whose every few words are a run of their own, with a session's number."""
    import docx

    document = docx.Document()
    for number in range(3000):
        _add_words(document, number, 24)
    document.save(str(path))


_WORDS = [
    "nets",
    "were",
    "opened",
    "at",
    "first",
    "light",
    "on",
    "every",
    "still",
    "morning",
    "and",
    "the",
    "log",
    "tells",
    "of",
    "{0}",
    "birds",
    "in",
    "{1}",
    "rounds",
    "of",
    "the",
    "reed",
    "bed",
    "with",
    "rings",
    "from",
    "{2}",
    "to",
    "{3}",
    "put",
    "on",
    "by",
    "two",
    "hands",
    "and",
    "read",
    "by",
    "a",
    "third",
]
_WORD = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"


def _add_words(document: Any, seed: int, count: int) -> None:
    paragraph = document.add_paragraph()
    _number(paragraph._p, seed * 31, "rsidR", "rsidRDefault", "rsidP")
    numbers = [(seed * 7919 + step * 104_729) % 9973 for step in range(4)]
    words = " ".join(_WORDS).format(*numbers).split()
    start = seed % 7
    for at in range(0, count, 2):
        pair = " ".join(words[(start + at + step) % len(words)] for step in range(2))
        run = paragraph.add_run(pair + " ")
        _number(run._r, seed * 131 + at, "rsidR", "rsidRPr")


def _number(element: Any, seed: int, *names: str) -> None:
    for step, name in enumerate(names):
        element.set(f"{{{_WORD}}}{name}", f"00{(seed * 2654435761 + step * 40503) % 0xFFFFFF:06X}")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--do"]:
        _do(sys.argv[2], Path(sys.argv[3]), Path(sys.argv[4]))
    else:
        main(sys.argv[1:])
