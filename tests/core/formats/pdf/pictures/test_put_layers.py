"""A page in layers, as two independent readers show it: poppler and pdfium."""

import subprocess
from dataclasses import replace

import numpy as np
import pikepdf
from PIL import Image, ImageDraw

from lighten import Source, make_copy, plan, preset_named, prove, prove_any_two, weigh
from lighten.model.plans import Action
from tests.builders import FolderCase, PdfBuilder, Show
from tests.core.pictures.scans.pages import PPI, print_page, scanned

_MM = PPI / 25.4
_SIDES_PT = 255.0, 170.0


def two_inks() -> np.ndarray:
    image = Image.fromarray(print_page())
    pen = ImageDraw.Draw(image)
    pen.line((10 * _MM, 30 * _MM, 70 * _MM, 31 * _MM), fill=(200, 30, 35), width=8)
    return scanned(np.asarray(image))


class Layers(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        builder = PdfBuilder().jpeg("Scan", two_inks(), 92)
        builder.page(
            Show("Scan", (_SIDES_PT[0], 0, 0, _SIDES_PT[1], 0, 0)),
            size=_SIDES_PT,
            content=b"BT 3 Tr /F1 10 Tf 20 140 Td (Ringed at the fen) Tj ET\n",
        )
        self.source = Source(path=builder.save(self.folder / "scan.pdf"))
        self.sheet = weigh(self.source)

    def copy(self, preset: str = "scan-stack"):  # type: ignore[no-untyped-def] # a copy out
        out = self.folder / "copy.pdf"
        out.unlink(missing_ok=True)
        return make_copy(self.source, self.sheet, plan(self.sheet, preset_named(preset)), out)

    def seen_by_poppler(self, name: str) -> np.ndarray:
        command = ["pdftoppm", "-r", "150", "-png", "-singlefile", name, name + "-seen"]
        subprocess.run(command, cwd=self.folder, check=True, capture_output=True)
        return np.asarray(Image.open(self.folder / f"{name}-seen.png").convert("RGB")).astype(int)

    def test_layers_are_a_fraction_and_show_the_same_in_poppler_and_pdfium(self) -> None:
        copy = self.copy()
        self.assertLess(copy.bytes_after, 0.2 * copy.bytes_before)
        outcome = next(outcome for outcome in copy.outcomes if outcome.is_layered)
        self.assertIn("in layers", outcome.reason)
        before, after = (self.seen_by_poppler(name) for name in ("scan.pdf", "copy.pdf"))
        self.assertLess(float(np.abs(before - after).mean()), 4)
        red = (after[..., 0] - after[..., 1] > 90).sum()
        self.assertGreater(red, 0.6 * (before[..., 0] - before[..., 1] > 90).sum())
        proof = prove(self.source, replace(self.source, path=copy.path), self.sheet, copy.outcomes)
        self.assertEqual(proof.verdict, "close", proof.reasons)
        self.assertTrue(any("150 ppi" in remark for remark in proof.remarks))

    def test_layers_are_paper_and_a_mask_that_pdfimages_lists(self) -> None:
        self.copy()
        listed = subprocess.run(
            ["pdfimages", "-list", "copy.pdf"], cwd=self.folder, check=True, capture_output=True
        ).stdout.decode()
        self.assertIn("jbig2", listed)
        self.assertIn("stencil" if "stencil" in listed else "mask", listed)
        self.assertIn("jpeg", listed)

    def test_layers_leave_the_words_behind_the_scan_where_they_are(self) -> None:
        self.copy()
        words = [
            subprocess.run(
                ["pdftotext", "-bbox", name, "-"], cwd=self.folder, check=True, capture_output=True
            ).stdout
            for name in ("scan.pdf", "copy.pdf")
        ]
        self.assertIn(b"Ringed", words[0])
        self.assertEqual(words[0].split(b"<page")[1], words[1].split(b"<page")[1])

    def test_layers_are_not_laid_apart_again(self) -> None:
        copy = self.copy()
        layered = replace(self.source, path=copy.path)
        decisions = plan(weigh(layered), preset_named("scan-stack")).by_part()
        reasons = {
            decision.reason for decision in decisions.values() if decision.action is Action.KEEP
        }
        self.assertTrue(any("in layers already" in reason for reason in reasons), reasons)

    def test_a_lost_digit_in_them_is_found_whoever_made_them(self) -> None:
        copy = self.copy()
        layered = replace(self.source, path=copy.path)
        told = prove_any_two(self.source, layered)
        self.assertEqual(told.verdict, "close", told.reasons)
        self.assertTrue(any("150 ppi" in remark for remark in told.remarks))
        with pikepdf.open(copy.path, allow_overwriting_input=True) as pdf:
            # Paper over a word, as a wrong stencil would have it.
            page = pdf.pages[0]
            page.contents_add(b"q 0.97 0.96 0.93 rg 60 146 10 12 re f Q")
            pdf.save(copy.path)
        for told in (
            prove(self.source, layered, self.sheet, copy.outcomes),
            prove_any_two(self.source, layered),
        ):
            self.assertEqual(told.verdict, "check")
            self.assertIn("ink is missing", " ".join(told.reasons))

    def test_layers_of_an_archive_file_of_part_one_have_no_jbig2(self) -> None:
        rules = replace(self.sheet.rules, standard="PDF/A-1b")
        self.sheet = replace(self.sheet, rules=rules)
        copy = self.copy()
        with pikepdf.open(copy.path) as pdf:
            filters = {
                str(one.get("/Filter")) for one in pdf.objects if isinstance(one, pikepdf.Stream)
            }
        self.assertTrue(any(outcome.is_layered for outcome in copy.outcomes))
        self.assertNotIn("/JBIG2Decode", filters)
