"""Small files of all kinds, written by libraries of others or taken from the packages they ship."""

import io
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

import docx
import numpy as np
import pptx
import reportlab
import skimage
import xlsxwriter
from docx.shared import Cm, Pt
from PIL import Image
from pptx.chart.data import CategoryChartData
from pptx.enum.chart import XL_CHART_TYPE
from pptx.util import Inches
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from benchmarks.fuzzing.seeds import SEEDS

__all__ = ["write_samples"]

_SHIPPED = Path(skimage.__file__).parent / "data"
_LARGEST_SHIPPED = 400_000
_WORDS = "The reed bed was burnt in March, and the warblers came back to it in May."


def write_samples(folder: Path) -> list[Path]:
    """Write every sample into `folder`; at least sixty."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, write in SEEDS.items():
        write(folder / f"seed-{name}")
    for file in sorted(_SHIPPED.iterdir()):
        is_picture = file.suffix in (".png", ".jpg", ".tif", ".gif")
        if is_picture and file.stat().st_size <= _LARGEST_SHIPPED:
            shutil.copy(file, folder / f"shipped-{file.name}")
    for library, name in ((docx, "default.docx"), (pptx, "default.pptx")):
        templates = Path(str(library.__file__)).parent / "templates"
        shutil.copy(templates / name, folder / f"shipped-{name}")
    for name, made in _MADE.items():
        made(folder / name)
    return sorted(folder.iterdir())


def _photo(width: int = 600, height: int = 400) -> Image.Image:
    with Image.open(_SHIPPED / "rocket.jpg") as rocket:
        return rocket.convert("RGB").resize((width, height))


def _photo_file(kind: str = "JPEG", **options: Any) -> io.BytesIO:
    file = io.BytesIO()
    _photo().save(file, kind, **options)
    file.seek(0)
    return file


def _several(path: Path) -> None:
    _photo().save(path, "MPO", save_all=True, append_images=[_photo().rotate(180)], quality=92)


def _moving(path: Path) -> None:
    frames = [_photo(200, 140).rotate(20 * turn) for turn in range(4)]
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=120, loop=0)


def _deep(path: Path) -> None:
    grey = np.asarray(_photo().convert("L"), np.uint16) * 257
    Image.fromarray(grey).save(path)


def _see_through(path: Path) -> None:
    picture = _photo().convert("RGBA")
    picture.putalpha(Image.linear_gradient("L").resize(picture.size))
    picture.save(path)


def _heic(path: Path) -> None:
    import pillow_heif

    pillow_heif.from_pillow(_photo()).save(str(path), quality=80)


def _pdf(draw: Callable[[Canvas], None]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        canvas = Canvas(str(path), pagesize=(595, 842), invariant=True)
        draw(canvas)
        canvas.save()

    return write


def _truetype(canvas: Canvas) -> None:
    fonts = Path(reportlab.__file__).parent / "fonts"
    for name in ("Vera", "VeraBd", "VeraIt"):
        pdfmetrics.registerFont(TTFont(name, str(fonts / f"{name}.ttf")))
        canvas.setFont(name, 12)
        canvas.drawString(60, 700, _WORDS)
        canvas.showPage()


def _type_1(canvas: Canvas) -> None:
    fonts = Path(reportlab.__file__).parent / "fonts"
    face = pdfmetrics.EmbeddedType1Face(
        str(fonts / "DarkGardenMK.afm"), str(fonts / "DarkGardenMK.pfb")
    )
    pdfmetrics.registerTypeFace(face)
    pdfmetrics.registerFont(pdfmetrics.Font("DarkGardenMK", face.name, "WinAnsiEncoding"))
    canvas.setFont("DarkGardenMK", 18)
    canvas.drawString(60, 700, _WORDS[:40])


def _drawn(canvas: Canvas) -> None:
    for row in range(30):
        path = canvas.beginPath()
        path.moveTo(60, 100 + 20 * row)
        for step in range(1, 400):
            path.lineTo(60 + step, 100 + 20 * row + 6 * np.sin(step / 9 + row))
        canvas.drawPath(path)


def _pictures(canvas: Canvas) -> None:
    from reportlab.lib.utils import ImageReader

    photo = ImageReader(_photo(1800, 1200))
    canvas.drawImage(photo, 60, 500, 240, 160)
    canvas.saveState()
    path = canvas.beginPath()
    path.rect(330, 500, 100, 100)
    canvas.clipPath(path, stroke=0)
    canvas.drawImage(photo, 300, 450, 480, 320)
    canvas.restoreState()
    canvas.drawString(60, 420, _WORDS)


def _linked(canvas: Canvas) -> None:
    for number in range(1, 4):
        canvas.bookmarkPage(f"p{number}")
        canvas.addOutlineEntry(f"Part {number}", f"p{number}")
        canvas.drawString(60, 700, f"{number}. {_WORDS}")
        canvas.linkURL("https://records.example/", (60, 690, 200, 715))
        canvas.linkRect("", "p1", (60, 600, 200, 620))
        canvas.showPage()


def _book(fill: Callable[[Any, Any], None]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        book = xlsxwriter.Workbook(str(path))
        sheet = book.add_worksheet("Rings")
        for row in range(40):
            sheet.write_row(row, 0, [f"AB{row:05d}", row / 3, row])
        fill(book, sheet)
        book.close()

    return write


def _header_logo(_: Any, sheet: Any) -> None:
    logo = {"image_left": "logo.png", "image_data_left": _photo_file("PNG")}
    sheet.set_header("&L&G", logo)


def _background(_: Any, sheet: Any) -> None:
    sheet.set_background(_photo_file("PNG"))


def _chart(book: Any, sheet: Any) -> None:
    chart = book.add_chart({"type": "line"})
    chart.add_series({"values": "=Rings!$B$1:$B$40"})
    sheet.insert_chart("E2", chart)


def _commented(_: Any, sheet: Any) -> None:
    sheet.write_comment("A3", "seen again")
    sheet.write_url("D1", "https://records.example/")
    sheet.insert_image("F2", "photo.jpg", {"image_data": _photo_file(), "x_scale": 0.3})


def _ruled(book: Any, sheet: Any) -> None:
    red = book.add_format({"bg_color": "#FFC7CE"})
    rule = {"type": "cell", "criteria": ">", "value": 20, "format": red}
    sheet.conditional_format("C1:C40", rule)
    sheet.data_validation("D2", {"validate": "list", "source": ["M", "F"]})
    sheet.freeze_panes(1, 0)


def _table(_: Any, sheet: Any) -> None:
    sheet.add_table("A1:C40", {"columns": [{"header": name} for name in ("Ring", "Wing", "No")]})


def _text(fill: Callable[[Any], None]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        document = docx.Document()
        document.add_heading("Season", 1)
        document.add_paragraph(_WORDS)
        fill(document)
        document.save(str(path))

    return write


def _with_header(document: Any) -> None:
    document.sections[0].header.paragraphs[0].add_run().add_picture(_photo_file(), width=Cm(3))
    document.add_picture(_photo_file(), width=Cm(8))


def _with_table(document: Any) -> None:
    table = document.add_table(3, 3)
    table.style = "Light Grid Accent 1"
    for number, cell in enumerate(cell for row in table.rows for cell in row.cells):
        cell.text = f"cell {number}"


def _with_styles(document: Any) -> None:
    document.styles["Heading 3"].font.size = Pt(31)
    document.add_paragraph(_WORDS, style="List Bullet")


def _deck(fill: Callable[[Any], None]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        deck = pptx.Presentation()
        slide = deck.slides.add_slide(deck.slide_layouts[5])
        slide.shapes.title.text = "Nets at dawn"
        fill(slide)
        deck.save(str(path))

    return write


def _with_chart(slide: Any) -> None:
    data: Any = CategoryChartData()  # type: ignore[no-untyped-call] # ships no types
    data.categories = ["2024", "2025"]
    data.add_series("Rings", (812, 904))
    box = (Inches(1), Inches(2), Inches(6), Inches(4))
    slide.shapes.add_chart(XL_CHART_TYPE.COLUMN_CLUSTERED, *box, data)


def _with_group(slide: Any) -> None:
    group = slide.shapes.add_group_shape()
    group.shapes.add_picture(_photo_file(), Inches(1), Inches(2), Inches(2))
    group.shapes.add_textbox(Inches(4), Inches(2), Inches(3), Inches(1)).text_frame.text = _WORDS


def _with_links(slide: Any) -> None:
    words = slide.shapes.add_textbox(Inches(1), Inches(2), Inches(6), Inches(1)).text_frame
    for text in ("Har", "row ", "Fen"):
        run = words.paragraphs[0].add_run()
        run.text, run.hyperlink.address = text, "https://records.example/"


_MADE: dict[str, Callable[[Path], None]] = {
    "several.jpg": _several,
    "inks.jpg": lambda path: _photo().convert("CMYK").save(path, quality=92),
    "moving.gif": _moving,
    "deep.png": _deep,
    "see-through.png": _see_through,
    "plain.bmp": lambda path: _photo().save(path),
    "plain.webp": lambda path: _photo().save(path, quality=92),
    "one.heic": _heic,
    "truetype.pdf": _pdf(_truetype),
    "type-1.pdf": _pdf(_type_1),
    "drawn.pdf": _pdf(_drawn),
    "pictures.pdf": _pdf(_pictures),
    "linked.pdf": _pdf(_linked),
    "header-logo.xlsx": _book(_header_logo),
    "background.xlsx": _book(_background),
    "chart.xlsx": _book(_chart),
    "commented.xlsx": _book(_commented),
    "ruled.xlsx": _book(_ruled),
    "table.xlsx": _book(_table),
    "header.docx": _text(_with_header),
    "table.docx": _text(_with_table),
    "styles.docx": _text(_with_styles),
    "chart.pptx": _deck(_with_chart),
    "group.pptx": _deck(_with_group),
    "links.pptx": _deck(_with_links),
}
