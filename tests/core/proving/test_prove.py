"""Faults planted in copies are found; sound copies pass."""

import unittest
from collections.abc import Callable
from pathlib import Path

import pikepdf

from lighten import Copy, Source, Verdict, make_copy, plan, preset_named, prove, weigh
from lighten.model.proofs import Proof
from lighten.proving.verdict import proof_from
from tests.builders import FolderCase, as_jpeg, landscape
from tests.core.formats.pdf.samples import report

Fault = Callable[[pikepdf.Pdf], None]


def drop_page(pdf: pikepdf.Pdf) -> None:
    del pdf.pages[1]


def change_text(pdf: pikepdf.Pdf) -> None:
    content = pdf.pages[0].Contents
    content.write(content.read_bytes().replace(b"forty", b"fifty"))


def empty_picture(pdf: pikepdf.Pdf) -> None:
    picture = pdf.pages[0].obj.Resources.XObject["/Photo"]
    picture.write(as_jpeg(landscape(9, 6, 1) * 0 + 255), filter=pikepdf.Name.DCTDecode)
    picture.Width, picture.Height = 9, 6


def wrong_picture(pdf: pikepdf.Pdf) -> None:
    picture = pdf.pages[0].obj.Resources.XObject["/Photo"]
    picture.write(as_jpeg(landscape(450, 300, 77)), filter=pikepdf.Name.DCTDecode)


def swapped_colours(pdf: pikepdf.Pdf) -> None:
    picture = pdf.pages[0].obj.Resources.XObject["/Photo"]
    pixels = landscape(450, 300, 3)[..., ::-1].copy()
    picture.write(as_jpeg(pixels), filter=pikepdf.Name.DCTDecode)


def lost_mask(pdf: pikepdf.Pdf) -> None:
    del pdf.pages[1].obj.Resources.XObject["/Soft"].SMask


def lost_drawing(pdf: pikepdf.Pdf) -> None:
    content = pdf.pages[0].Contents
    content.write(content.read_bytes().replace(b"re f", b"re n"))


def lost_link(pdf: pikepdf.Pdf) -> None:
    del pdf.pages[0].Annots


def other_bookmark(pdf: pikepdf.Pdf) -> None:
    with pdf.open_outline() as outline:
        outline.root[0].title = "Third"


FAULTS: dict[str, Fault] = {
    "pages": drop_page,
    "text": change_text,
    "lost what it shows": empty_picture,
    "has lost what it": wrong_picture,
    "lost what": swapped_colours,
    "Picture": lost_mask,
    "looks different": lost_drawing,
    "links": lost_link,
    "bookmarks": other_bookmark,
}


class Prove(FolderCase):
    def copy_of_report(self) -> tuple[Source, Copy]:
        source = report(self.folder / "a.pdf")
        sheet = weigh(source)
        copy = make_copy(
            source, sheet, plan(sheet, preset_named("reading-desk")), self.folder / "b.pdf"
        )
        return source, copy

    def proof_of(self, source: Source, copy: Copy, path: Path) -> Proof:
        return prove(source, Source(path=path), weigh(source), copy.outcomes)

    def test_a_sound_copy_passes(self) -> None:
        source, copy = self.copy_of_report()
        assert copy.path is not None
        proof = self.proof_of(source, copy, copy.path)
        self.assertIn(proof.verdict, (Verdict.SAME, Verdict.CLOSE), proof.reasons)
        self.assertEqual(len(proof.pages), 2)
        self.assertTrue(all(page.is_text_same for page in proof.pages))

    def test_the_original_is_the_same_as_itself(self) -> None:
        source, copy = self.copy_of_report()
        self.assertIs(self.proof_of(source, copy, source.path).verdict, Verdict.SAME)

    def test_planted_faults_are_found_and_named(self) -> None:
        source, copy = self.copy_of_report()
        assert copy.path is not None
        for number, (words, plant) in enumerate(FAULTS.items()):
            with self.subTest(fault=plant.__name__):
                path = self.folder / f"fault{number}.pdf"
                with pikepdf.open(copy.path) as pdf:
                    plant(pdf)
                    pdf.save(path)
                proof = self.proof_of(source, copy, path)
                self.assertIs(proof.verdict, Verdict.CHECK)
                self.assertTrue(any(words in reason for reason in proof.reasons), proof.reasons)

    def test_a_copy_that_cannot_be_opened_has_the_verdict_check(self) -> None:
        source, copy = self.copy_of_report()
        path = self.folder / "broken.pdf"
        path.write_bytes(b"%PDF-1.7 and nothing more")
        self.assertIs(self.proof_of(source, copy, path).verdict, Verdict.CHECK)


class Nothing(unittest.TestCase):
    def test_compared_is_nothing_proved(self) -> None:
        proof = proof_from((), ())
        self.assertIs(proof.verdict, Verdict.CHECK)
        self.assertIn("nothing", proof.reasons[0])
