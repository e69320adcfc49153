"""Workbooks weighed, made lighter and proved; looked at with openpyxl and python-calamine.

Neither had a part in it. Sources: ECMA-376 part 1, clause 18; limits of 1,048,576 rows and 16,384
columns as in DOMAIN.md.
"""

import io
import random
import re
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

import openpyxl
import python_calamine
import xlsxwriter
from openpyxl.styles import PatternFill
from PIL import Image
from xlsxwriter.worksheet import Worksheet

from lighten import (
    Action,
    ExtraKind,
    OrderResult,
    PartException,
    PartKind,
    Preset,
    Source,
    Verdict,
    make_copy,
    make_proved_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from lighten.model.errors import LimitExceededError, UnreadableFileError, UnsoundCopyError
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import picture_file, rewritten, with_members
from tests.core.formats.xlsx.samples import ledger, values

_SHEET, _STRINGS, _STYLES = "xl/worksheets/sheet1.xml", "xl/sharedStrings.xml", "xl/styles.xml"


def without(*extras: ExtraKind) -> Preset:
    """Reading desk, and those extras out as well."""
    preset = preset_named("reading-desk")
    dropped = preset.treatment.dropped_extras | set(extras)
    return replace(preset, treatment=replace(preset.treatment, dropped_extras=dropped))


def opened(path: Path) -> openpyxl.Workbook:
    return openpyxl.load_workbook(io.BytesIO(path.read_bytes()))


def by_calamine(path: Path) -> list[list[list[object]]]:
    book = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(path.read_bytes()))
    return [book.get_sheet_by_name(name).to_python() for name in book.sheet_names]


class WorkbookCase(PackageCase):
    def ledger(self) -> Source:
        return ledger(self.folder / "ledger.xlsx")

    def stored(self, source: Source) -> dict[str, bytes]:
        with zipfile.ZipFile(source.path) as file:
            return {name: file.read(name) for name in file.namelist()}


class Weighing(WorkbookCase):
    def test_sheets_are_weighed_with_their_used_range_and_their_data(self) -> None:
        sheet = weigh(self.ledger())
        first = next(part for part in sheet.parts if part.name == "Ledger")
        assert first.sheet is not None
        self.assertIs(first.kind, PartKind.CELLS)
        self.assertEqual(first.sheet.claimed, "J399")
        self.assertEqual((first.sheet.last_row, first.sheet.last_column), (59, 8))
        self.assertEqual(first.sheet.any_row, 399)
        self.assertGreater(first.sheet.blanks, 2000)
        extras = {part.extra: part.size_bytes for part in sheet.parts if part.extra}
        self.assertGreater(extras[ExtraKind.PAST_FORMATS], 300)

    def test_a_picture_is_as_large_as_its_frame(self) -> None:
        (facts,) = [part.picture for part in weigh(self.ledger()).parts if part.picture]
        self.assertEqual(facts.largest_display_pt, (180, 120))  # 240 x 160 pixels at 96 dpi
        self.assertEqual(facts.near, "sheet Ledger")


