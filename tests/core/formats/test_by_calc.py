"""Copies of workbooks as LibreOffice Calc reads them, beside their originals."""

import shutil
import unittest
from dataclasses import replace
from pathlib import Path

from lighten import ExtraKind, Order, Verdict, make, preset_named, weigh
from lighten.office_suite import OfficeSuite
from tests.builders import FolderCase
from tests.core.formats.ods import samples as ods_samples
from tests.core.formats.xlsx import samples as xlsx_samples

_CHOSEN = (ExtraKind.PAST_FORMATS, ExtraKind.CELL_PLACES, ExtraKind.STRAY_NAMES)


@unittest.skipUnless(shutil.which("soffice"), "no office suite is installed here")
class ByCalc(FolderCase):
    def test_cells_show_what_they_showed(self) -> None:
        preset = preset_named("reading-desk")
        dropped = preset.treatment.dropped_extras | set(_CHOSEN)
        treatment = replace(preset.treatment, dropped_extras=dropped)
        documents: list[tuple[Path, str]] = []
        for sample, ending in ((xlsx_samples.ledger, ".xlsx"), (ods_samples.ledger, ".ods")):
            source = sample(self.folder / f"a{ending}")
            out = self.folder / f"b{ending}"
            order = Order(preset=replace(preset, treatment=treatment))
            made = make(source, weigh(source), order, out)
            assert made.proof is not None and made.copy.path is not None
            self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)
            documents += [(source.path, ending), (out, ending)]
        texts = self.as_text(documents)
        self.assertEqual(texts[0], texts[1])
        self.assertEqual(texts[2], texts[3])
        self.assertTrue(all(len(text.split()) > 5 for text in texts))

    def as_text(self, documents: list[tuple[Path, str]]) -> list[str]:
        """Return the first sheet of each file as text."""
        made = OfficeSuite().convert(documents, "csv", self.folder)
        assert made is not None
        return [path.read_text() for path in made]
