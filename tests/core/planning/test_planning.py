"""Plans and estimates, from weight sheets alone."""

import unittest

from lighten import PRESETS, Action, estimate, plan, preset_named
from lighten.weights import (
    ExtraKind,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    Placement,
    WeightSheet,
)


def sheet_with(**changes: object) -> WeightSheet:
    """One 900 x 600 picture shown 3 in wide (300 ppi), and some extras."""
    facts = {
        "width_px": 900,
        "height_px": 600,
        "coding": "DCT",
        "colour": "DeviceRGB",
        "bits": 8,
        "picture_class": PictureClass.PHOTO,
        "placements": (Placement(page=1, width_pt=216, height_pt=144, box=(0, 0, 216, 144)),),
        **changes,
    }
    parts = (
        Part(
            id="picture:1-0",
            kind=PartKind.PICTURE,
            size_bytes=300_000,
            name="Picture 1",
            picture=PictureFacts(**facts),  # type: ignore[arg-type]
        ),
        Part(
            id="extra:thumbnails",
            kind=PartKind.EXTRA,
            size_bytes=5000,
            name="Thumbnails",
            extra=ExtraKind.THUMBNAILS,
        ),
        Part(id="structure", kind=PartKind.STRUCTURE, size_bytes=1000, name="Structure"),
    )
    return WeightSheet(format="pdf", size_bytes=306_000, pages=1, parts=parts)


class Plans(unittest.TestCase):
    def test_decide_every_part_with_a_reason(self) -> None:
        sheet = sheet_with()
        for preset in PRESETS:
            decisions = plan(sheet, preset).decisions
            self.assertEqual([d.part_id for d in decisions], [p.id for p in sheet.parts])
            self.assertTrue(all(decision.reason for decision in decisions))

    def test_resample_what_is_finer_than_the_preset(self) -> None:
        decision = plan(sheet_with(), preset_named("Reading desk")).decisions[0]
        self.assertIs(decision.action, Action.RESAMPLE)
        self.assertEqual(decision.target_px, (450, 300))
        self.assertEqual(decision.reason, "300 to 150 ppi")

    def test_keep_the_pixels_of_what_is_coarse_already(self) -> None:
        decision = plan(sheet_with(width_px=300, height_px=200), preset_named("post")).decisions[0]
        self.assertIs(decision.action, Action.RECODE)
        self.assertIn("100 ppi already", decision.reason)

    def test_without_loss_leave_jpeg_alone(self) -> None:
        decision = plan(sheet_with(), preset_named("As it was")).decisions[0]
        self.assertIs(decision.action, Action.KEEP)

    def test_leave_two_tone_pictures_their_pixels(self) -> None:
        sheet = sheet_with(picture_class=PictureClass.TWO_TONE, coding="Flate", bits=1)
        decision = plan(sheet, preset_named("post")).decisions[0]
        assert decision.picture is not None
        self.assertEqual((decision.picture.quality, decision.target_px), (None, None))

    def test_drop_thumbnails_but_where_nothing_may_change(self) -> None:
        keeping = [
            preset.name
            for preset in PRESETS
            if plan(sheet_with(), preset).decisions[1].action is Action.KEEP
        ]
        self.assertEqual(keeping, ["as-it-was"])


class Estimates(unittest.TestCase):
    def test_are_lighter_the_less_gentle_the_preset(self) -> None:
        sheet = sheet_with()
        sizes = [
            estimate(sheet, plan(sheet, preset)).size_bytes
            for preset in PRESETS
            if preset.name != "record-office"
        ]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertLessEqual(sizes[0], sheet.size_bytes)

    def test_have_a_band_around_them(self) -> None:
        found = estimate(sheet_with(), plan(sheet_with(), PRESETS[1]))
        self.assertTrue(found.low_bytes < found.size_bytes < found.high_bytes)


class Presets(unittest.TestCase):
    def test_are_found_by_name_and_title(self) -> None:
        self.assertIs(preset_named("reading-desk"), preset_named(" Reading Desk "))

    def test_unknown_ones_are_a_key_error(self) -> None:
        with self.assertRaises(KeyError):
            preset_named("no such thing")


class Sheets(unittest.TestCase):
    def test_that_do_not_add_up_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            WeightSheet(format="pdf", size_bytes=5, pages=1, parts=())
