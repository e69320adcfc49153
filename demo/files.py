"""The demo's documents: a season's papers of Harrow Fen Ringing Station, which does not exist."""

import io
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from reportlab.lib.pagesizes import A4
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from demo.handbook import make_handbook_docx, make_handbook_odt
from demo.ledger import make_ledger
from demo.poster import make_poster
from demo.scenery import camera_photo, chart, logbook_page
from demo.talk import make_talk_odp, make_talk_pptx

__all__ = ["DEMO_FILES", "make_demo_files", "make_sample"]

_WIDTH, _HEIGHT = A4
_MARGIN = 62
_SPECIES = (
    "reed warbler",
    "sedge warbler",
    "bearded tit",
    "blackcap",
    "chiffchaff",
    "willow warbler",
    "reed bunting",
    "wren",
    "robin",
    "kingfisher",
)
_SENTENCES = (
    "Nets were opened at first light on every still morning of the month.",
    "The {0} was the commonest bird of the week, as in the year before.",
    "Water stood high in the lower ride, and two nets had to be moved to the bank.",
    "Of the birds caught again, most carried rings put on here, and {1} of them were in moult.",
    "The new feeding frame drew a {0} on the third day and {1} more by the end of the week.",
    "Volunteers gave {1} mornings, and the tea urn was mended at last.",
)


def make_demo_files(folder: Path) -> None:
    """The files that are not there yet, made on all cores."""
    folder.mkdir(parents=True, exist_ok=True)
    missing = [name for name in DEMO_FILES if not (folder / name).exists()]
    if missing:
        with ProcessPoolExecutor() as processes:
            list(processes.map(_make, [folder] * len(missing), missing))


def _make(folder: Path, name: str) -> None:
    # Some names differ in their ending only.
    partial = folder / f"{name}.partial"
    DEMO_FILES[name](partial)
    partial.rename(folder / name)


def make_sample(path: Path) -> None:
    """Two pages, two photos and a chart: light enough to come with the application, and too heavy
    for what it shows.
    """
    canvas = _canvas(path, "A walk round the reed bed")
    for page, seed in enumerate((3, 12)):
        top = _heading(canvas, ("A walk round the reed bed", "What was ringed there")[page])
        canvas.drawImage(_as_jpeg(camera_photo(1500, 1000, seed), 90), _MARGIN, top - 300, 470, 313)
        top = _paragraphs(canvas, top - 322, page, 3)
        if page:
            _draw_exact(canvas, chart(900, 420, seed=8), (_MARGIN, 80, 330, 154))
        canvas.showPage()
    canvas.save()


def _make_annual_report(path: Path) -> None:
    """Camera photos shown small, each page with a chart: 30 MB that need not be."""
    canvas = _canvas(path, "Annual report")
    for page in range(12):
        top = _heading(canvas, f"{page + 1}. {_title(page)}")
        photo = camera_photo(2600, 1733, seed=page)
        canvas.drawImage(_as_jpeg(photo, 93), _MARGIN, top - 300, 470, 313)
        top = _paragraphs(canvas, top - 322, page, 2)
        if page % 3 == 1:
            _draw_exact(canvas, chart(1500, 700, seed=page), (_MARGIN, 80, 330, 154))
        else:
            small = camera_photo(1800, 1350, seed=page + 40)
            canvas.drawImage(_as_jpeg(small, 92), _MARGIN, 80, 220, 165)
        canvas.bookmarkPage(f"part {page}")
        canvas.addOutlineEntry(_title(page), f"part {page}")
        canvas.showPage()
    canvas.save()


def _make_text_report(path: Path) -> None:
    """Text, two fonts, links and an outline: nothing in it but letters."""
    canvas = _canvas(path, "Ringing totals and methods")
    for page in range(24):
        top = _heading(canvas, _title(page))
        top = _paragraphs(canvas, top - 10, page, 9)
        canvas.setFillColorRGB(0.12, 0.36, 0.26)
        canvas.drawString(_MARGIN, top - 8, "Methods of the record office")
        canvas.linkURL(
            "https://records.example/methods", (_MARGIN, top - 12, _MARGIN + 200, top + 6)
        )
        canvas.linkAbsolute("to the start", "part 0", (450, 40, 540, 60))
        canvas.drawString(450, 46, "to the start")
        canvas.bookmarkPage(f"part {page}")
        canvas.addOutlineEntry(_title(page), f"part {page}")
        canvas.showPage()
    canvas.save()


def _make_scanned_logs(path: Path) -> None:
    """Log pages as a colour scanner gives them: 300 ppi, the page is the picture."""
    canvas = _canvas(path, "Ringing logs")
    for page in range(8):
        scan = logbook_page(2480, 3508, seed=page)
        canvas.drawImage(_as_jpeg(scan, 88), 0, 0, _WIDTH, _HEIGHT)
        canvas.showPage()
    canvas.save()


