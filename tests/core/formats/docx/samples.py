"""Small text documents, written by python-docx as a program of others would have."""

from pathlib import Path
from typing import Any

import docx
from docx.shared import Pt
from lxml import etree

from lighten import Source
from tests.core.formats.package_samples import picture_file

__all__ = ["handbook", "saved"]

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
A = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


def handbook(path: Path) -> Source:
    """Headings, words, a photo shown small, the same photo cropped, a BMP, a link, a table."""
    document = docx.Document()
    document.add_heading("Nets at the north reed bed", level=1)
    document.add_paragraph("Furl nets when it rains. ").add_run("Never leave them.").bold = True
    photo = picture_file()
    document.add_picture(photo, width=Pt(216))
    document.add_heading("Rings", level=1)
    document.add_picture(picture_file("BMP", 480, 320), width=Pt(144))
    cropped = document.add_picture(photo, width=Pt(72))
    _crop(cropped, left=25_000, right=25_000)
    table = document.add_table(rows=2, cols=3)
    table.cell(0, 0).text = "Species"
    document.sections[0].header.paragraphs[0].text = "Volunteers' handbook"
    for number in range(40):
        document.add_paragraph(f"Round {number}: walk the nets, note the time.")
    return saved(document, path)


def saved(document: Any, path: Path) -> Source:
    document.save(str(path))
    return Source(path=path)


def _crop(shape: Any, **sides: int) -> None:
    """Thousandths of a percent that are hidden at a side."""
    fill = shape._inline.graphic.graphicData.pic.blipFill
    rectangle = etree.SubElement(
        fill, f"{A}srcRect", {name[0]: str(share) for name, share in sides.items()}
    )
    fill.find(f"{A}blip").addnext(rectangle)
