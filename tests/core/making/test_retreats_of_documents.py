"""Steps on the whole document that are undone where a proof fails, or a step of ours does."""

import os
from unittest import mock

import numpy as np
import pikepdf

from lighten import (
    Copy,
    DrawingTreatment,
    FontTreatment,
    Preset,
    Proof,
    Source,
    Treatment,
    Verdict,
    make_proved_copy,
    plan,
    weigh,
)
from tests.builders import FolderCase
from tests.core.formats.pdf.fonts.test_fonts import simple_font


class OfDocuments(FolderCase):
    """A page of pen strokes with pressure, and words in a font that comes with it."""

    def setUp(self) -> None:
        super().setUp()
        pdf = pikepdf.new()
        pdf.add_blank_page(page_size=(595, 842))
        page = pdf.pages[0].obj
        font = pdf.make_indirect(simple_font(pdf))
        page.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=font))
        page.Contents = pdf.make_stream(b"BT /F 14 Tf 60 800 Td (Harrow Fen) Tj ET\n" + _strokes())
        self.source = Source(path=self.folder / "a.pdf")
        pdf.save(self.source.path)

    def lighten(self, treatment: Treatment) -> tuple[Copy, Proof]:
        sheet = weigh(self.source)
        preset = Preset(name="own", title="Own", description="", treatment=treatment)
        copy, proof = make_proved_copy(
            self.source, sheet, plan(sheet, preset), self.folder / "b.pdf"
        )
        assert proof is not None, copy.reasons
        return copy, proof

    def test_strokes_stay_simplified_where_only_their_width_fails(self) -> None:
        """Thick outlines as lines of one width look different; with fewer points they do not."""
        drawing = DrawingTreatment(tolerance_pt=0.1, constant_width=True)
        copy, proof = self.lighten(Treatment(drawing=drawing))
        self.assertIs(proof.verdict, Verdict.SAME, proof.reasons)
        drawn = next(one for one in copy.outcomes if one.part_id == "drawing")
        self.assertLess(drawn.bytes_after, 0.7 * drawn.bytes_before)

    def test_a_step_of_ours_that_fails_is_left_out_and_the_copy_is_made(self) -> None:
        broken = mock.patch(
            "lighten.formats.pdf.edit.simplify_strokes", side_effect=KeyError("cmap")
        )
        lenient = mock.patch.dict(os.environ, {"GREEN_SATCHEL_STRICT": ""})
        wanted = Treatment(
            fonts=FontTreatment(subset=True), drawing=DrawingTreatment(tolerance_pt=0.1)
        )

        def fail_once(pdf: pikepdf.Pdf, drawing: DrawingTreatment) -> int:
            if drawing.tolerance_pt is not None:
                raise KeyError("cmap")
            return 0

        with lenient, broken as step, self.assertLogs("lighten.making", "ERROR") as logged:
            step.side_effect = fail_once
            copy, proof = self.lighten(wanted)
        self.assertIs(proof.verdict, Verdict.SAME)
        self.assertLess(copy.bytes_after, copy.bytes_before)
        self.assertIn("KeyError", logged.output[0])

    def test_of_documents_in_tests_it_fails(self) -> None:
        broken = mock.patch(
            "lighten.formats.pdf.edit.simplify_strokes", side_effect=KeyError("cmap")
        )
        with broken, self.assertRaises(KeyError):
            self.lighten(Treatment(drawing=DrawingTreatment(tolerance_pt=0.1)))


def _strokes() -> bytes:
    """Outlines of strokes, an inch wide in their middle and hardly anything at their ends."""
    lines = ["0.1 0.1 0.4 rg"]
    for row in range(9):
        across = np.arange(0, 400, 0.6)
        high = 740 - 80 * row + 5 * np.sin(across / 9 + row)
        half = 38 * np.sin(np.pi * across / 400) + 0.05
        there = list(zip(60 + across, high + half, strict=True))
        points = there + list(zip(60 + across, high - half, strict=True))[::-1]
        lines += [f"{x:.5f} {y:.5f} {'l' if n else 'm'}" for n, (x, y) in enumerate(points)]
        lines.append("f")
    return "\n".join(lines).encode()