class Copies(WorkbookCase):
    def test_copies_hold_every_value_formula_and_look(self) -> None:
        source = self.ledger()
        made = self.make(source)
        self.assertEqual(values(made.copy.path), values(source.path))
        self.assertEqual(by_calamine(made.copy.path), by_calamine(source.path))
        before, after = (opened(path)["Ledger"] for path in (source.path, made.copy.path))
        for told in ("merged_cells", "print_area", "data_validations"):
            self.assertEqual(str(getattr(before, told)), str(getattr(after, told)), told)
        rules = [
            [(str(area.sqref), [rule.formula for rule in area.rules]) for area in rules_of]
            for rules_of in (before.conditional_formatting, after.conditional_formatting)
        ]
        self.assertEqual(rules[0], rules[1])
        self.assertEqual(after.row_dimensions[3].height, before.row_dimensions[3].height)
        self.assertEqual(after.column_dimensions["C"].width, before.column_dimensions["C"].width)

    def test_copies_resample_pictures_to_their_size(self) -> None:
        members = self.members(self.make(self.ledger()))
        (name,) = [name for name in members if "media" in name]
        self.assertEqual(Image.open(io.BytesIO(members[name])).size, (375, 250))

    def test_copies_keep_the_spelling_of_numbers_for_archives(self) -> None:
        source = self.ledger()
        with zipfile.ZipFile(source.path) as file:
            before = file.read(_SHEET)
        self.assertEqual(self.members(self.make(source, "record-office"))[_SHEET], before)
        self.assertNotEqual(self.members(self.make(source, "as-it-was"))[_SHEET], before)

    def test_formats_that_show_nothing_go_past_the_data_and_those_that_show_stay(self) -> None:
        source = self.ledger()
        made = self.make(source, without(ExtraKind.PAST_FORMATS))
        sheet = opened(made.copy.path)["Ledger"]
        self.assertEqual(sheet.max_row, 300)
        self.assertEqual(sheet.cell(300, 3).border.bottom.style, "thin")
        self.assertEqual(values(made.copy.path), values(source.path))
        kept = opened(self.make(source).copy.path)["Ledger"]
        self.assertEqual(kept.cell(399, 6).number_format, "0.00")

    def test_coloured_cells_past_the_data_go_by_choice_alone(self) -> None:
        """A yellow column of ten thousand blank cells."""
        book = opened(self.ledger().path)
        yellow = PatternFill("solid", "FFFF99")
        for row in range(1, 10_000):
            book["Ledger"].cell(row, 9).fill = yellow
        path = self.folder / "yellow.xlsx"
        book.save(path)
        source = Source(path=path)
        facts = next(part.sheet for part in weigh(source).parts if part.name == "Ledger")
        assert facts is not None
        self.assertGreater(facts.fills_bytes, facts.past_bytes)
        kept = self.make(source, without(ExtraKind.PAST_FORMATS))
        colour = opened(kept.copy.path)["Ledger"].cell(9_000, 9).fill.fgColor.rgb
        self.assertEqual(colour, "00FFFF99")
        made = self.make(source, without(ExtraKind.PAST_FORMATS, ExtraKind.PAST_FILLS))
        assert made.proof is not None
        self.assertNotEqual(made.proof.verdict, Verdict.CHECK)
        sheet = opened(made.copy.path)["Ledger"]
        self.assertLess(sheet.max_row, 100)
        self.assertEqual(values(made.copy.path), values(source.path))
        self.assertLess(made.copy.bytes_after, kept.copy.bytes_after - facts.fills_bytes / 2)
        # One that goes unasked is found.
        proof = prove(source, Source(path=made.copy.path), weigh(source), kept.copy.outcomes)
        self.assertIs(proof.verdict, Verdict.CHECK)

    def test_compact_cells_are_read_alike_by_readers_that_follow_the_standard(self) -> None:
        source = self.ledger()
        made = self.make(source, without(ExtraKind.CELL_PLACES))
        self.assertNotIn(b' r="B2"', self.members(made)[_SHEET])
        self.assertEqual(values(made.copy.path), values(source.path))
        warnings = plan(weigh(source), without(ExtraKind.CELL_PLACES)).warnings
        self.assertTrue(any("read wrong data" in warning for warning in warnings))

    def test_strings_are_stored_once_and_only_those_that_show(self) -> None:
        source = rewritten(
            self.ledger(),
            {
                _STRINGS: lambda xml: xml.replace(
                    b"</sst>", b"<si><t>AB00002</t></si><si><t>never shown</t></si></sst>"
                )
            },
        )
        xml = self.members(self.make(source))[_STRINGS]
        self.assertNotIn(b"never shown", xml)
        self.assertEqual(xml.count(b"AB00002"), 1)
        self.assertEqual(int(re.search(rb'uniqueCount="(\d+)"', xml)[1]), xml.count(b"<si>"))

    def test_styles_go_that_nothing_uses_and_equal_ones_become_one(self) -> None:
        idle = b'<xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"><protection/></xf>'

        def with_idle(xml: bytes) -> bytes:
            own = re.search(rb"<cellXfs[^>]*>(.*?)</cellXfs>", xml, re.DOTALL)[1]
            return xml.replace(own, own + idle * 500)

        source = rewritten(self.ledger(), {_STYLES: with_idle})
        made = self.make(source)
        self.assertNotIn(b"protection", self.members(made)[_STYLES])
        self.assertEqual(values(made.copy.path), values(source.path))

    def test_a_changed_cell_is_found_for_any_value(self) -> None:
        source = self.ledger()
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.xlsx")
        faults = {
            "a number": (_SHEET, rb"<v>60\.5</v>", b"<v>60.6</v>"),
            "a formula": (_SHEET, rb"C5\*2", b"C6*2"),
            "a style": (_SHEET, rb'<c s="\d" ', b"<c "),
            "a merged range": (_SHEET, rb"H2:J4", b"H2:J5"),
            "a text": (_STRINGS, rb"AB00007", b"AB00001"),
            "a height": (_SHEET, rb'ht="39.75"', b'ht="41"'),
            "a print area": ("xl/workbook.xml", rb"\$F\$59", b"$F$58"),
            "a place": (_SHEET, rb'r="C9"', b'r="D9"'),
        }
        for what, (member, pattern, new) in faults.items():
            with self.subTest(what):
                path = self.folder / f"{what}.xlsx"
                path.write_bytes(copy.path.read_bytes())
                change = {member: lambda xml, a=pattern, b=new: re.sub(a, b, xml, count=1)}
                faulty = rewritten(Source(path=path), change)
                self.assertNotEqual(self.stored(faulty), self.stored(Source(path=copy.path)))
                self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.CHECK)

    def test_every_preset_is_proved_and_same_bytes_come_twice(self) -> None:
        source = self.ledger()
        for preset in ("as-it-was", "feather"):
            made = [self.members(self.make(source, preset)) for _ in range(2)]
            self.assertEqual(made[0], made[1])


