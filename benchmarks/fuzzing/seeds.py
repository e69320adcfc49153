"""Small sound files of every kind, as the tests make them and others' libraries write them."""

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

__all__ = ["write_seeds"]


def write_seeds(folder: Path) -> list[Path]:
    """PDFs count double: most of what is brought are some, and most of what can break."""
    folder.mkdir(parents=True, exist_ok=True)
    pdfs = [
        report(folder / "report.pdf"),
        report(folder / "plain.pdf", object_stream_mode=pikepdf.ObjectStreamMode.disable),
        _form(folder / "form.pdf"),
        _scan(folder / "scan.pdf"),
        _drawn(folder / "drawn.pdf"),
    ]
    photo = landscape(240, 160, 5)
    palette = Image.fromarray(photo).quantize(64)
    for name in ("p.png", "p.gif", "p.bmp", "p.webp"):
        palette.convert("RGB" if name == "p.webp" else "P").save(folder / name)
    Image.fromarray(photo).save(folder / "true.png")
    others = [
        docx_handbook(folder / "handbook.docx"),
        pptx_talk(folder / "talk.pptx"),
        xlsx_ledger(folder / "ledger.xlsx"),
        odt_handbook(folder / "handbook.odt"),
        odp_talk(folder / "talk.odp"),
        ods_ledger(folder / "ledger.ods"),
        scanned(folder / "scanned.tif"),
        drawing(folder / "drawing.ora", size=(200, 130)),
        camera_photo(folder / "photo.jpg", pixels=landscape(480, 320, 2)),
    ]
    pictures = [folder / name for name in ("p.png", "p.gif", "p.bmp", "p.webp", "true.png")]
    pdf_paths = [source.path for source in pdfs]
    return [*pdf_paths, *(source.path for source in others), *pictures, *pdf_paths]


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
