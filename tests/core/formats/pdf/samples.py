"""PDFs that several tests look at."""

from pathlib import Path

import numpy as np
import pikepdf

from lighten import Source
from tests.builders import PdfBuilder, Show, chart, landscape, text_page

PHOTO = landscape(900, 600, 3)
SHADOW = np.tile(np.linspace(0, 255, 900, dtype=np.uint8), (600, 1))


def report(path: Path, **save_options: object) -> Source:
    """Two pages: a photo at 300 ppi shown twice, a chart, a picture with a soft mask, text."""
    builder = PdfBuilder()
    builder.jpeg("Photo", PHOTO).flate("Chart", chart(600, 400, 1)).jpeg(
        "Soft", landscape(900, 600, 4)
    )
    builder.flate("Mask", SHADOW)
    builder.pictures["Soft"].SMask = builder.pictures["Mask"]
    builder.page(
        Show("Photo", (216, 0, 0, 144, 72, 400)),
        Show("Chart", (144, 0, 0, 96, 300, 100)),
        content=text_page("Ringed at the fen: forty reed warblers") + b"400 600 90 60 re f\n",
    )
    builder.page(
        Show("Photo", (108, 0, 0, 72, 72, 400)),
        Show("Soft", (216, 0, 0, 144, 200, 500)),
        content=text_page("Second page"),
    )
    builder.pdf.docinfo["/Title"] = "Season report"
    link = pikepdf.Dictionary(
        Type=pikepdf.Name.Annot,
        Subtype=pikepdf.Name.Link,
        Rect=[72, 690, 200, 712],
        A=pikepdf.Dictionary(S=pikepdf.Name.URI, URI=pikepdf.String("https://records.example/")),
    )
    builder.pdf.pages[0].obj.Annots = pikepdf.Array([builder.pdf.make_indirect(link)])
    with builder.pdf.open_outline() as outline:
        outline.root.append(pikepdf.OutlineItem("Second", 1))
    builder.save(path, **save_options)
    return Source(path=path)


def signed(path: Path) -> Source:
    """A form whose one field is a signature; its value need not hold to be respected."""
    builder = PdfBuilder().jpeg("Photo", PHOTO).page(Show("Photo", (216, 0, 0, 144, 72, 400)))
    pdf = builder.pdf
    field = pdf.make_indirect(
        pikepdf.Dictionary(
            FT=pikepdf.Name.Sig,
            T=pikepdf.String("Signature"),
            V=pikepdf.Dictionary(Type=pikepdf.Name.Sig),
        )
    )
    pdf.Root.AcroForm = pikepdf.Dictionary(Fields=[field], SigFlags=3)
    builder.save(path)
    return Source(path=path)
