"""Workbooks of many rows: bytes, time and memory: `python -m benchmarks.workbooks [ROWS]`.

Cells in fewer bytes, with places and without, and blank formatted cells past the data; weighing
against what zipfile and lxml take to read all of it once.
"""

import json
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from benchmarks.run import measure

__all__ = ["make_blank_workbook", "make_data_workbook"]

_MAIN = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
_RELATIONS = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_HINTS = (
    'xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006" mc:Ignorable="x14ac" '
    'xmlns:x14ac="http://schemas.microsoft.com/office/spreadsheetml/2009/9/ac"'
)
_TYPES = (
    '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.'
    'relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>'
    + "".join(
        f'<Override PartName="/xl/{name}.xml" ContentType="application/vnd.openxmlformats-office'
        f'document.spreadsheetml.{kind}+xml"/>'
        for name, kind in (
            ("workbook", "sheet.main"),
            ("worksheets/sheet1", "worksheet"),
            ("sharedStrings", "sharedStrings"),
            ("styles", "styles"),
        )
    )
    + "</Types>"
)
_STYLES = (
    f'<styleSheet {_MAIN}><numFmts count="1"><numFmt numFmtId="164" formatCode="yyyy\\-mm\\-dd"/>'
    '</numFmts><fonts count="1"><font><sz val="11"/><name val="Calibri"/></font></fonts>'
    '<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill '
    'patternType="gray125"/></fill></fills><borders count="1"><border><left/><right/><top/>'
    '<bottom/><diagonal/></border></borders><cellStyleXfs count="1"><xf/></cellStyleXfs>'
    '<cellXfs count="3"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>'
    '<xf numFmtId="164" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>'
    '<xf numFmtId="2" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>'
    '</cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/>'
    "</cellStyles></styleSheet>"
)
_ROWS_A_PIECE = 20_000


def make_data_workbook(path: Path, rows: int = 768_000) -> None:
    """A ledger of rings: text, dates, lengths, sums of many digits; 8 columns."""
    chance = np.random.default_rng(4)
    strings = [f"Species {number}" for number in range(60)] + list("MFU")
    strings += [f"ring AB{number:07d}" for number in range(rows)]
    _write(path, _data_rows(chance, rows), strings, f"A1:H{rows}")


def make_blank_workbook(path: Path, rows: int = 120_000, columns: int = 30) -> None:
    """A few rows of data, and formatted cells to the end."""

    def pieces() -> Iterator[bytes]:
        names = [_column(number) for number in range(columns)]
        for first in range(1, rows + 1, _ROWS_A_PIECE):
            lines = []
            for row in range(first, min(rows + 1, first + _ROWS_A_PIECE)):
                inside = "<v>7</v></c>" if row <= 40 else None
                cells = "".join(
                    f'<c r="{name}{row}" s="{1 + number % 2}"' + (f">{inside}" if inside else "/>")
                    for number, name in enumerate(names)
                )
                lines.append(f'<row r="{row}" spans="1:{columns}">{cells}</row>')
            yield "".join(lines).encode()

    _write(path, pieces(), [], f"A1:{_column(columns - 1)}{rows}")


def _data_rows(chance: np.random.Generator, rows: int) -> Iterator[bytes]:
    for first in range(1, rows + 1, _ROWS_A_PIECE):
        count = min(_ROWS_A_PIECE, rows + 1 - first)
        days = 40_000 + np.sort(chance.integers(0, 4000, count))
        species = chance.integers(0, 60, count)
        sexes = 60 + chance.integers(0, 3, count)
        wings = np.round(chance.normal(70, 8, count), 1)
        masses = np.round(chance.normal(18, 3, count), 2)
        hours = chance.integers(0, 1440, count) / 1440
        yield "".join(
            f'<row r="{row}" spans="1:8" x14ac:dyDescent="0.25">'
            f'<c r="A{row}" t="s"><v>{62 + row}</v></c><c r="B{row}" s="1"><v>{day}</v></c>'
            f'<c r="C{row}" t="s"><v>{kind}</v></c><c r="D{row}" t="s"><v>{sex}</v></c>'
            f'<c r="E{row}"><v>{wing:.17g}</v></c><c r="F{row}" s="2"><v>{mass:.17g}</v></c>'
            f'<c r="G{row}"><v>{hour:.17g}</v></c><c r="H{row}"><v>{number}</v></c></row>'
            for row, day, kind, sex, wing, mass, hour, number in zip(
                range(first, first + count),
                *(days, species, sexes, wings, masses, hours, chance.integers(1, 400, count)),
                strict=True,
            )
        ).encode()


