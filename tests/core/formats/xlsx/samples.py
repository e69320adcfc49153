"""Small workbooks, written by XlsxWriter as a program of others would have."""

import datetime
import io
from pathlib import Path

import openpyxl
import xlsxwriter

from lighten import Source
from tests.core.formats.package_samples import picture_file

__all__ = ["ledger", "values"]


def ledger(path: Path) -> Source:
    """Rings: text, dates, numbers of many digits, a formula, formats past the data, a picture."""
    book = xlsxwriter.Workbook(str(path))
    sheet, other = book.add_worksheet("Ledger"), book.add_worksheet("Other")
    head = book.add_format({"bold": True, "bg_color": "#DDDDDD"})
    day, plain = (book.add_format({"num_format": code}) for code in ("yyyy-mm-dd", "0.00"))
    line, centred = book.add_format({"bottom": 1}), book.add_format({"align": "center"})
    sheet.write_row(0, 0, ["Ring", "Day", "Wing", "Share", "Sum", "Note"], head)
    for row in range(1, 59):
        when = datetime.date(2026, 5, 1) + datetime.timedelta(days=row)
        sheet.write_string(row, 0, f"AB{row + 1:05d}")
        sheet.write_datetime(row, 1, when, day)
        sheet.write_number(row, 2, 60 + row / 10)
        sheet.write_number(row, 3, row / 3)
        sheet.write_formula(row, 4, f"=C{row + 1}*2", value=(60 + row / 10) * 2)
        sheet.write_string(row, 5, "seen again")
    # Formats that show nothing past the data, and one that shows.
    for row in range(59, 399):
        for column in range(6):
            sheet.write_blank(row, column, None, line if (row, column) == (299, 2) else plain)
    sheet.merge_range("H2:J4", "Net 3", centred)
    sheet.set_column("C:C", 20)
    sheet.set_row(2, 40)
    sheet.data_validation("G2:G60", {"validate": "list", "source": ["M", "F", "U"]})
    rule = {"type": "cell", "criteria": ">", "value": 63, "format": head}
    sheet.conditional_format("C2:C60", rule)
    sheet.print_area("A1:F59")
    book.define_name("wings", "=Ledger!$C$2:$C$59")
    photo = {"image_data": picture_file(), "x_scale": 240 / 900, "y_scale": 160 / 600}
    sheet.insert_image("L2", "photo.jpg", photo)
    other.write_boolean("B2", True)
    other.write_string("C3", "AB00002")
    other.write_number("D4", 1e-7)
    other.write_formula("E5", "=1/0", value="#DIV/0!")
    book.close()
    return Source(path=path)


def values(path: Path) -> dict[str, dict[str, object]]:
    """Every cell with content, with how it looks, as openpyxl reads it."""
    book = openpyxl.load_workbook(io.BytesIO(path.read_bytes()))
    return {
        sheet.title: {
            cell.coordinate: (
                cell.value,
                cell.data_type,
                cell.number_format,
                cell.font.b,
                cell.fill.fgColor.rgb,
                cell.border.bottom.style,
                cell.alignment.horizontal,
            )
            for row in sheet.iter_rows()
            for cell in row
            if cell.value is not None
        }
        for sheet in book
    }
