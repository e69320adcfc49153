"""Office files of before 2007, brought to their open form.

xlwt writes such workbooks and python-calamine reads them; neither had a part in what is tested.
"""

import random
import shutil
import struct
import unittest
from collections.abc import Sequence
from pathlib import Path

import docx
import openpyxl
import xlwt

from lighten import Order, PartKind, Source, Verdict, make, prove_any_two, weigh
from lighten.containers.legacy_office.convert_with_office import convert_with_office
from lighten.containers.legacy_office.streams import Within, macros_mark, within
from lighten.formats.docx import LEGACY_FORMAT as DOC
from lighten.formats.xlsx import LEGACY_FORMAT as XLS
from lighten.formats.xlsx.read_legacy import rows_by_sheet
from lighten.model.errors import UnreadableFileError, UnsupportedFileError
from lighten.office_suite import OfficeSuite
from lighten.registry import format_of
from tests.builders import FolderCase
from tests.core.containers.compound_files import compound_file
from tests.core.formats.docx import samples as docx_samples

has_suite = unittest.skipUnless(shutil.which("soffice"), "no office suite is installed here")
_ROWS = [["Ring", "Count"], ["AB1234", 3], ["AB1235", 2.5], ["", 1e-7]]


def old_workbook(path: Path, rows: Sequence[Sequence[object]] = _ROWS) -> Path:
    book = xlwt.Workbook()
    sheet = book.add_sheet("Ringing")
    for number, row in enumerate(rows):
        for column, value in enumerate(row):
            if value != "":
                sheet.write(number, column, value)
    book.save(str(path))
    return path


def new_workbook(path: Path, rows: Sequence[Sequence[object]] = _ROWS) -> Path:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Ringing"
    for row in rows:
        sheet.append([None if value == "" else value for value in row])
    book.save(path)
    return path


def suite_that_makes(made: Path) -> OfficeSuite:
    """An office suite whose every conversion comes to that file."""

    def run(command: Sequence[str], _patience_s: float) -> bool:
        folder = Path(command[command.index("--outdir") + 1])
        ending = command[command.index("--convert-to") + 1].partition(":")[0]
        folder.mkdir()
        shutil.copy(made, folder / Path(command[-1]).with_suffix(f".{ending}").name)
        return True

    return OfficeSuite("soffice", run)


class OldCase(FolderCase):
    def old(self, streams: dict[str, bytes]) -> Source:
        path = self.folder / "old"
        path.write_bytes(compound_file(streams))
        return Source(path=path)


class Recognised(OldCase):
    def test_recognised_by_the_stream_in_the_root(self) -> None:
        for stream, name in (
            ("WordDocument", "doc"),
            ("Workbook", "xls"),
            ("Book", "xls"),
            ("PowerPoint Document", "ppt"),
        ):
            with self.subTest(stream=stream):
                # A document inside has a stream of its own kind.
                streams = {stream: b"", "ObjectPool/_1/WordDocument": b""}
                self.assertEqual(format_of(self.old(streams)).name, name)
        self.assertEqual(format_of(Source(path=old_workbook(self.folder / "a"))).name, "xls")

    def test_other_compound_files_and_damaged_ones_are_not(self) -> None:
        sound = self.old({"Contents": b"", "ObjectPool/_1/WordDocument": b""})
        with self.assertRaises(UnsupportedFileError):
            format_of(sound)
        content = old_workbook(self.folder / "a.xls").read_bytes()
        for length in (8, 100, 512, 1000):
            sound.path.write_bytes(content[:length])
            with self.subTest(length=length), self.assertRaises(UnsupportedFileError):
                format_of(sound)


class HeldWithin(OldCase):
    def test_macros_documents_and_sounds_are_counted(self) -> None:
        self.assertEqual(
            within(self.old({"WordDocument": b"", "Macros/VBA/dir": b"", "ObjectPool/_1/a": b""})),
            Within(has_macros=True, documents=1),
        )
        self.assertEqual(
            within(self.old({"Workbook": b"", "MBD0001/a": b"", "MBD0002/a": b""})),
            Within(documents=2),
        )

    def test_held_within_in_slides_they_are_records(self) -> None:
        flag = struct.pack("<HHIII", 2, 0x400, 12, 9, 1) + bytes(4)
        sounds = struct.pack("<HHI", 15, 0x7E6, 0) * 2
        inside = struct.pack("<HHI", 31, 0x3FF, len(flag)) + flag + sounds
        content = struct.pack("<HHI", 15, 0x3E8, len(inside)) + inside
        content += struct.pack("<HHI", 16, 0x1011, 4) + b"abcd"
        self.assertEqual(
            within(self.old({"PowerPoint Document": content})),
            Within(has_macros=True, documents=1, films_and_sounds=2),
        )

    def test_macros_hash_the_same_whatever_number_their_project_has(self) -> None:
        files = [
            compound_file({"PROJECT": number, "VBA/dir": code})
            for number, code in ((b"1", b"x"), (b"2", b"x"), (b"1", b"y"))
        ]
        first, other_number, other_code = map(macros_mark, files)
        self.assertEqual(first, other_number)
        self.assertNotEqual(first, other_code)