class BadInput(WorkbookCase):
    def with_sheet(self, change: dict[bytes, bytes], member: str = _SHEET) -> Source:
        def changed(xml: bytes) -> bytes:
            for old, new in change.items():
                self.assertTrue(old in xml, old)
                xml = xml.replace(old, new, 1)
            return xml

        return rewritten(self.ledger(), {member: changed})

    def test_attributes_outside_the_standard_leave_cells_unchanged_and_are_reported(self) -> None:
        cases = {
            "rows beyond the last": {b'<row r="399"': b'<row r="1048577"'},
            "columns beyond the last": {b'r="A399"': b'r="XFE399"'},
            "rows out of order": {b'<row r="20"': b'<row r="7"'},
            "a number of a style that is no number": {b' s="1"': b' s="x"'},
        }
        for name, change in cases.items():
            with self.subTest(name):
                source = self.with_sheet(change)
                (facts,) = [part.sheet for part in weigh(source).parts if part.name == "Ledger"]
                self.assertTrue(facts.untouchable)
                with zipfile.ZipFile(source.path) as file:
                    before = file.read(_SHEET)
                self.assertEqual(self.members(self.make(source))[_SHEET], before)

    def test_strings_and_styles_that_are_not_there_leave_all_cells_as_they_are(self) -> None:
        for change in ({b"<v>0</v>": b"<v>99999</v>"}, {b' s="1"': b' s="999"'}):
            source = self.with_sheet(change)
            with zipfile.ZipFile(source.path) as file:
                before = {name: file.read(name) for name in (_SHEET, _STRINGS, _STYLES)}
            members = self.members(self.make(source))
            self.assertEqual({name: members[name] for name in before}, before)

    def test_a_wrong_extent_and_wrong_counts_do_no_harm(self) -> None:
        source = self.with_sheet({b'ref="A1:J399"': b'ref="A1:B2"'})
        self.assertEqual(values(self.make(source).copy.path), values(source.path))

    def test_bad_input_with_a_string_within_a_string_are_refused(self) -> None:
        """CT_Rst has none (ECMA-376 part 1, 18.4.8)."""
        source = rewritten(
            self.ledger(),
            {_STRINGS: lambda xml: xml.replace(b"</t></si><si>", b"<si/></t></si><si>", 1)},
        )
        with self.assertRaisesRegex(UnreadableFileError, "its list of strings is damaged"):
            weigh(source)

    def test_bad_input_whose_copy_would_hold_what_is_no_xml_keep_their_cells_as_they_are(
        self,
    ) -> None:
        source = self.ledger()
        broken = mock.patch(
            "lighten.formats.xlsx.edit.write_strings", lambda *_: iter([b"<sst><si></sst>"])
        )
        with broken:
            made = self.make(source, without(ExtraKind.CELL_SPELLING))
        self.assertEqual(values(made.copy.path), values(source.path))

    def test_bad_input_whose_copy_cannot_be_made_sound_have_none(self) -> None:
        source = self.ledger()
        sheet = weigh(source)
        strings = mock.patch(
            "lighten.formats.xlsx.edit.write_strings", lambda *_: iter([b"<sst><si></sst>"])
        )
        retreats = mock.patch("lighten.making.make_proved_copy.DOCUMENT_RETREATS", ())
        decided = plan(sheet, without(ExtraKind.CELL_SPELLING))
        out = self.folder / "c.xlsx"
        with (
            strings,
            retreats,
            self.assertRaisesRegex(UnsoundCopyError, "sharedStrings.xml in the copy"),
        ):
            make_proved_copy(source, sheet, decided, out)
        self.assertFalse(out.exists())

    def test_a_sheet_that_ends_early_is_said(self) -> None:
        source = rewritten(self.ledger(), {_SHEET: lambda xml: xml[: len(xml) // 2]})
        with self.assertRaisesRegex(UnreadableFileError, "ends before its rows do"):
            weigh(source)

    def test_entities_and_bombs_are_refused(self) -> None:
        bomb = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "c">]>'
        source = rewritten(self.ledger(), {_SHEET: lambda xml: bomb + xml[xml.index(b"<work") :]})
        with self.assertRaises(UnreadableFileError):
            weigh(source)
        with zipfile.ZipFile(self.folder / "big.xlsx", "w", zipfile.ZIP_DEFLATED) as file:
            file.writestr("xl/workbook.xml", b" " * 30_000_000)
        with self.assertRaises(LimitExceededError):
            weigh(Source(path=self.folder / "big.xlsx"))

    def test_rows_and_strings_that_never_end_are_refused(self) -> None:
        # Random, so that it does not pass for a bomb.
        endless = random.Random(7).randbytes(3_000_000).hex().encode()
        cell = b'<c t="inlineStr"><is><t>%s</t></is></c></row></sheetData>' % endless
        cases = {
            "one row": (_SHEET, {b"</row></sheetData>": cell}),
            "one string": (_STRINGS, {b"</sst>": b"<si><t>%s</t></si></sst>" % endless}),
        }
        for name, (member, change) in cases.items():
            with (
                self.subTest(name),
                mock.patch("lighten.formats.xlsx.cells.sheet_stream._MOST_IN_ROW", 1_000_000),
                mock.patch("lighten.formats.xlsx.strings._MOST_IN_ENTRY", 1_000_000),
                self.assertRaisesRegex(LimitExceededError, name),
            ):
                weigh(self.with_sheet(change, member))

    def test_names_in_a_circle_and_wrong_counts_of_strings_do_no_harm(self) -> None:
        circle = b"".join(
            b'<definedName name="%s" hidden="1">%s</definedName>' % pair
            for pair in ((b"Ring_a", b"Ring_b"), (b"Ring_b", b"Ring_a+Ring_b"))
        )
        names = b"</sheets><definedNames>%s</definedNames>" % circle
        source = self.with_sheet({b"</sheets>": names}, "xl/workbook.xml")
        told = {part.name: part.size_bytes for part in weigh(source).parts}
        self.assertIn("Ring_a", told)
        self.assertEqual(values(self.make(source).copy.path), values(source.path))
        many = {
            _STRINGS: lambda xml: re.sub(rb'uniqueCount="\d+"', b'uniqueCount="4294967295"', xml)
        }
        source = rewritten(self.ledger(), many)
        self.assertEqual(values(self.make(source).copy.path), values(source.path))

    def test_very_many_attributes_and_a_comment_in_a_cell_do_no_harm(self) -> None:
        many = b"".join(b' a%d="%d"' % (number, number) for number in range(20_000))
        comment = b'<c t="inlineStr"><is><t><!-- nets --></t></is></c></row></sheetData>'
        for change in ({b'<row r="20"': b'<row r="20"' + many}, {b"</row></sheetData>": comment}):
            source = self.with_sheet(change)
            self.assertIsNotNone(self.make(source).proof)

    def test_other_ways_to_write_the_same_are_read(self) -> None:
        source = self.ledger()
        before = values(source.path)

        def prefixed(xml: bytes) -> bytes:
            text = re.sub(rb"<(/?)(?=[a-z])", rb"<\1x:", xml[xml.index(b"<worksheet") :])
            text = text.replace(b' xmlns="', b' xmlns:x="').replace(b'"', b"'")
            text = re.sub(rb" r='[A-Z]+\d+'", b"", text, count=3)
            utf16 = text.replace(b"<x:sheetData>", b"<x:sheetData><!-- nets -->").decode()
            return ("<?xml version='1.0' encoding='UTF-16'?>" + utf16).encode("utf-16")

        odd = rewritten(source, {_SHEET: prefixed})
        made = self.make(odd)
        self.assertEqual(values(made.copy.path), before)
        outcome = [one for one in made.copy.outcomes if one.part_id == _SHEET]
        self.assertNotEqual(outcome[0].action, Action.KEEP)


class Empty(WorkbookCase):
    def test_a_workbook_without_cells_strings_or_styles_is_made_lighter(self) -> None:
        source = Source(path=self.folder / "empty.xlsx")
        openpyxl.Workbook().save(str(source.path))
        self.assertEqual(values(self.make(source).copy.path), {"Sheet": {}})
        members = {name: data for name, data in self.stored(source).items() if "style" not in name}
        bare = with_members(self.folder / "bare.xlsx", members)
        self.assertEqual(weigh(bare).size_bytes, bare.path.stat().st_size)


class Names(WorkbookCase):
    """Hidden and broken names (ECMA-376 part 1, 18.2.5); `_xlnm.` ones are the standard's own."""

    def with_names(self) -> Source:
        more = (
            b'<definedName name="_old" hidden="1">Gone!$A$1</definedName>'
            b'<definedName name="lost">#REF!</definedName>'
            b'<definedName name="used" hidden="1">Ledger!$C$2</definedName>'
            b'<definedName name="sound" hidden="1">Ledger!$A$2:$A$9</definedName>'
            b'<definedName name="_xlnm.Criteria" hidden="1">#REF!</definedName>'
        )
        return rewritten(
            self.ledger(),
            {
                "xl/workbook.xml": lambda xml: xml.replace(
                    b"</definedNames>", more + b"</definedNames>"
                ),
                _SHEET: lambda xml: xml.replace(b"<f>C5*2</f>", b"<f>USED*2</f>"),
            },
        )

    def names_of(self, made: OrderResult) -> set[str]:
        xml = self.members(made)["xl/workbook.xml"]
        return {name.decode() for name in re.findall(rb'definedName name="([^"]+)"', xml)}

    def test_names_are_listed_with_what_uses_them(self) -> None:
        parts = {part.name: part for part in weigh(self.with_names()).parts if part.name_facts}
        self.assertEqual(set(parts), {"_old", "lost", "used", "sound"})
        self.assertEqual(parts["used"].name_facts.used_by, ("cells of Ledger",))
        self.assertIsNone(parts["used"].removed_with)
        self.assertTrue(parts["lost"].name_facts.is_broken)
        self.assertIs(parts["_old"].removed_with, ExtraKind.STRAY_NAMES)
        # Hidden, unused, and yet no leftover: it points at cells that are there.
        self.assertTrue(parts["sound"].name_facts.is_sound)
        self.assertIsNone(parts["sound"].removed_with)

    def test_names_stay_unless_asked_and_only_those_go_that_nothing_uses(self) -> None:
        source = self.with_names()
        own = {"_xlnm.Print_Area", "wings", "_xlnm.Criteria"}
        self.assertEqual(self.names_of(self.make(source)), own | {"_old", "lost", "used", "sound"})
        made = self.make(source, without(ExtraKind.STRAY_NAMES))
        self.assertEqual(self.names_of(made), own | {"used", "sound"})

    def test_names_go_one_by_one_as_a_person_chooses(self) -> None:
        source = self.with_names()
        (lost,) = [part.id for part in weigh(source).parts if part.name == "lost"]
        made = self.make(source, exceptions={lost: PartException(is_left_out=True)})
        self.assertNotIn("lost", self.names_of(made))
        self.assertIn("_old", self.names_of(made))

    def test_one_that_goes_unasked_is_seen(self) -> None:
        source = self.with_names()
        sheet = weigh(source)
        chosen = plan(sheet, without(ExtraKind.STRAY_NAMES))
        copy = make_copy(source, sheet, chosen, self.folder / "c.xlsx")
        faulty = rewritten(
            Source(path=copy.path),
            {"xl/workbook.xml": lambda xml: xml.replace(b"Ledger!$C$2<", b"Ledger!$C$3<")},
        )
        self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.CHECK)


class Links(WorkbookCase):
    """Formulas that look into other workbooks (ECMA-376 part 1, 18.14 and 18.17.2.3)."""

    def linked(self, rule: bytes = b"63") -> Source:
        link = (
            b'<externalLink xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
            b'<externalBook><sheetNames><sheetName val="Weather"/></sheetNames></externalBook>'
            b"</externalLink>"
        )
        kind = b"application/vnd.openxmlformats-officedocument.spreadsheetml.externalLink+xml"
        relations = b"http://schemas.openxmlformats.org/officeDocument/2006/relationships"
        source = rewritten(
            self.ledger(),
            {
                "xl/workbook.xml": lambda xml: xml.replace(
                    b"<definedNames>",
                    b'<externalReferences><externalReference r:id="rId99"/></externalReferences>'
                    b'<definedNames><definedName name="rain">[1]Weather!$A$1</definedName>',
                ),
                "xl/_rels/workbook.xml.rels": lambda xml: xml.replace(
                    b"</Relationships>",
                    b'<Relationship Id="rId99" Type="' + relations + b'/externalLink" '
                    b'Target="externalLinks/externalLink1.xml"/></Relationships>',
                ),
                "[Content_Types].xml": lambda xml: xml.replace(
                    b"</Types>",
                    b'<Override PartName="/xl/externalLinks/externalLink1.xml" ContentType="'
                    + kind
                    + b'"/></Types>',
                ),
                _SHEET: lambda xml: (
                    xml.replace(b"<f>C5*2</f>", b"<f>C5*[1]Weather!A1</f>")
                    .replace(
                        b"<f>C6*2</f>", b'<f t="shared" ref="E6:E7" si="4">[1]Weather!B1+C6</f>'
                    )
                    .replace(b"<f>C7*2</f>", b'<f t="shared" si="4"/>')
                    .replace(b"<formula>63<", b"<formula>" + rule + b"<")
                ),
            },
        )
        members = {**self.stored(source), "xl/externalLinks/externalLink1.xml": link}
        return with_members(source.path, members)

    def test_links_stay_unless_asked(self) -> None:
        members = self.members(self.make(self.linked()))
        self.assertIn("xl/externalLinks/externalLink1.xml", members)
        self.assertEqual(members[_SHEET].count(b"[1]Weather!"), 2)

    def test_links_end_on_request_and_cells_keep_their_values(self) -> None:
        source = self.linked()
        made = self.make(source, without(ExtraKind.OTHER_WORKBOOKS))
        members = self.members(made)
        self.assertNotIn("xl/externalLinks/externalLink1.xml", members)
        for gone in (b"[1]Weather", b'si="4"', b"externalReference"):
            self.assertFalse(any(gone in content for content in members.values()), gone)
        self.assertEqual(by_calamine(made.copy.path), by_calamine(source.path))
        kept = opened(made.copy.path)["Ledger"]
        self.assertEqual([kept["E5"].value, kept["E7"].value], [120.8, 121.2])
        self.assertEqual(kept["E8"].value, "=C8*2")

    def test_links_are_not_offered_where_rules_look_there_too(self) -> None:
        sheet = weigh(self.linked(rule=b"[1]Weather!$A$1"))
        self.assertNotIn(ExtraKind.OTHER_WORKBOOKS, {part.extra for part in sheet.parts})

    def test_links_stay_where_cells_cannot_be_distinguished(self) -> None:
        source = rewritten(
            self.linked(), {_SHEET: lambda xml: xml.replace(b'<row r="20"', b'<row r="7"')}
        )
        members = self.members(self.make(source, without(ExtraKind.OTHER_WORKBOOKS)))
        self.assertIn("xl/externalLinks/externalLink1.xml", members)
        self.assertEqual(members[_SHEET].count(b"[1]Weather!"), 2)

    def test_another_formula_that_goes_is_seen(self) -> None:
        source = self.linked()
        sheet = weigh(source)
        chosen = plan(sheet, without(ExtraKind.OTHER_WORKBOOKS))
        copy = make_copy(source, sheet, chosen, self.folder / "c.xlsx")
        self.assertIsNot(
            prove(source, Source(path=copy.path), sheet, copy.outcomes).verdict, Verdict.CHECK
        )
        faulty = rewritten(
            Source(path=copy.path), {_SHEET: lambda xml: xml.replace(b"<f>C8*2</f>", b"")}
        )
        self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.CHECK)


