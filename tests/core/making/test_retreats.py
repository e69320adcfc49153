"""What a copy goes back to where its pages fail the proof."""

import numpy as np

from lighten import (
    Action,
    Copy,
    PartException,
    PictureTreatment,
    Proof,
    Source,
    Verdict,
    WeightSheet,
    make_proved_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from tests.builders import FolderCase, PdfBuilder, Show, landscape, text_page


class Retreats(FolderCase):
    """A page of grain, which no coarse copy can show, beside pages that are no trouble."""

    def setUp(self) -> None:
        super().setUp()
        grain = np.random.default_rng(5).integers(96, 160, (900, 900), np.uint8)
        builder = PdfBuilder().flate("Grain", grain).jpeg("Photo", landscape(900, 600, 1))
        builder.page(content=text_page("Contents"))
        builder.page(Show("Grain", (216, 0, 0, 216, 72, 400)), content=text_page("Sand"))
        builder.page(Show("Photo", (216, 0, 0, 144, 72, 400)), content=text_page("Fen"))
        self.source = Source(path=builder.save(self.folder / "a.pdf"))

    def lighten(self) -> tuple[WeightSheet, Copy, Proof]:
        """By Feather, the grain so coarsely that it is lost."""
        sheet = weigh(self.source)
        grain = next(part.id for part in sheet.parts if part.picture)
        lost = PartException(treatment=PictureTreatment(finest_ppi=12, quality=5))
        decided = plan(sheet, preset_named("feather"), exceptions={grain: lost})
        copy, proof = make_proved_copy(self.source, sheet, decided, self.folder / "b.pdf")
        assert proof is not None
        return sheet, copy, proof

    def test_a_lost_picture_is_coded_finely_and_the_others_as_planned(self) -> None:
        sheet, copy, proof = self.lighten()
        self.assertIsNot(proof.verdict, Verdict.CHECK)
        grain, photo = [
            outcome
            for part, outcome in zip(sheet.parts, copy.outcomes, strict=True)
            if part.picture
        ]
        self.assertIn("failed the proof", grain.reason)
        self.assertIn(grain.action, (Action.RECODE, Action.KEEP))
        self.assertLessEqual(grain.bytes_after, grain.bytes_before)
        self.assertIs(photo.action, Action.RESAMPLE)

    def test_pages_not_drawn_again_are_proved_as_if_they_were(self) -> None:
        sheet, copy, proof = self.lighten()
        assert copy.path is not None
        whole = prove(self.source, Source(path=copy.path), sheet, copy.outcomes)
        self.assertEqual([page.page for page in proof.pages], [1, 2, 3])
        self.assertEqual(
            [(page.likeness, page.faults) for page in proof.pages],
            [(page.likeness, page.faults) for page in whole.pages],
        )