def _write(path: Path, rows: Iterator[bytes], strings: list[str], extent: str) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("[Content_Types].xml", _TYPES)
        package = "http://schemas.openxmlformats.org/package/2006/relationships"
        file.writestr(
            "_rels/.rels",
            f'<Relationships xmlns="{package}"><Relationship Id="rId1" Type="{_RELATIONS}/office'
            'Document" Target="xl/workbook.xml"/></Relationships>',
        )
        file.writestr(
            "xl/workbook.xml",
            f'<workbook {_MAIN} xmlns:r="{_RELATIONS}"><sheets><sheet name="Ledger" sheetId="1" '
            'r:id="rId1"/></sheets></workbook>',
        )
        links = "".join(
            f'<Relationship Id="rId{number}" Type="{_RELATIONS}/{kind}" Target="{target}.xml"/>'
            for number, (kind, target) in enumerate(
                (
                    ("worksheet", "worksheets/sheet1"),
                    ("sharedStrings", "sharedStrings"),
                    ("styles", "styles"),
                ),
                start=1,
            )
        )
        file.writestr(
            "xl/_rels/workbook.xml.rels",
            f'<Relationships xmlns="{package}">{links}</Relationships>',
        )
        file.writestr("xl/styles.xml", _STYLES)
        with file.open("xl/sharedStrings.xml", "w", force_zip64=True) as member:
            member.write(f'<sst {_MAIN} uniqueCount="{len(strings)}">'.encode())
            member.write("".join(f"<si><t>{text}</t></si>" for text in strings).encode())
            member.write(b"</sst>")
        with file.open("xl/worksheets/sheet1.xml", "w", force_zip64=True) as member:
            head = f'<worksheet {_MAIN} {_HINTS}><dimension ref="{extent}"/><sheetData>'
            member.write(head.encode())
            for piece in rows:
                member.write(piece)
            member.write(b"</sheetData></worksheet>")


def _column(number: int) -> str:
    """The letters of a column, counted from 0 (ECMA-376 part 1, 18.3.1.4)."""
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


_READ_ALL = """
import sys, zipfile
from lxml import etree
with zipfile.ZipFile(sys.argv[1]) as file:
    for name in file.namelist():
        if name.endswith(".xml"):
            with file.open(name) as member:
                for _, element in etree.iterparse(member, huge_tree=True):
                    element.clear()
"""


def main() -> None:
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else 768_000
    command = Path(sys.executable).with_name("green-satchel")
    print("| workbook | what | of the bytes | s | MB at peak |")
    print("|---" * 5 + "|")
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        data, blank = folder / "data.xlsx", folder / "blank.xlsx"
        make_data_workbook(data, rows)
        make_blank_workbook(blank)
        for path, extras in (
            (data, ()),
            (data, ("cell-places",)),
            (blank, ("past-formats",)),
        ):
            preset = _preset(command, folder, extras)
            out = folder / "out"
            made = measure(
                [command, "lighten", path, "--preset-file", preset, "--out", out, "--force"]
            )
            (copy,) = out.glob(f"{path.stem}-light*")
            share = copy.stat().st_size / path.stat().st_size
            what = ", ".join(extras) or "nothing lost"
            size = path.stat().st_size / 1e6
            print(
                f"| {path.stem}, {size:.1f} MB | {what} | {share:.3f} "
                f"| {made.seconds:.1f} | {made.peak_mb:.0f} |",
                flush=True,
            )
        weighed = measure([command, "weigh", data])
        read = measure([sys.executable, "-c", _READ_ALL, data])
        print(f"\nweighing takes {weighed.seconds / read.seconds:.2f} of reading it all with lxml")


def _preset(command: Path, folder: Path, extras: tuple[str, ...]) -> Path:
    """Reading desk, and those extras out as well."""
    shown = subprocess.run(
        [command, "presets", "--export", "reading-desk"], capture_output=True, text=True, check=True
    )
    preset = json.loads(shown.stdout)
    preset["treatment"]["dropped_extras"] += extras
    path = folder / "preset.json"
    path.write_text(json.dumps(preset))
    return path


if __name__ == "__main__":
    main()
