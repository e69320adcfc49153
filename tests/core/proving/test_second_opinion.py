"""Losses that the independent readers of `benchmarks.second_opinion` have to find."""

import re
import shutil
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from unittest import skipUnless

import numpy as np
import pikepdf
from PIL import Image

from benchmarks.second_opinion.findings import (
    Comparison,
    Judgement,
    block_step,
    differences,
    judge,
    run,
)
from benchmarks.second_opinion.loose_pictures import compare_pictures
from benchmarks.second_opinion.packages import compare_open_documents, compare_packages
from benchmarks.second_opinion.pdfs import compare_pdfs
from benchmarks.second_opinion.samples import write_samples
from tests.builders import FolderCase, landscape


class Judgements(FolderCase):
    def test_loss_under_a_passing_verdict_is_false_comfort(self) -> None:
        for verdict in ("same", "close"):
            self.assertIs(judge(verdict, ["words: lost"]), Judgement.FALSE_COMFORT)
            self.assertIs(judge(verdict, []), Judgement.RIGHT)

    def test_check_without_a_loss_is_a_false_alarm(self) -> None:
        self.assertIs(judge("check", []), Judgement.FALSE_ALARM)
        self.assertIs(judge("check", ["words: lost"]), Judgement.RIGHT)

    def test_no_copy_is_no_verdict(self) -> None:
        self.assertIs(judge(None, []), Judgement.NO_COPY)

    def test_repeated_values_count(self) -> None:
        (said,) = differences("words", ["reed", "reed", "owl"], ["reed", "owl", "fen"])
        self.assertEqual(said, "words: lost 1 ['reed'], added 1 ['fen']")
        self.assertEqual(list(differences("words", ["reed", "owl"], ["owl", "reed"])), [])

    def test_reader_that_is_not_installed_finds_nothing(self) -> None:
        self.assertEqual(run("no-such-reader").code, -1)

    def test_one_changed_block_is_not_averaged_away(self) -> None:
        before = np.full((800, 800, 3), 200, np.int16)
        after = before.copy()
        after[400:408, 400:408, 0] -= 90
        self.assertEqual(block_step(before, after), 90)


class SampleCase(FolderCase):
    samples: dict[str, Path]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = cls.enterClassContext(tempfile.TemporaryDirectory())
        cls.samples = {path.name: path for path in write_samples(Path(folder))}

    def lost(self, compare: Comparison, original: Path, copy: Path) -> str:
        """Join what is found of a copy, after its original has been compared with itself."""
        self.assertEqual(list(compare(original, original)), [])
        return "; ".join(compare(original, copy))

    def repacked(self, original: Path, change: Callable[[str, bytes], bytes | None]) -> Path:
        """Write a package anew with members changed, or left out for None."""
        copy = self.folder / f"changed{original.suffix}"
        with zipfile.ZipFile(original) as old, zipfile.ZipFile(copy, "w") as new:
            for name in old.namelist():
                content = change(name, old.read(name))
                if content is not None:
                    new.writestr(name, content)
        return copy


class Packages(SampleCase):
    def test_lost_media_member_is_found(self) -> None:
        original = next(
            path
            for path in self.samples.values()
            if path.suffix == ".docx" and "word/media" in " ".join(zipfile.ZipFile(path).namelist())
        )
        copy = self.repacked(original, lambda name, old: None if "/media/" in name else old)
        self.assertIn("which is not there", self.lost(compare_packages, original, copy))

    def test_lost_word_of_a_text_document_is_found(self) -> None:
        original = self.samples["styles.docx"]

        def change(name: str, old: bytes) -> bytes:
            if name != "word/document.xml":
                return old
            return re.sub(rb"(<w:t[^>]*>)[^<]+(</w:t>)", rb"\1\2", old, count=1)

        self.assertIn(
            "paragraphs: lost 1",
            self.lost(compare_packages, original, self.repacked(original, change)),
        )

    def test_lost_cell_of_a_workbook_is_found(self) -> None:
        original = self.samples["table.xlsx"]

        def change(name: str, old: bytes) -> bytes:
            if not name.startswith("xl/worksheets/sheet"):
                return old
            return re.sub(rb"<c [^>]*>(?:(?!</c>).)*</c>", b"", old, count=1)

        self.assertIn(
            "cells: lost 1", self.lost(compare_packages, original, self.repacked(original, change))
        )

    def test_lost_paragraph_of_an_open_document_is_found(self) -> None:
        original = next(path for path in self.samples.values() if path.suffix == ".odt")

        def change(name: str, old: bytes) -> bytes:
            if name != "content.xml":
                return old
            return re.sub(rb"(<text:p[^>/]*>)[^<]+", rb"\1", old, count=1)

        self.assertIn(
            "words of content.xml",
            self.lost(compare_open_documents, original, self.repacked(original, change)),
        )


