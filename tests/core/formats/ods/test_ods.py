"""OpenDocument workbooks weighed, made lighter and proved; values read by python-calamine.

Source: ISO/IEC 26300 part 1, clause 9.1.
"""

import io
from dataclasses import replace

import python_calamine

from lighten import (
    ExtraKind,
    PartKind,
    Source,
    Verdict,
    make_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from tests.core.formats.odt.samples import frame, write_odt
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import picture_file, rewritten

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


class OdsCase(PackageCase):
    def ledger(self, past: str = "ce1") -> Source:
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
            self.folder / "ledger.ods",
            table,
            {"a.jpg": photo},
            automatic=_STYLES,
            kind="spreadsheet",
        )

    def values(self, content: bytes) -> list[list[list[object]]]:
        book = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(content))
        return [book.get_sheet_by_name(name).to_python() for name in book.sheet_names]

    def without_past(self) -> object:
        preset = preset_named("reading-desk")
        dropped = preset.treatment.dropped_extras | {ExtraKind.PAST_FORMATS}
        return replace(preset, treatment=replace(preset.treatment, dropped_extras=dropped))


class Workbooks(OdsCase):
    def test_are_weighed_and_pictures_named_by_their_sheet(self) -> None:
        sheet = weigh(self.ledger())
        self.assertEqual(sheet.format, "ods")
        self.assertIn(PartKind.CELLS, sheet.bytes_by_kind())
        (facts,) = [part.picture for part in sheet.parts if part.picture]
        self.assertEqual(facts.near, "sheet Photo")
        extras = {part.extra: part.size_bytes for part in sheet.parts if part.extra}
        self.assertGreater(extras[ExtraKind.PAST_FORMATS], 200)

    def test_copies_hold_every_value(self) -> None:
        source = self.ledger()
        made = self.make(source)
        self.assertEqual(
            self.values(made.copy.path.read_bytes()), self.values(source.path.read_bytes())
        )

    def test_formats_past_the_data_go_on_request_where_they_show_nothing(self) -> None:
        source = self.ledger()
        made = self.make(source, self.without_past())
        xml = self.members(made)["content.xml"]
        self.assertEqual(xml.count(b"number-rows-repeated"), 0)
        self.assertEqual(
            self.values(made.copy.path.read_bytes()), self.values(source.path.read_bytes())
        )
        shown = self.make(self.ledger(past="ce2"), self.without_past())
        self.assertGreater(self.members(shown)["content.xml"].count(b"number-rows-repeated"), 190)

    def test_a_changed_value_look_or_place_is_seen(self) -> None:
        source = self.ledger()
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.ods")
        for old, new in (
            (b'office:value="60.5"', b'office:value="60.6"'),
            (b"AB00007", b"AB00001"),
            (b'number-columns-repeated="1000"', b'number-columns-repeated="999"'),
        ):
            with self.subTest(old):
                path = self.folder / "faulty.ods"
                path.write_bytes(copy.path.read_bytes())
                change = {"content.xml": lambda xml, a=old, b=new: xml.replace(a, b, 1)}
                faulty = rewritten(Source(path=path), change)
                self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.LOOK)
