"""Pages that are in layers already, and pages that a limit may lay apart."""

import unittest
from dataclasses import replace

from lighten.model.kinds import PartKind, PictureClass, PictureCoding
from lighten.model.weights import Part, PictureFacts, Placement, WeightSheet
from lighten.planning.layered_pages import in_layers_already
from lighten.planning.sample_decisions import layers_decision, may_be_layers

_BOX = (0.0, 0.0, 595.0, 842.0)


def shown(name: str, picture_class: PictureClass, box=_BOX, mask: str = "", page: int = 1) -> Part:  # type: ignore[no-untyped-def] # a box
    place = Placement(width_pt=box[2] - box[0], height_pt=box[3] - box[1], page=page, box=box)
    facts = PictureFacts(
        width_px=2480,
        height_px=3508,
        coding="DCT",
        colour="DeviceRGB",
        bits=8,
        is_lossy=True,
        mask=mask,
        picture_class=picture_class,
        placements=(place,),
    )
    return Part(id=name, kind=PartKind.PICTURE, size_bytes=1000, name=name, picture=facts)


def sheet(*parts: Part, format_name: str = "pdf") -> WeightSheet:
    return WeightSheet(
        format=format_name,
        media_type="application/pdf",
        size_bytes=1000 * len(parts),
        pages=2,
        parts=parts,
    )


class Already(unittest.TestCase):
    def test_paper_under_strokes_is_in_layers(self) -> None:
        paper = shown("paper", PictureClass.PAGE_SCAN)
        for over in (
            shown("strokes", PictureClass.MASK),
            shown("colours", PictureClass.PHOTO, mask="soft"),
        ):
            self.assertIn("paper", in_layers_already(sheet(paper, over)))

    def test_a_small_mark_or_another_page_makes_no_layers(self) -> None:
        paper = shown("paper", PictureClass.PAGE_SCAN)
        mark = shown("mark", PictureClass.MASK, box=(10.0, 10.0, 90.0, 60.0))
        elsewhere = shown("strokes", PictureClass.MASK, page=2)
        self.assertEqual(in_layers_already(sheet(paper, mark, elsewhere)), frozenset())


class Choice(unittest.TestCase):
    def test_choice_is_for_scanned_pages_of_formats_that_hold_layers(self) -> None:
        page = shown("page", PictureClass.PAGE_SCAN)
        photo = shown("photo", PictureClass.PHOTO)
        assert page.picture is not None and photo.picture is not None
        self.assertTrue(may_be_layers(sheet(page), page.picture))
        self.assertFalse(may_be_layers(sheet(photo), photo.picture))
        self.assertFalse(may_be_layers(sheet(page, format_name="docx"), page.picture))
        masked = replace(page.picture, mask="soft")
        self.assertFalse(may_be_layers(sheet(page), masked))

    def test_choice_keeps_a_way_back_that_text_can_be_read_in(self) -> None:
        page = shown("page", PictureClass.PAGE_SCAN)
        assert page.picture is not None
        decision = layers_decision(page, page.picture)
        assert decision.picture is not None
        self.assertIs(decision.picture.coding, PictureCoding.LAYERS)
        self.assertEqual(decision.target_px, (1240, 1755))