class Rules(WorkbookCase):
    """Conditional formats (ECMA-376 part 1, 18.3.1.18; 18.3.1.10: the least priority counts)."""

    RULE = (
        b'<cfRule type="cellIs" dxfId="0" priority="%d" operator="greaterThan">'
        b"<formula>%d</formula></cfRule>"
    )

    def with_rules(self) -> Source:
        def rules(cells: bytes, *told: tuple[int, int]) -> bytes:
            inside = b"".join(self.RULE % one for one in told)
            head = b'<conditionalFormatting sqref="' + cells + b'">'
            return head + inside + b"</conditionalFormatting>"

        more = rules(b"D2:D9", (7, 1), (8, 2)) + rules(b"D2:D9", (2, 1)) + rules(b"", (9, 3))
        return rewritten(
            self.ledger(),
            {_SHEET: lambda xml: xml.replace(b"<dataValidations", more + b"<dataValidations")},
        )

    def test_rules_go_on_request_where_they_repeat_others_or_are_for_no_cells(self) -> None:
        source = self.with_rules()
        kept = self.members(self.make(source))[_SHEET]
        self.assertEqual(kept.count(b"<cfRule"), 5)
        xml = self.members(self.make(source, without(ExtraKind.IDLE_RULES)))[_SHEET]
        told = sorted(int(number) for number in re.findall(rb'priority="(\d+)"', xml))
        self.assertEqual(told, [1, 2, 8])


