"""Small text documents, written by python-docx as a program of others would have."""

import io
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import docx
from docx.shared import Pt
from lxml import etree
from PIL import Image

from lighten import Source
from tests.builders import chart, landscape
from tests.core.formats.picture.samples import camera_exif

__all__ = ["handbook", "picture_file", "rewritten", "saved", "with_members"]

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
A = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


def picture_file(
    kind: str = "JPEG", width: int = 900, height: int = 600, **options: Any
) -> io.BytesIO:
    """A photo with camera data, or a drawing where `kind` is PNG."""
    pixels = chart(width, height, seed=2) if kind == "PNG" else landscape(width, height, 3)
    if kind == "JPEG":
        options = {"quality": 92, "exif": b"Exif\0\0" + camera_exif(), **options}
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, kind, **options)
    file.seek(0)
    return file


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


def rewritten(source: Source, changes: Mapping[str, Callable[[bytes], bytes]]) -> Source:
    """The package with members changed in place."""
    with zipfile.ZipFile(source.path) as file:
        members = {name: file.read(name) for name in file.namelist()}
    for name, change in changes.items():
        members[name] = change(members[name])
    return with_members(source.path, members)


def with_members(path: Path, members: Mapping[str, bytes]) -> Source:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in members.items():
            file.writestr(name, content)
    return Source(path=path)
