"""One picture as several settings would leave it."""

import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import reportlab
from PIL import Image, ImageCms, ImageDraw, ImageFont
from skimage import data

from benchmarks.looks import ssimulacra2
from lighten import (
    Decision,
    PictureCoding,
    PictureTreatment,
    Source,
    make_copy,
    plan,
    preset_named,
    weigh,
)
from lighten.making.strips import Strip, make_strips, write_strip
from lighten.model.plans import Action
from lighten.model.treatments import ColourChange
from lighten.pictures.pixels.upright import upright, upright_box
from tests.builders import FolderCase, PdfBuilder, Show

# A free font that the registry package reportlab carries.
_FONT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
_LINE = "Path closed April to July, ask at the station"
_KEPT = Decision(part_id="", action=Action.KEEP, reason="kept: exempted")


def sign(lines: int = 12) -> Image.Image:
    """Small print on a photo's ground, 1000 x 700 pixels; letters of 13 pixels."""
    picture = Image.new("RGB", (1000, 700), (214, 226, 208))
    draw, font = ImageDraw.Draw(picture), ImageFont.truetype(_FONT, 13)
    for line in range(lines):
        draw.text(
            (40, 40 + 50 * line), "Path closed April to July, ask at the station", "black", font
        )
    return picture


class StripsCase(FolderCase):
    def strips(self, source: Source, *treatments: PictureTreatment | None) -> list[Strip]:
        """The heaviest picture as it is for None, and by each treatment at 60 ppi."""
        sheet = weigh(source)
        part = max((one for one in sheet.parts if one.picture), key=lambda one: one.size_bytes)
        own = plan(sheet, preset_named("Feather")).by_part()[part.id]
        return list(
            make_strips(
                source,
                sheet,
                part.id,
                [
                    replace(_KEPT, part_id=part.id)
                    if treatment is None
                    else replace(own, picture=treatment)
                    for treatment in treatments
                ],
            )
        )