class Brought(OldCase):
    def test_a_converted_file_is_weighed_with_the_overhead_of_the_legacy_form(self) -> None:
        rows = [["word", number] for number in range(2000)]
        source = Source(path=old_workbook(self.folder / "a.xls", rows), keeps_in=self.folder)
        new_workbook(self.folder / "open-form.xlsx", rows)
        sheet = weigh(source)
        self.assertEqual(sheet.size_bytes, source.path.stat().st_size)
        more = sheet.size_bytes - (self.folder / "open-form.xlsx").stat().st_size
        self.assertEqual(sheet.bytes_by_kind()[PartKind.LEGACY_FORM], more)
        self.assertIn("becomes .xlsx", " ".join(sheet.remarks))

        made = make(source, sheet, Order(), self.folder / "copy")
        assert made.proof is not None and made.copy.path is not None
        self.assertIs(made.proof.verdict, Verdict.SAME, made.proof.reasons)
        self.assertTrue(made.name.endswith("-light.xlsx"))
        self.assertEqual(
            sum(outcome.bytes_after for outcome in made.copy.outcomes), made.copy.bytes_after
        )
        read = openpyxl.load_workbook(made.copy.path.rename(self.folder / "b.xlsx"))
        self.assertEqual(list(read["Ringing"].values)[-1], ("word", 1999))
        proof = prove_any_two(source, Source(path=self.folder / "b.xlsx"))
        self.assertIs(proof.verdict, Verdict.SAME, proof.reasons)

    def test_a_value_that_changed_on_the_way_is_seen(self) -> None:
        rows = [["word", number] for number in range(2000)]
        source = Source(path=old_workbook(self.folder / "a.xls", rows), keeps_in=self.folder)
        rows[1200][1] = 7
        new_workbook(self.folder / "open-form.xlsx", rows)
        made = make(source, weigh(source), Order(), self.folder / "copy")
        assert made.proof is not None
        self.assertIs(made.proof.verdict, Verdict.CHECK)
        self.assertIn("rows of Ringing", made.proof.reasons[0])

    def test_a_conversion_that_would_be_heavier_is_not_used(self) -> None:
        source = Source(path=old_workbook(self.folder / "a.xls"), keeps_in=self.folder)
        marks = [[random.Random(row).randbytes(90).hex()] for row in range(99)]
        new_workbook(self.folder / "open-form.xlsx", marks)
        sheet = weigh(source)
        self.assertEqual(sheet.size_bytes, source.path.stat().st_size)
        made = make(source, sheet, Order(), self.folder / "copy")
        self.assertIsNone(made.copy.path)
        self.assertIn("weighs more as .xlsx", made.copy.reasons[0])

    def test_once_and_kept_with_the_original_untouched(self) -> None:
        source = Source(path=old_workbook(self.folder / "a.xls"))
        before = source.path.read_bytes()
        made = new_workbook(self.folder / "b.xlsx")
        opened = convert_with_office(source, XLS, suite_that_makes(made))
        self.assertEqual(opened.path.read_bytes(), made.read_bytes())
        self.assertEqual(convert_with_office(source, XLS, OfficeSuite("")), opened)
        self.assertEqual(source.path.read_bytes(), before)

    def test_nothing_is_converted_without_a_suite_or_by_one_that_fails(self) -> None:
        source = Source(path=old_workbook(self.folder / "a.xls"))
        with self.assertRaisesRegex(UnsupportedFileError, "a.xls: .*before 2007.*save it as .xlsx"):
            convert_with_office(source, XLS, OfficeSuite(""))
        with self.assertRaisesRegex(UnreadableFileError, "a.xls: .*locked with a password"):
            convert_with_office(
                source, XLS, OfficeSuite("soffice", lambda _command, _patience: False)
            )

    def test_nothing_is_converted_where_something_would_be_lost(self) -> None:
        made = docx_samples.handbook(self.folder / "b.docx").path
        for streams, lost in (
            ({"Macros/VBA/dir": b""}, "its macros"),
            ({"ObjectPool/_1/a": b"", "ObjectPool/_2/a": b""}, "2 of 2 documents"),
        ):
            with (
                self.subTest(lost=lost),
                self.assertRaisesRegex(UnsupportedFileError, f"would lose {lost}"),
            ):
                source = self.old({"WordDocument": b"", **streams})
                convert_with_office(source, DOC, suite_that_makes(made))


class ReadAgain(OldCase):
    def test_the_same_rows_old_and_new(self) -> None:
        old, new = old_workbook(self.folder / "a.xls"), new_workbook(self.folder / "a.xlsx")
        told = rows_by_sheet(old, new)
        self.assertEqual(told, rows_by_sheet(new, new))
        self.assertEqual([len(rows) for rows in told.values()], [4])

    def test_values_calculated_on_opening_are_not_compared(self) -> None:
        old = old_workbook(self.folder / "a.xls", [["Today", 43589], ["Rings", 8]])
        new = new_workbook(self.folder / "a.xlsx", [["Today", "=TODAY()"], ["Rings", 8]])
        told, other = rows_by_sheet(old, new), rows_by_sheet(new, new)
        self.assertEqual(told, other)
        new = new_workbook(self.folder / "a.xlsx", [["Today", "=1+2"], ["Rings", 8]])
        self.assertNotEqual(rows_by_sheet(old, new), rows_by_sheet(new, new))


@has_suite
class BroughtByLibreOffice(FolderCase):
    """Legacy files as LibreOffice writes and reads them."""

    def test_an_old_text_document_becomes_a_proved_copy(self) -> None:
        made = docx_samples.handbook(self.folder / "a.docx").path
        documents = OfficeSuite().convert([(made, ".docx")], "doc:MS Word 97", self.folder)
        assert documents is not None
        source = Source(path=documents[0])
        made_copy = make(source, weigh(source), Order(), self.folder / "copy.docx")
        assert made_copy.proof is not None and made_copy.copy.path is not None
        self.assertIs(made_copy.proof.verdict, Verdict.CLOSE, made_copy.proof.reasons)
        words = [paragraph.text for paragraph in docx.Document(str(made_copy.copy.path)).paragraphs]
        self.assertEqual(
            words, [paragraph.text for paragraph in docx.Document(str(made)).paragraphs]
        )