def _make_nest_box_photo(path: Path) -> None:
    """A photo as a camera leaves it: 12 megapixels, with where and when it was taken."""
    photo = Image.fromarray(camera_photo(4000, 3000, seed=71))
    exif = Image.Exif()
    exif[0x010E] = "Nest box 14, north reed bed"
    exif[0x0110] = "Fenlight 3"
    exif[0x013B] = "Harrow Fen Ringing Station"
    exif.get_ifd(0x8769)[0x9003] = "2026:05:04 05:12:00"
    exif.get_ifd(0x8769)[0x927C] = bytes(range(256)) * 90
    exif.get_ifd(0x8825).update(
        {1: "N", 2: (52.0, 31.0, 7.0), 3: "E", 4: (0.0, 20.0, 3.0)},
    )
    photo.save(path, "JPEG", quality=94, exif=exif)


def _make_month_chart(path: Path) -> None:
    """A drawing that an old program saved as a bitmap."""
    Image.fromarray(chart(2400, 1500, seed=5)).save(path, "BMP")


def _make_open_day_photo(path: Path) -> None:
    Image.fromarray(camera_photo(2400, 1600, seed=77)).save(path, "JPEG", quality=92)


def _make_old_log(path: Path) -> None:
    """Pages of an old log in two tones, as an archive's scanner leaves them: unpacked."""
    pages = [
        Image.fromarray(logbook_page(1240, 1754, seed=20 + page)).convert("L").point(_black_below)
        for page in range(4)
    ]
    first, *others = (page.convert("1") for page in pages)
    first.save(path, "TIFF", save_all=True, append_images=others, dpi=(150, 150))


def _black_below(level: int) -> int:
    return 0 if level < 150 else 255


# Those that take longest first, so that no core is left waiting at the end.
DEMO_FILES: dict[str, Callable[[Path], None]] = {
    "Annual report.pdf": _make_annual_report,
    "Volunteers' handbook.docx": make_handbook_docx,
    "Ringing logs, scanned.pdf": _make_scanned_logs,
    "Ringing ledger.xlsx": make_ledger,
    "Volunteers' handbook.odt": make_handbook_odt,
    "Ringing totals and methods.pdf": _make_text_report,
    "Open day poster.ora": make_poster,
    "A walk round the reed bed.pdf": make_sample,
    "Open day.jpg": _make_open_day_photo,
    "Log of the lower ride, 1987.tif": _make_old_log,
    "Reed bed talk.pptx": make_talk_pptx,
    "Reed bed talk.odp": make_talk_odp,
    "Nest box 14.jpg": _make_nest_box_photo,
    "Birds by month.bmp": _make_month_chart,
}


def _canvas(path: Path, title: str) -> Canvas:
    """A document without the hour it was made, so that it is the same every time."""
    pdfmetrics.registerFont(TTFont("Vera", "Vera.ttf"))
    pdfmetrics.registerFont(TTFont("VeraBold", "VeraBd.ttf"))
    canvas = Canvas(str(path), pagesize=A4, invariant=True)
    canvas.setTitle(f"Harrow Fen: {title}")
    canvas.setAuthor("Harrow Fen Ringing Station")
    return canvas


def _title(page: int) -> str:
    return f"The {_SPECIES[page % len(_SPECIES)]} at the fen, week {page + 14}"


def _heading(canvas: Canvas, text: str) -> float:
    """Write a heading; the height below it."""
    canvas.setFillColorRGB(0.11, 0.16, 0.14)
    canvas.setFont("VeraBold", 17)
    canvas.drawString(_MARGIN, _HEIGHT - _MARGIN - 10, text)
    return float(_HEIGHT - _MARGIN - 34)


def _paragraphs(canvas: Canvas, top: float, seed: int, count: int) -> float:
    """Write invented sentences in lines; the height below them."""
    random = np.random.default_rng(seed)
    canvas.setFont("Vera", 10)
    for _ in range(count):
        words = " ".join(
            _SENTENCES[int(random.integers(len(_SENTENCES)))].format(
                _SPECIES[int(random.integers(len(_SPECIES)))], int(random.integers(2, 40))
            )
            for _ in range(3)
        ).split()
        line = ""
        for word in [*words, ""]:
            if not word or canvas.stringWidth(f"{line} {word}") > _WIDTH - 2 * _MARGIN:
                canvas.drawString(_MARGIN, top, line)
                line, top = word, top - 15
            else:
                line = f"{line} {word}".strip()
        top -= 8
    return top


def _as_jpeg(pixels: NDArray[np.uint8], quality: int) -> ImageReader:
    coded = io.BytesIO()
    Image.fromarray(pixels).save(coded, "JPEG", quality=quality)
    coded.seek(0)
    return ImageReader(coded)


def _draw_exact(
    canvas: Canvas, pixels: NDArray[np.uint8], place: tuple[float, float, float, float]
) -> None:
    canvas.drawImage(ImageReader(Image.fromarray(pixels)), *place)
