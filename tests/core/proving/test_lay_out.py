"""Text documents as LibreOffice lays them out, and as it is asked to."""

import shutil
import unittest
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pypdfium2

from lighten import Order, Source, Verdict, make, make_copy, plan, preset_named, prove, weigh
from lighten.model.plans import Action
from lighten.model.source import no_progress
from lighten.office_suite import OfficeSuite
from lighten.proving.laid_out import compare_laid_out, may_change_layout
from tests.builders import FolderCase
from tests.core.formats.docx import samples as docx_samples
from tests.core.formats.odt import samples as odt_samples
from tests.core.formats.package_samples import rewritten

has_suite = unittest.skipUnless(shutil.which("soffice"), "no office suite is installed here")


class Asked(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.commands: list[Sequence[str]] = []
        self.document = docx_samples.handbook(self.folder / "a.docx").path

    def suite(self, *, does_well: bool = True) -> OfficeSuite:
        def run(command: Sequence[str], _patience_s: float) -> bool:
            self.commands.append(command)
            made_in = Path(command[command.index("--outdir") + 1])
            made_in.mkdir()
            for name in command:
                if name.endswith((".docx", ".odt")) and does_well:
                    (made_in / Path(name).with_suffix(".pdf").name).write_bytes(b"%PDF-1.7")
            profile = command[1].removeprefix("-env:UserInstallation=file://")
            self.settings = (Path(profile) / "user" / "registrymodifications.xcu").read_text()
            return does_well

        return OfficeSuite("soffice", run)

    def test_asked_without_one_nothing_is_laid_out_and_that_is_said(self) -> None:
        source = Source(path=self.document)
        told = compare_laid_out(source, source, weigh(source), no_progress, OfficeSuite(""))
        self.assertEqual((told.pages, told.faults), ((), ()))
        self.assertIn("no office suite", told.remarks[0])
        self.assertIsNone(OfficeSuite("").lay_out([(self.document, ".docx")], self.folder))

    def test_both_documents_are_laid_out_in_one_go_with_nothing_fetched_or_run(self) -> None:
        documents = [(self.document, ".docx"), (self.document, ".docx")]
        pages = self.suite().lay_out(documents, self.folder)
        assert pages is not None
        self.assertEqual([path.parent for path in pages], [self.folder, self.folder])
        self.assertEqual(len(self.commands), 1)
        for name in ("BlockUntrustedRefererLinks", "DisableMacrosExecution"):
            self.assertIn(f'"{name}" oor:op="fuse"><value>true', self.settings)

    def test_a_suite_that_fails_leaves_nothing_behind(self) -> None:
        suite = self.suite(does_well=False)
        self.assertIsNone(suite.lay_out([(self.document, ".docx")], self.folder))
        self.assertEqual([path.name for path in self.folder.iterdir()], ["a.docx"])


@has_suite
class LaidOut(FolderCase):
    """LibreOffice's own pages, read by pdfium."""

    def test_a_copy_has_the_pages_of_its_original(self) -> None:
        for name, sample in (("a.docx", docx_samples.handbook), ("a.odt", odt_samples.handbook)):
            with self.subTest(name=name):
                source = sample(self.folder / name)
                out = self.folder / f"copy-{name}"
                made = make(source, weigh(source), Order(lays_out=True), out)
                assert made.proof is not None
                self.assertIs(made.proof.verdict, Verdict.CLOSE, made.proof.reasons)
                self.assertGreaterEqual(len(made.proof.pages), 1)
                self.assertTrue(all(page.is_text_same for page in made.proof.pages))

    def test_pages_are_laid_out_only_where_more_than_pictures_changed(self) -> None:
        source = docx_samples.handbook(self.folder / "a.docx")
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("Post")), self.folder / "b.docx")
        self.assertTrue(may_change_layout(sheet, copy.outcomes))
        only_pictures = tuple(
            outcome if part.picture is not None else replace(outcome, action=Action.KEEP)
            for part, outcome in zip(sheet.parts, copy.outcomes, strict=True)
        )
        self.assertFalse(may_change_layout(sheet, only_pictures))
        proof = prove(
            source, Source(path=self.folder / "b.docx"), sheet, only_pictures, lays_out=True
        )
        self.assertEqual(proof.pages, ())
        self.assertTrue(any("not laid out" in remark for remark in proof.remarks))

    def test_a_paragraph_that_is_gone_is_seen(self) -> None:
        source = docx_samples.handbook(self.folder / "a.docx")
        shutil.copy(source.path, self.folder / "b.docx")
        broken = rewritten(
            Source(path=self.folder / "b.docx"),
            {"word/document.xml": lambda xml: xml.replace(b"Round 7:", b"Round 8:")},
        )
        told = compare_laid_out(source, broken, weigh(source), no_progress)
        self.assertTrue(any("text" in fault for page in told.pages for fault in page.faults))

    def test_laid_out_its_pages_show_the_words(self) -> None:
        source = docx_samples.handbook(self.folder / "a.docx")
        laid_out = OfficeSuite().lay_out([(source.path, ".docx")], self.folder)
        assert laid_out is not None
        document = pypdfium2.PdfDocument(laid_out[0])
        text = document[0].get_textpage().get_text_bounded()
        self.assertIn("Nets at the north reed bed", text)
