"""Small sound files of every kind, as the tests make them and others' libraries write them."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pikepdf
from PIL import Image
from reportlab.pdfgen import canvas

from lighten import Source
from tests.builders import PdfBuilder, Show, landscape, logbook, print_of, text_page
from tests.core.formats.docx.samples import handbook as docx_handbook
from tests.core.formats.odp.samples import talk as odp_talk
from tests.core.formats.ods.samples import ledger as ods_ledger
from tests.core.formats.odt.samples import handbook as odt_handbook
from tests.core.formats.ora.samples import drawing
from tests.core.formats.pdf.samples import report
from tests.core.formats.picture.samples import camera_photo
from tests.core.formats.pptx.samples import talk as pptx_talk
from tests.core.formats.tiff.samples import scanned
from tests.core.formats.xlsx.samples import ledger as xlsx_ledger

__all__ = ["SEEDS", "write_seeds"]


def write_seeds(folder: Path) -> list[Path]:
    """Every seed; PDFs twice, as most of what is brought are some, and most of what can break."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, write in SEEDS.items():
        write(folder / name)
    names = [*SEEDS, *(name for name in SEEDS if name.endswith(".pdf"))]
    return [folder / name for name in names]


def _form(path: Path) -> Source:
    """A form with fields, a note, an attachment, layers and page labels."""
    page = canvas.Canvas(str(path))
    page.drawString(72, 720, "Ringing permit")
    page.acroForm.textfield(name="name", x=72, y=640, width=200, height=20, value="warden")
    page.acroForm.checkbox(name="agreed", x=72, y=600, checked=True)
    page.bookmarkPage("top")
    page.addOutlineEntry("Permit", "top")
    page.textAnnotation("to be checked", Rect=(72, 500, 120, 540))
    page.showPage()
    page.drawString(72, 720, "Second page")
    page.linkURL("https://records.example/", (72, 700, 200, 730))
    page.save()
    with pikepdf.Pdf.open(path, allow_overwriting_input=True) as pdf:
        pdf.attachments["counts.csv"] = b"ring,wing\n" * 200
        layer = pdf.make_indirect(
            pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String("Notes"))
        )
        pdf.Root.OCProperties = pikepdf.Dictionary(
            OCGs=[layer], D=pikepdf.Dictionary(OFF=[layer], Order=[layer])
        )
        pdf.pages[0].obj.Resources.Properties = pikepdf.Dictionary(oc1=layer)
        pdf.save(path)
    return Source(path=path)


def _scan(path: Path) -> Source:
    """Scanned pages: one of colours with words behind it, one in archive coding."""
    builder = PdfBuilder().jpeg("Log", logbook(620, 877, 3), quality=85)
    black = print_of("reed warbler ringed at dawn")
    height, width = black.shape
    builder.stream(
        "Print",
        np.packbits(~black, axis=1).tobytes(),
        size=(width, height),
        bits=1,
        ColorSpace=pikepdf.Name.DeviceGray,
    )
    builder.page(
        Show("Log", (595, 0, 0, 842, 0, 0)),
        content=b"3 Tr " + text_page("read by a machine"),
        size=(595, 842),
    )
    builder.page(Show("Print", (540, 0, 0, 252, 30, 400)), size=(595, 842))
    builder.save(path)
    return Source(path=path)


def _drawn(path: Path) -> Source:
    """Two fonts that come with it, of which few letters are used, and many strokes."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    page = canvas.Canvas(str(path))
    for number, file in enumerate(("Vera.ttf", "VeraBd.ttf")):
        pdfmetrics.registerFont(TTFont(f"F{number}", file))
        page.setFont(f"F{number}", 12)
        page.drawString(72, 720 - 30 * number, "Forty reed warblers, änd öne more")
    random = np.random.default_rng(3)
    for line in random.uniform(0, 500, (400, 4)):
        page.line(*line)
    page.drawInlineImage(Image.fromarray(landscape(60, 40, 1)), 300, 300, 120, 80)
    page.save()
    return Source(path=path)


def _plain_report(path: Path) -> Source:
    return report(path, object_stream_mode=pikepdf.ObjectStreamMode.disable)


def _small_drawing(path: Path) -> Source:
    return drawing(path, size=(200, 130))


def _photo(path: Path) -> Source:
    return camera_photo(path, pixels=landscape(480, 320, 2))


def _picture(path: Path) -> Source:
    """Draw a picture, in few colours for kinds with palettes."""
    photo = Image.fromarray(landscape(240, 160, 5))
    is_true = path.name in ("true.png", "p.webp")
    (photo if is_true else photo.quantize(64)).save(path)
    return Source(path=path)


# By name, whose ending tells what is damaged in it by what rules.
SEEDS: dict[str, Callable[[Path], Source]] = {
    "report.pdf": report,
    "plain.pdf": _plain_report,
    "form.pdf": _form,
    "scan.pdf": _scan,
    "drawn.pdf": _drawn,
    "handbook.docx": docx_handbook,
    "talk.pptx": pptx_talk,
    "ledger.xlsx": xlsx_ledger,
    "handbook.odt": odt_handbook,
    "talk.odp": odp_talk,
    "ledger.ods": ods_ledger,
    "scanned.tif": scanned,
    "drawing.ora": _small_drawing,
    "photo.jpg": _photo,
    **dict.fromkeys(("p.png", "p.gif", "p.bmp", "p.webp", "true.png"), _picture),
}