class StripsOfPdfs(StripsCase):
    def test_a_strip_weighs_and_looks_what_the_copy_does(self) -> None:
        builder = PdfBuilder().jpeg("A", data.astronaut(), 95)
        source = Source(
            path=builder.page(Show("A", (120, 0, 0, 120, 0, 0))).save(self.folder / "a.pdf")
        )
        sheet = weigh(source)
        (part,) = (one for one in sheet.parts if one.picture)
        chosen = plan(sheet, preset_named("Post"))
        (strip,) = make_strips(source, sheet, part.id, [chosen.by_part()[part.id]])
        copy = make_copy(source, sheet, chosen, self.folder / "copy.pdf")
        (outcome,) = (one for one in copy.outcomes if one.part_id == part.id)
        self.assertEqual(strip.size_bytes, outcome.bytes_after)
        self.assertEqual(strip.action, outcome.action)
        assert strip.ppi is not None and strip.score is not None
        self.assertAlmostEqual(strip.ppi, strip.pixels.shape[1] / 120 * 72, delta=0.1)
        shown = (167, 167)  # 120 pt at 100 ppi
        before, after = (
            Image.fromarray(pixels).resize(shown, Image.Resampling.BICUBIC)
            for pixels in (data.astronaut(), strip.pixels)
        )
        self.assertAlmostEqual(strip.score, ssimulacra2(before, after), delta=5)

    def test_the_original_stands_among_them_unchanged(self) -> None:
        builder = PdfBuilder().flate("A", data.astronaut())
        builder.page(Show("A", (120, 0, 0, 120, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        kept, grey = self.strips(
            source, None, PictureTreatment(quality=60, colour=ColourChange.GREY)
        )
        self.assertTrue(np.array_equal(kept.pixels, data.astronaut()))
        self.assertEqual((kept.score, kept.reason), (100.0, "kept: exempted"))
        self.assertLess(grey.size_bytes, kept.size_bytes)
        assert grey.score is not None
        # A grey copy is judged by its light alone.
        self.assertGreater(grey.score, 40)

    def test_words_that_get_lost_are_counted_and_placed(self) -> None:
        builder = PdfBuilder().flate("A", np.asarray(sign()))
        builder.page(Show("A", (300, 0, 0, 210, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        coarse = PictureTreatment(
            quality=40, keeps_words=False, coding=PictureCoding.JPEG, finest_ppi=60
        )
        kept, lost = self.strips(source, None, coarse)
        self.assertEqual(kept.lost, ())
        self.assertGreater(len(lost.lost), 8)
        self.assertLessEqual(len(lost.lost), lost.words)
        left, top, right, low = lost.lost[0]
        self.assertTrue(0 <= left < right <= 1 and 0 <= top < low <= 1)

    def test_filters_and_colours_of_choice_have_no_score(self) -> None:
        builder = PdfBuilder().jpeg("A", data.astronaut(), 95)
        builder.page(Show("A", (120, 0, 0, 120, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        (bitonal,) = self.strips(source, PictureTreatment(quality=60, colour=ColourChange.BITONAL))
        self.assertIsNone(bitonal.score)
        self.assertEqual(len(np.unique(bitonal.pixels)), 2)


class StripsOfPictures(StripsCase):
    def test_a_photo_is_shown_upright_as_readers_show_it(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6  # as cameras held upright declare it (Exif 2.32, table 4)
        path = self.folder / "photo.jpg"
        Image.fromarray(data.coffee()).save(path, quality=95, exif=exif)
        kept, light = self.strips(Source(path=path), None, PictureTreatment(quality=60))
        self.assertEqual(kept.pixels.shape[:2], (600, 400))
        self.assertGreater(light.pixels.shape[0], light.pixels.shape[1])

    def test_a_picture_in_another_colour_space_keeps_its_score(self) -> None:
        """A profile that a copy leaves by conversion is no loss."""
        path = self.folder / "photo.jpg"
        Image.fromarray(data.coffee()).save(path, quality=95, icc_profile=_other_profile())
        (light,) = self.strips(Source(path=path), PictureTreatment(quality=80))
        assert light.score is not None
        self.assertGreater(light.score, 60)


class StripFiles(StripsCase):
    def test_a_small_strip_is_written_exactly(self) -> None:
        path = self.folder / "photo.png"
        Image.fromarray(data.coffee()).save(path)
        (kept,) = self.strips(Source(path=path), None)
        self.assertEqual(write_strip(kept, self.folder / "strip"), "image/png")
        with Image.open(self.folder / "strip") as image:
            self.assertTrue(np.array_equal(np.asarray(image), data.coffee()))

    def test_a_large_strip_is_written_as_a_fine_jpeg(self) -> None:
        large = np.tile(data.coffee(), (4, 5, 1))
        strip = Strip(
            action=Action.KEEP,
            reason="",
            pixels=large,
            size_bytes=1,
            ppi=None,
            quality=None,
            score=None,
        )
        self.assertEqual(write_strip(strip, self.folder / "strip"), "image/jpeg")
        written = io.BytesIO((self.folder / "strip").read_bytes())
        with Image.open(written) as image:
            self.assertLess(np.abs(np.asarray(image, np.int16) - large).mean(), 2)


class UprightBoxes(FolderCase):
    def test_a_box_turns_as_the_pixels_do(self) -> None:
        for orientation in range(1, 9):
            pixels = np.zeros((40, 60), np.uint8)
            pixels[4:12, 6:24] = 255
            turned = upright(pixels, orientation)
            rows, columns = np.nonzero(turned)
            height, width = turned.shape
            found = (
                columns.min() / width,
                rows.min() / height,
                (columns.max() + 1) / width,
                (rows.max() + 1) / height,
            )
            box = upright_box((6 / 60, 4 / 40, 24 / 60, 12 / 40), orientation)
            for one, other in zip(found, box, strict=True):
                self.assertAlmostEqual(one, other)


def _other_profile() -> bytes:
    """Return sRGB with another gamma, as a colour space of its own."""
    profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    # The three curves share their tag's data (ICC.1:2022, 10.18, parametric curve, gamma first).
    at = profile.find(b"para")
    profile[at + 12 : at + 16] = (int(1.6 * 65536)).to_bytes(4, "big")
    return bytes(profile)
