"""Plans and estimates, from weight sheets alone."""

import unittest
from dataclasses import replace

from lighten import (
    PRESETS,
    Action,
    ColourChange,
    Decision,
    FontTreatment,
    PartException,
    PictureCoding,
    PictureTreatment,
    Treatment,
    estimate,
    plan,
    preset_named,
    sheet_estimates,
)
from lighten.model.kinds import ExtraKind, PartKind, PictureClass
from lighten.model.sheet_facts import SheetFacts, column_letters, column_number
from lighten.model.weights import Part, PictureFacts, Placement, Rules, WeightSheet


def archive_rules(standard: str) -> Rules:
    """As a PDF of that archive level has them: part 1 keeps fonts whole, and has no JPEG 2000."""
    is_part_1 = standard.startswith("PDF/A-1")
    return Rules(
        standard=standard,
        keeps_fonts_whole=is_part_1,
        keeps_fonts_embedded=True,
        forbidden_codings=frozenset({PictureCoding.JPEG_2000} if is_part_1 else ()),
        needed_extras=frozenset({ExtraKind.METADATA}),
    )


def sheet_with(**changes: object) -> WeightSheet:
    """One 900 x 600 picture shown 3 in wide (300 ppi), and some extras."""
    facts = {
        "width_px": 900,
        "height_px": 600,
        "coding": "DCT",
        "is_lossy": True,
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
    return WeightSheet(
        format="pdf", media_type="application/pdf", size_bytes=306_000, pages=1, parts=parts
    )


class Plans(unittest.TestCase):
    def test_plans_decide_every_part_with_a_reason(self) -> None:
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

    def test_plans_keep_the_pixels_of_what_is_coarse_already(self) -> None:
        decision = plan(sheet_with(width_px=300, height_px=200), preset_named("post")).decisions[0]
        self.assertIs(decision.action, Action.RECODE)
        self.assertIn("100 ppi already", decision.reason)

    def test_plans_without_loss_leave_jpeg_alone(self) -> None:
        decision = plan(sheet_with(), preset_named("As it was")).decisions[0]
        self.assertIs(decision.action, Action.KEEP)

    def test_plans_leave_bitonal_pictures_their_pixels(self) -> None:
        sheet = sheet_with(
            picture_class=PictureClass.BITONAL, coding="Flate", is_lossy=False, bits=1
        )
        decision = plan(sheet, preset_named("post")).decisions[0]
        assert decision.picture is not None
        self.assertEqual((decision.picture.quality, decision.target_px), (None, None))

    def test_plans_drop_thumbnails_but_where_nothing_may_change(self) -> None:
        keeping = [
            preset.name
            for preset in PRESETS
            if plan(sheet_with(), preset).decisions[1].action is Action.KEEP
        ]
        self.assertEqual(keeping, ["as-it-was"])


class Estimates(unittest.TestCase):
    def test_estimates_are_lighter_the_less_gentle_the_preset(self) -> None:
        sheet = sheet_with()
        sizes = [
            estimate(sheet, plan(sheet, preset)).size_bytes
            for preset in PRESETS
            if preset.name not in ("record-office", "scan-stack", "data-sheets")
        ]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertLessEqual(sizes[0], sheet.size_bytes)

    def test_estimates_have_a_band_around_them(self) -> None:
        found = estimate(sheet_with(), plan(sheet_with(), PRESETS[1]))
        self.assertTrue(found.low_bytes < found.size_bytes < found.high_bytes)


class Presets(unittest.TestCase):
    def test_presets_are_found_by_name_and_title(self) -> None:
        self.assertIs(preset_named("reading-desk"), preset_named(" Reading Desk "))

    def test_unknown_ones_are_a_key_error(self) -> None:
        with self.assertRaises(KeyError):
            preset_named("no such thing")


class Sheets(unittest.TestCase):
    def test_sheets_that_do_not_add_up_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            WeightSheet(format="pdf", media_type="application/pdf", size_bytes=5, pages=1, parts=())


class Archives(unittest.TestCase):
    """ISO 19005-1: all fonts embedded (6.3.4), subsets listed (6.3.5), no JPEG 2000 (PDF 1.4)."""

    def test_a_level_1_file_keeps_its_fonts_and_says_so(self) -> None:
        sheet = replace(sheet_with(), rules=archive_rules("PDF/A-1b"))
        decided = plan(sheet, preset_named("post"))
        self.assertFalse(decided.fonts.subset)
        self.assertIn("PDF/A-1b", decided.warnings[0])

    def test_a_level_2_file_may_have_subsets_and_keeps_its_description(self) -> None:
        sheet = replace(sheet_with(), rules=archive_rules("PDF/A-2b"))
        wanted = replace(
            preset_named("post").treatment,
            fonts=FontTreatment(subset=True, drops_standard=True),
        )
        preset = replace(preset_named("post"), treatment=wanted)
        decided = plan(sheet, preset)
        self.assertEqual(decided.fonts, FontTreatment(subset=True))

    def test_jbig2_is_not_for_level_1(self) -> None:
        """Archives ask for Group 4 there (common practice, no source)."""
        self.assertFalse(archive_rules("PDF/A-1b").allows_jbig2)
        self.assertTrue(archive_rules("PDF/A-2b").allows_jbig2)
        self.assertTrue(Rules().allows_jbig2)

    def test_jpeg_2000_gives_way_in_level_1(self) -> None:
        sheet = replace(sheet_with(), rules=archive_rules("PDF/A-1b"))
        wanted = PictureTreatment(coding=PictureCoding.JPEG_2000, quality=70)
        treatment = Treatment(pictures={PictureClass.PHOTO: wanted})
        preset = replace(preset_named("post"), treatment=treatment)
        decision = plan(sheet, preset).decisions[0]
        assert decision.picture is not None
        self.assertIs(decision.picture.coding, PictureCoding.AUTOMATIC)


class Treatments(unittest.TestCase):
    def decide(self, wanted: PictureTreatment, **facts: object) -> Decision:
        treatment = Treatment(pictures=dict.fromkeys(PictureClass, wanted))
        preset = replace(preset_named("post"), treatment=treatment)
        return plan(sheet_with(**facts), preset).decisions[0]

    def test_text_held_as_a_picture_is_not_made_unreadable(self) -> None:
        """Text below about 120 ppi is unreadable (common practice, no source)."""
        coarse = PictureTreatment(finest_ppi=72, quality=60)
        decision = self.decide(coarse, picture_class=PictureClass.PAGE_SCAN)
        self.assertEqual(decision.target_px, (360, 240))  # 3 x 2 in at 120 ppi

    def test_bounds_hold_and_nothing_grows(self) -> None:
        cases = (
            (PictureTreatment(scale_percent=50, quality=80), (450, 300)),
            (PictureTreatment(largest_px=300, quality=80), (300, 200)),
            (PictureTreatment(finest_ppi=30, smallest_px=450, quality=80), (450, 300)),
            (PictureTreatment(finest_ppi=30, smallest_px=5000, quality=80), None),
            (PictureTreatment(finest_ppi=150, above_ppi=400, quality=80), None),
        )
        for wanted, expected in cases:
            with self.subTest(wanted=wanted):
                self.assertEqual(self.decide(wanted).target_px, expected)

    def test_cropped_pictures_are_cut_with_a_margin(self) -> None:
        wanted = PictureTreatment(quality=80, cuts_hidden=True)
        cut = self.decide(wanted, visible=(0.25, 0.25, 0.75, 0.75)).cut
        assert cut is not None
        self.assertTrue(cut[0] < 0.25 and cut[1] < 0.25 and cut[2] > 0.75 and cut[3] > 0.75)
        self.assertIsNone(self.decide(wanted, visible=(0.0, 0.0, 1.0, 0.99)).cut)

    def test_exceptions_come_before_the_class(self) -> None:
        own = PictureTreatment(quality=95)
        exceptions = {"picture:1-0": PartException(treatment=own)}
        decided = plan(sheet_with(), preset_named("feather"), exceptions=exceptions)
        self.assertEqual(decided.decisions[0].picture, own)
        self.assertIsNone(decided.decisions[0].target_px)

    def test_bitonal_for_photos_has_a_warning(self) -> None:
        treatment = Treatment(
            pictures={PictureClass.PHOTO: PictureTreatment(colour=ColourChange.BITONAL)}
        )
        decided = plan(sheet_with(), replace(preset_named("post"), treatment=treatment))
        self.assertTrue(any("Black and white" in warning for warning in decided.warnings))


class SheetsOfWorkbooks(unittest.TestCase):
    FACTS = SheetFacts(
        claimed="XFD1048576",
        last_row=3,
        last_column=2,
        any_row=9,
        any_column=4,
        cells=6,
        blanks=0,
        stored_bytes=1000,
        spelling_bytes=200,
        places_bytes=300,
    )

    def test_sheets_of_workbooks_go_as_far_as_they_say_or_as_they_do(self) -> None:
        """Last cell of a sheet: XFD1048576 (ECMA-376 part 1, 18.3.1.4 and its limits)."""
        self.assertEqual(self.FACTS.claimed_extent, (1_048_576, 16_384))
        self.assertEqual(replace(self.FACTS, claimed="B3").claimed_extent, (9, 4))
        self.assertEqual(replace(self.FACTS, claimed="").claimed_extent, (9, 4))
        self.assertEqual([column_number(column_letters(n)) for n in (1, 26, 27)], [1, 26, 27])

    def test_sheets_of_workbooks_take_what_is_left_of_their_cells_and_of_extras_within(
        self,
    ) -> None:
        cells = Part(
            id="cells:1", kind=PartKind.CELLS, size_bytes=500, name="Ringing", sheet=self.FACTS
        )
        spelling = Part(
            id="extra:cell-spelling",
            kind=PartKind.EXTRA,
            size_bytes=200,
            name="Spelling",
            extra=ExtraKind.CELL_SPELLING,
        )
        sheet = replace(sheet_with(), size_bytes=700, parts=(cells, spelling))
        kept = plan(sheet, preset_named("record-office"))
        self.assertEqual(sheet_estimates(sheet, kept, {"cells:1": 500}), {"cells:1": 1000})
        dropped = plan(sheet, preset_named("post"))
        self.assertEqual(sheet_estimates(sheet, dropped, {"cells:1": 250}), {"cells:1": 400})
