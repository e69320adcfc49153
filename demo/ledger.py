"""The demo's ringing ledger: a workbook that has been passed on for years."""

import datetime
import io
import zipfile
from pathlib import Path

import numpy as np
import xlsxwriter
from PIL import Image

from demo.scenery import camera_photo

__all__ = ["make_ledger"]

_ROWS, _FORMATTED_TO = 60_000, 90_000
_SPECIES = ("Reed Warbler", "Sedge Warbler", "Bearded Tit", "Blackcap", "Wren", "Kingfisher")
_FIRST_DAY = datetime.date(2019, 3, 1)
_HEAD = ("Ring", "Species", "Age", "Sex", "Day", "Hour", "Wing", "Weight", "Fat", "Net", "Ratio")
_STRAY_NAMES = "".join(
    f'<definedName name="{name}" hidden="1">{target}</definedName>'
    for name, target in (
        ("old_total_2019", "#REF!"),
        ("print_all_2017", "Sheet9!$A$1:$Z$900"),
        ("ring_series", "'Ringing'!$A$2:$A$60001"),
        *((f"_helper_{number}", "#REF!") for number in range(40)),
    )
)


def make_ledger(path: Path) -> None:
    """60,000 rings, formats to the end of the sheet, hidden names, a photo, idle styles."""
    unfinished = path.with_suffix(".unfinished")
    book = xlsxwriter.Workbook(str(unfinished), {"default_date_format": "yyyy-mm-dd"})
    book.set_properties({"author": "Harrow Fen", "created": datetime.datetime(2026, 10, 2)})
    head = book.add_format({"bold": True, "bg_color": "#DCE6DC"})
    day, hour, plain = (
        book.add_format({"num_format": code}) for code in ("yyyy-mm-dd", "hh:mm", "0.00")
    )
    sheet, summary = book.add_worksheet("Ringing"), book.add_worksheet("Summary")
    chance = np.random.default_rng(26)
    sheet.write_row(0, 0, _HEAD, head)
    for row in range(1, _ROWS + 1):
        wing, weight = 60 + float(chance.normal(8, 3)), 12 + float(chance.normal(3, 1))
        sheet.write_string(row, 0, f"HF{row:06d}")
        sheet.write_string(row, 1, _SPECIES[int(chance.integers(len(_SPECIES)))])
        sheet.write_number(row, 2, int(chance.integers(1, 7)))
        sheet.write_string(row, 3, "MFU"[int(chance.integers(3))])
        sheet.write_datetime(row, 4, _FIRST_DAY + datetime.timedelta(days=row // 24), day)
        sheet.write_number(row, 5, float(chance.integers(300, 1200)) / 1440, hour)
        sheet.write_number(row, 6, round(wing, 1))
        sheet.write_number(row, 7, round(weight, 1))
        sheet.write_number(row, 8, int(chance.integers(0, 6)))
        sheet.write_number(row, 9, int(chance.integers(1, 15)))
        sheet.write_number(row, 10, weight / wing, plain)
    for row in range(_ROWS + 1, _FORMATTED_TO):
        for column in range(14):
            sheet.write_blank(row, column, None, plain if column % 2 else hour)
    sheet.write_blank("AZ1048576", None, plain)
    summary.write_row(0, 0, ("Rings", "Mean wing", "Longest"), head)
    summary.write_formula("A2", "=COUNTA(ring_series)", value=_ROWS)
    summary.write_formula("B2", "=AVERAGE(Ringing!G2:G60001)", plain, 68.0)
    summary.write_formula("C2", "=MAX(Ringing!G2:G60001)", plain, 81.2)
    photo = {"image_data": _photo(), "x_scale": 0.16, "y_scale": 0.16}
    summary.insert_image("E2", "reed bed.jpg", photo)
    book.define_name("wings", "=Ringing!$G$2:$G$60001")
    book.close()
    _with_strays(unfinished, path)
    unfinished.unlink()


def _photo() -> io.BytesIO:
    file = io.BytesIO()
    Image.fromarray(camera_photo(2400, 1600, seed=33)).save(file, "JPEG", quality=93)
    return file


def _with_strays(source: Path, target: Path) -> None:
    """Names that were hidden by programs, and styles that came along from other workbooks."""
    idle = "".join(
        f'<xf numFmtId="{number % 40}" fontId="0" fillId="0" borderId="0" xfId="0">'
        f'<alignment indent="{number % 15}" textRotation="{number % 90}"/></xf>'
        for number in range(4000)
    )
    with zipfile.ZipFile(source) as old, zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            content = old.read(entry)
            if entry.filename == "xl/workbook.xml":
                content = content.replace(
                    b"</definedNames>", _STRAY_NAMES.encode() + b"</definedNames>"
                )
            elif entry.filename == "xl/styles.xml":
                content = content.replace(b"</cellXfs>", idle.encode() + b"</cellXfs>")
            new.writestr(zipfile.ZipInfo(entry.filename), content, zipfile.ZIP_DEFLATED)
