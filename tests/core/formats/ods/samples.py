"""A small OpenDocument workbook, piece by piece as ISO/IEC 26300 has it."""

from pathlib import Path

from lighten import Source
from tests.core.formats.odt.samples import frame, write_odt
from tests.core.formats.package_samples import picture_file

__all__ = ["ledger"]

_STYLES = (
    '<style:style style:name="ce1" style:family="table-cell"/>'
    '<style:style style:name="ce2" style:family="table-cell">'
    '<style:table-cell-properties fo:background-color="#dddddd"/></style:style>'
    '<style:style style:name="ce3" style:family="table-cell"/>'
)


def _cell(value: object, style: str = "ce1") -> str:
    if isinstance(value, str):
        return (
            f'<table:table-cell table:style-name="{style}" office:value-type="string">'
            f"<text:p>{value}</text:p></table:table-cell>"
        )
    return (
        f'<table:table-cell table:style-name="{style}" office:value-type="float" '
        f'office:value="{value}"><text:p>{value}</text:p></table:table-cell>'
    )


def _blank(style: str, times: int) -> str:
    return f'<table:table-cell table:style-name="{style}" table:number-columns-repeated="{times}"/>'


def ledger(path: Path, past: str = "ce1") -> Source:
    """Rows of data, formats past them told in runs, a photo on another sheet."""
    rows = "".join(
        f"<table:table-row>{_cell(f'AB{row:05d}')}{_cell(60 + row / 10, 'ce3')}"
        f"{_blank('ce1', 1000)}</table:table-row>"
        for row in range(60)
    )
    more = "".join(
        f'<table:table-row table:number-rows-repeated="{900 + row}">'
        f"{_blank('ce1' if row % 2 else past, 1 + row % 7)}{_blank('ce3', 1000)}"
        "</table:table-row>"
        for row in range(200)
    )
    table = (
        '<table:table table:name="Ledger"><table:table-column '
        f'table:number-columns-repeated="1024"/>{rows}{more}</table:table>'
        '<table:table table:name="Photo"><table:table-row><table:table-cell><text:p>'
        f"{frame('a.jpg', 7.62, 5.08)}</text:p></table:table-cell></table:table-row>"
        "</table:table>"
    )
    photo = picture_file().read()
    return write_odt(
        path,
        table,
        {"a.jpg": photo},
        automatic=_STYLES,
        kind="spreadsheet",
    )
