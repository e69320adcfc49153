"""Check by other libraries that a copy opens and has as much content as its original."""

import io
import warnings
import zipfile
from collections.abc import Callable
from pathlib import Path

import docx
import openpyxl
import pikepdf
import pptx
import pypdfium2
from lxml import etree
from PIL import Image

__all__ = ["is_as_readable"]


def is_as_readable(original: Path, copy: Path, name: str) -> str:
    """ "", or what is wrong with the copy that is not wrong with the original."""
    suffix = Path(name).suffix.lower()
    if suffix == ".pdf":
        return _pdf(original, copy)
    if zipfile.is_zipfile(copy):
        return _package(original, copy, suffix)
    return _picture(original, copy)


def _pdf(original: Path, copy: Path) -> str:
    try:
        with pikepdf.Pdf.open(copy) as pdf:
            len(pdf.pages)
    except pikepdf.PdfError as error:
        return f"pikepdf: {error}"
    try:
        before = len(pypdfium2.PdfDocument(original))
    except pypdfium2.PdfiumError:
        before = None
    try:
        after = len(pypdfium2.PdfDocument(copy))
    except pypdfium2.PdfiumError as error:
        return f"pdfium: {error}" if before is not None else ""
    return "" if before in (None, after) else f"pdfium: {after} pages instead of {before}"


def _package(original: Path, copy: Path, suffix: str) -> str:
    with zipfile.ZipFile(copy) as package:
        if wrong := package.testzip():
            return f"zipfile: {wrong}"
        with zipfile.ZipFile(original) as before:
            names = set(before.namelist())
            for name in package.namelist():
                if not name.endswith((".xml", ".rels")):
                    continue
                error = _xml_error(package.read(name))
                if error and not (name in names and _xml_error(before.read(name))):
                    return f"lxml: {name}: {error}"
    opened = _OPENED_BY.get(suffix)
    if opened is None:
        return ""
    try:
        opened(str(copy))
    except Exception as error:
        try:
            opened(str(original))
        except Exception:
            return ""
        return f"{opened}: {error!r}"
    return ""


def _workbook(path: str) -> object:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return openpyxl.load_workbook(io.BytesIO(Path(path).read_bytes()))


_OPENED_BY: dict[str, Callable[[str], object]] = {
    ".docx": docx.Document,
    ".pptx": pptx.Presentation,
    ".xlsx": _workbook,
}


def _xml_error(data: bytes) -> str:
    try:
        etree.fromstring(data)
    except etree.XMLSyntaxError as error:
        return str(error)
    return ""


def _picture(original: Path, copy: Path) -> str:
    after = _frames(copy)
    if isinstance(after, int) and after == _frames(original):
        return ""
    before = _frames(original)
    if isinstance(before, str):
        return ""
    return f"Pillow: {after} instead of {before} frames"


def _frames(path: Path) -> int | str:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path) as image:
                image.load()
                return int(getattr(image, "n_frames", 1))
    except Exception as error:
        return repr(error)