@skipUnless(shutil.which("pdftotext") and shutil.which("qpdf"), "no poppler or qpdf here")
class Pdfs(SampleCase):
    def changed(self, name: str, change: Callable[[pikepdf.Pdf], None]) -> Path:
        copy = self.folder / "changed.pdf"
        with pikepdf.open(self.samples[name]) as pdf:
            change(pdf)
            pdf.save(copy)
        return copy

    def test_font_that_is_no_longer_embedded_is_found(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            for one in pdf.objects:
                if isinstance(one, pikepdf.Dictionary) and "/FontFile2" in one:
                    del one["/FontFile2"]

        copy = self.changed("truetype.pdf", change)
        found = self.lost(compare_pdfs, self.samples["truetype.pdf"], copy)
        self.assertIn("fonts are no longer embedded", found)

    def test_lost_drawing_of_a_page_is_found(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            pdf.pages[0].Contents = pdf.make_stream(b"")

        copy = self.changed("truetype.pdf", change)
        found = self.lost(compare_pdfs, self.samples["truetype.pdf"], copy)
        self.assertIn("words: lost", found)
        self.assertIn("looks different", found)

    def test_lost_page_is_found(self) -> None:
        def change(pdf: pikepdf.Pdf) -> None:
            pdf.add_blank_page()
            del pdf.pages[0]

        copy = self.changed("type-1.pdf", change)
        self.assertNotEqual(self.lost(compare_pdfs, self.samples["type-1.pdf"], copy), "")

    def test_faulty_structure_is_found(self) -> None:
        original = self.samples["type-1.pdf"]
        copy = self.folder / "cut.pdf"
        data = original.read_bytes()
        copy.write_bytes(data[: data.rindex(b"xref")])
        self.assertIn("qpdf finds faults", self.lost(compare_pdfs, original, copy))


class Pictures(FolderCase):
    def picture(self, name: str, pixels: np.ndarray, **options: object) -> Path:
        path = self.folder / name
        Image.fromarray(pixels).save(path, **options)
        return path

    def test_fewer_pixels_and_another_coding_are_no_loss(self) -> None:
        pixels = landscape(900, 600, 3)
        original = self.picture("a.png", pixels)
        Image.fromarray(pixels).resize((450, 300)).save(self.folder / "b.jpg", quality=80)
        self.assertEqual(list(compare_pictures(original, self.folder / "b.jpg")), [])

    def test_lost_frame_is_found(self) -> None:
        pixels = landscape(200, 150, 3)
        original = self.folder / "a.tif"
        one = Image.fromarray(pixels)
        one.save(original, save_all=True, append_images=[one])
        copy = self.picture("b.tif", pixels)
        self.assertEqual(list(compare_pictures(original, copy)), ["pictures in it: 2 -> 1"])

    def test_covered_part_is_found(self) -> None:
        pixels = landscape(600, 400, 3)
        original = self.picture("a.png", pixels)
        pixels = pixels.copy()
        pixels[100:130, 100:130] = 255 - pixels[100:130, 100:130]
        copy = self.picture("b.png", pixels)
        self.assertIn("looks different", "; ".join(compare_pictures(original, copy)))

    def test_another_shape_is_found(self) -> None:
        pixels = landscape(600, 400, 3)
        original, copy = self.picture("a.png", pixels), self.picture("b.png", pixels[:, :450])
        self.assertEqual(list(compare_pictures(original, copy)), ["frame 1 has another shape"])