class References(WorkbookCase):
    """Nothing in use is removed, and no reference in use is left without its target."""

    def saved(self, fill: Callable[[xlsxwriter.Workbook, Worksheet], None]) -> Source:
        path = self.folder / "a.xlsx"
        book = xlsxwriter.Workbook(str(path))
        sheet = book.add_worksheet("Ledger")
        sheet.write_row(0, 0, ["Ring", 1])
        fill(book, sheet)
        book.close()
        return Source(path=path)

    def test_logos_in_headers_stay_which_only_vml_shows(self) -> None:
        """`o:relid` of VML (ECMA-376 part 4, 19.1.2.11)."""

        def fill(_: xlsxwriter.Workbook, sheet: Worksheet) -> None:
            logo = {"image_left": "logo.png", "image_data_left": picture_file("PNG", 300, 200)}
            sheet.set_header("&L&G", logo)

        made = self.make(self.saved(fill))
        members = self.members(made)
        self.assertTrue(any(name.startswith("xl/media/") for name in members))
        self.assertIn(b"image1", members["xl/drawings/_rels/vmlDrawing1.vml.rels"])

    def test_pictures_stay_that_vml_with_faults_shows(self) -> None:
        def fill(_: xlsxwriter.Workbook, sheet: Worksheet) -> None:
            logo = {"image_left": "logo.png", "image_data_left": picture_file("PNG", 300, 200)}
            sheet.set_header("&L&G", logo)

        vml = "xl/drawings/vmlDrawing1.vml"
        broken = {vml: lambda xml: xml.replace(b"</xml>", b"<br></xml>")}
        made = self.make(rewritten(self.saved(fill), broken))
        self.assertTrue(any(name.startswith("xl/media/") for name in self.members(made)))

    def test_the_background_of_a_sheet_stays(self) -> None:
        def fill(_: xlsxwriter.Workbook, sheet: Worksheet) -> None:
            sheet.set_background(picture_file("PNG", 300, 200))

        members = self.members(self.make(self.saved(fill)))
        self.assertTrue(any(name.startswith("xl/media/") for name in members))

    def test_page_setups_do_without_printer_settings_that_are_removed(self) -> None:
        """On sheets whose cells stay as they are, and on sheets of charts too."""

        def fill(book: xlsxwriter.Workbook, sheet: Worksheet) -> None:
            sheet.set_landscape()
            chart = book.add_chart({"type": "line"})
            chart.add_series({"values": "=Ledger!$B$1:$B$1"})
            page = book.add_chartsheet("Chart")
            page.set_chart(chart)
            page.set_landscape()

        members = self.stored(self.saved(fill))
        link = (
            b'<Relationship Id="rIdP" Type="http://schemas.openxmlformats.org/officeDocument/2006/'
            b'relationships/printerSettings" Target="../printerSettings/printerSettings1.bin"/>'
        )
        for kind in ("worksheets", "chartsheets"):
            member = f"xl/{kind}/sheet1.xml"
            rels = f"xl/{kind}/_rels/sheet1.xml.rels"
            old = members.get(rels, _NO_RELATIONSHIPS)
            members[rels] = old.replace(b"</Relationships>", link + b"</Relationships>")
            members[member] = members[member].replace(b"<pageSetup ", b'<pageSetup r:id="rIdP" ', 1)
            self.assertIn(b"rIdP", members[member])
        members["xl/printerSettings/printerSettings1.bin"] = bytes(500)
        source = with_members(self.folder / "a.xlsx", members)
        for preset in ("reading-desk", "record-office", without(ExtraKind.CELL_PLACES)):
            kept = self.members(self.make(source, preset))
            has_settings = "xl/printerSettings/printerSettings1.bin" in kept
            self.assertEqual(has_settings, preset == "record-office")
            for kind in ("worksheets", "chartsheets"):
                self.assertEqual(b"rIdP" in kept[f"xl/{kind}/sheet1.xml"], has_settings)

    def test_white_space_around_numbers_means_nothing(self) -> None:
        """As a statistics program writes them; xsd:double collapses it (XML Schema 2, 4.3.6)."""
        source = rewritten(
            self.saved(lambda *_: None),
            {_SHEET: lambda xml: xml.replace(b"<v>1</v>", b"<v> 1</v>")},
        )
        made = self.make(source)
        self.assertIs(made.proof and made.proof.verdict, Verdict.SAME)

    def test_a_reference_that_lost_its_target_makes_a_copy_unsound(self) -> None:
        source = self.ledger()
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.xlsx")
        assert copy.path is not None
        relations = "xl/drawings/_rels/drawing1.xml.rels"
        faulty = rewritten(
            Source(path=copy.path), {relations: lambda xml: xml.replace(b'Id="rId1"', b'Id="rId9"')}
        )
        proof = prove(source, faulty, sheet, copy.outcomes)
        self.assertIs(proof.verdict, Verdict.CHECK)
        self.assertFalse(proof.is_sound)


_NO_RELATIONSHIPS = (
    b'<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    b"</Relationships>"
)
