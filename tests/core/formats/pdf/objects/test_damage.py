"""Damaged files: what is read from them, and what is never given to anybody."""

import io
from pathlib import Path
from unittest import mock

import pikepdf
import pypdfium2

from lighten import LightenError, Order, Source, make, preset_named, weigh
from lighten.damage import report_as_damage
from lighten.formats.pdf.objects.page_boxes import crop_box, media_box, user_unit
from lighten.formats.pdf.objects.values import numbers_of, whole_number
from lighten.formats.pdf.objects.write_file import save_pdf
from lighten.model.errors import UnforeseenDamageError, UnreadableFileError, UnsoundCopyError
from tests.builders import FolderCase
from tests.core.formats.pdf.samples import report

ORDER = Order(preset=preset_named("post"))


class DamagedFiles(FolderCase):
    def made(self, source: Source) -> Path:
        out = self.folder / "copy.pdf"
        made = make(source, weigh(source), ORDER, out)
        assert made.copy.path is not None
        return made.copy.path

    def test_damaged_files_without_their_end_become_whole_copies(self) -> None:
        """Their trailer is put together again, and has no /Size (ISO 32000-1, table 15)."""
        whole = report(self.folder / "whole.pdf").path.read_bytes()
        cut = self.folder / "cut.pdf"
        cut.write_bytes(whole[: whole.rindex(b"startxref")])
        copy = self.made(Source(path=cut))
        with pikepdf.Pdf.open(copy) as pdf:
            self.assertEqual(len(pdf.pages), 2)
        self.assertEqual(len(pypdfium2.PdfDocument(copy)), 2)

    def test_damaged_files_of_which_pages_are_lost_are_refused(self) -> None:
        lost = self.folder / "lost.pdf"
        whole = report(
            self.folder / "whole.pdf", object_stream_mode=pikepdf.ObjectStreamMode.disable
        )
        with pikepdf.Pdf.open(whole.path) as pdf:
            start = b"\n%d 0 obj\n" % pdf.pages[1].obj.objgen[0]
        lost.write_bytes(whole.path.read_bytes().replace(start + b"<<", start + b"7 "))
        with self.assertRaisesRegex(UnreadableFileError, "a page of it is lost"):
            weigh(Source(path=lost))

    def test_damaged_files_with_odd_values_are_read_as_far_as_they_make_sense(self) -> None:
        source = report(self.folder / "report.pdf")
        changes = {
            "/Width": pikepdf.Name("/Odd"),
            "/BitsPerComponent": pikepdf.Array([]),
            "/Decode": pikepdf.Array([True, pikepdf.String("x")]),
            "/SMask": 7,
        }
        for key, value in changes.items():
            with self.subTest(key=key):
                odd = self.folder / f"odd-{key[1:]}.pdf"
                with pikepdf.Pdf.open(source.path) as pdf:
                    for picture in pdf.pages[0].get_images().values():
                        picture[key] = value
                    pdf.save(odd)
                sheet = weigh(Source(path=odd))
                self.assertEqual(sum(part.size_bytes for part in sheet.parts), sheet.size_bytes)

    def test_damaged_files_whose_copy_another_reader_cannot_open_have_none(self) -> None:
        source = report(self.folder / "report.pdf")
        sheet = weigh(source)
        out = self.folder / "copy.pdf"

        def cut_short(pdf: pikepdf.Pdf, path: Path, **_options: object) -> None:
            written = io.BytesIO()
            pdf.save(written)
            path.write_bytes(b"%PDF-1.7\n" + bytes(len(written.getvalue()) // 4))

        with (
            mock.patch("lighten.formats.pdf.edit.save_pdf", cut_short),
            self.assertRaisesRegex(UnsoundCopyError, "there is no copy of it, as the copy cannot"),
        ):
            make(source, sheet, ORDER, out)
        self.assertEqual(list(self.folder.iterdir()), [source.path])

    def test_damaged_files_that_cannot_be_read_back_are_said_to_be_damaged(self) -> None:
        with pikepdf.Pdf.open(report(self.folder / "report.pdf").path) as pdf:
            pdf.Root.Pages.Type = pikepdf.Name("/Odd")
            pdf.Root.Pages.Kids = pikepdf.Array([])
            pdf.Root.Pages.Count = 2
            with self.assertRaises((UnsoundCopyError, pikepdf.PdfError)):
                save_pdf(pdf, self.folder / "out.pdf")


class WhatNobodyForesaw(FolderCase):
    def test_unforeseen_errors_are_reported_as_damage_of_that_file_and_logged(self) -> None:
        source = Source(path=self.folder / "odd.pdf")
        with (
            self.assertLogs("lighten.damage", "WARNING"),
            self.assertRaisesRegex(UnforeseenDamageError, "odd.pdf: is damaged inside"),
            report_as_damage(source),
        ):
            raise KeyError("rId7")

    def test_errors_of_ours_and_of_the_machine_pass(self) -> None:
        source = Source(path=self.folder / "odd.pdf")
        for error in (LightenError("known"), OSError(28, "No space left"), MemoryError()):
            with self.assertRaises(type(error)), report_as_damage(source):
                raise error
        with self.assertRaises(MemoryError), report_as_damage(source):
            raise RuntimeError("std::bad_alloc")


class Values(FolderCase):
    def test_values_of_another_kind_count_as_not_there(self) -> None:
        pdf = pikepdf.new()
        pdf.Root.Odd = pikepdf.Array([3, pikepdf.Object.parse(b"2.5"), True, pikepdf.Name("/X")])
        whole, part, truth, name = pdf.Root.Odd
        self.assertEqual(
            [whole_number(value, 8) for value in (whole, part, truth, name)], [3, 2, 8, 8]
        )
        self.assertEqual(numbers_of(pikepdf.Array([1, 2])), [1.0, 2.0])
        self.assertEqual(numbers_of(pdf.Root.Odd), [])
        self.assertEqual(numbers_of(None), [])

    def test_boxes_of_pages_are_what_pdfium_takes_them_for(self) -> None:
        boxes = {
            "plain": [0, 0, 300, 400],
            "turned": [300, 400, 0, 0],
            "empty": [10, 10, 10, 10],
            "words": [pikepdf.Name("/A"), 0, 300, 400],
            "short": [0, 0, 300],
        }
        for name, box in boxes.items():
            with self.subTest(box=name):
                pdf = pikepdf.new()
                page = pdf.add_blank_page(page_size=(200, 200))
                page.obj.MediaBox = pikepdf.Array(box)
                path = self.folder / f"{name}.pdf"
                pdf.save(path)
                left, low, right, high = media_box(page)
                self.assertEqual(crop_box(page), (left, low, right, high))
                drawn = pypdfium2.PdfDocument(path)[0].get_size()
                if name != "words":
                    self.assertEqual((right - left, high - low), drawn)

    def test_units_of_a_page_are_points_unless_it_says_so(self) -> None:
        pdf = pikepdf.new()
        page = pdf.add_blank_page()
        self.assertEqual(user_unit(page), 1)
        for value, unit in ((2, 2), (0, 1), (-3, 1), (pikepdf.Name("/A"), 1)):
            page.obj.UserUnit = value
            self.assertEqual(user_unit(page), unit)
