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
from tests.core.formats.ods.samples import ledger
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import rewritten


class OdsCase(PackageCase):
    def ledger(self, past: str = "ce1") -> Source:
        return ledger(self.folder / "ledger.ods", past)

    def values(self, content: bytes) -> list[list[list[object]]]:
        book = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(content))
        return [book.get_sheet_by_name(name).to_python() for name in book.sheet_names]

    def without_past(self) -> object:
        preset = preset_named("reading-desk")
        dropped = preset.treatment.dropped_extras | {ExtraKind.PAST_FORMATS}
        return replace(preset, treatment=replace(preset.treatment, dropped_extras=dropped))


class Workbooks(OdsCase):
    def test_workbooks_are_weighed_and_pictures_named_by_their_sheet(self) -> None:
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
                self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.CHECK)
