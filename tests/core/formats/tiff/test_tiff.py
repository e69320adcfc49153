"""TIFF files from weighing to proof; what comes out is read by Pillow and libtiff's tools.

Source: TIFF 6.0 and its supplements.
"""

import subprocess
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageOps

from lighten import (
    Order,
    OrderResult,
    PictureClass,
    Source,
    Treatment,
    Verdict,
    make,
    preset_named,
    weigh,
)
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind, PartKind, PictureCoding
from lighten.model.plans import Action
from lighten.model.treatments import PictureTreatment
from tests.builders import FolderCase, landscape
from tests.core.formats.tiff.samples import (
    has_tools,
    lines,
    pages_of,
    private_file,
    scanned,
    variant,
    with_preview,
)

_COMPRESSION, _BITS, _DESCRIPTION, _SOFTWARE = 259, 258, 270, 305
_NONE, _GROUP_4, _JPEG, _DEFLATE = 1, 4, 7, 8


class TiffCase(FolderCase):
    def out(self) -> Path:
        """Return a path where no copy is yet."""
        return Path(tempfile.mkdtemp(dir=self.folder)) / "copy"

    def made(self, source: Source, preset: str = "as-it-was", **order: Any) -> OrderResult:
        made = make(source, weigh(source), Order(preset=preset_named(preset), **order), self.out())
        self.assertIsNotNone(made.copy.path, made.copy)
        return made

    def frames(self, path: Path) -> list[Image.Image]:
        with Image.open(path) as image:
            frames = []
            for number in range(image.n_frames):  # type: ignore[attr-defined] # of TIFF images
                image.seek(number)
                frames.append(image.copy())
            return frames

    def tags(self, path: Path, tag: int) -> list[Any]:
        with Image.open(path) as image:
            told = []
            for number in range(image.n_frames):  # type: ignore[attr-defined] # of TIFF images
                image.seek(number)
                told.append(image.tag_v2.get(tag))  # type: ignore[attr-defined]
            return told

    def assert_same_pixels(self, one: Path, other: Path) -> None:
        for mine, theirs in zip(self.frames(one), self.frames(other), strict=True):
            np.testing.assert_array_equal(
                np.asarray(ImageOps.exif_transpose(mine).convert("RGB")),
                np.asarray(ImageOps.exif_transpose(theirs).convert("RGB")),
            )


class AsItWas(TiffCase):
    def test_every_pixel_stays_and_each_page_gets_the_coding_of_its_kind(self) -> None:
        source = scanned(self.folder / "log.tif")
        made = self.made(source, "record-office")
        assert made.proof is not None and made.copy.path is not None
        self.assertIs(made.proof.verdict, Verdict.SAME)
        self.assertLess(made.copy.path.stat().st_size, source.path.stat().st_size / 2)
        self.assert_same_pixels(source.path, made.copy.path)
        codings = self.tags(made.copy.path, _COMPRESSION)
        self.assertEqual(codings, [_GROUP_4, _DEFLATE, _DEFLATE])

    def test_tags_of_a_page_stay(self) -> None:
        source = scanned(self.folder / "log.tif")
        copy = self.made(source).copy.path
        assert copy is not None
        for tag in (_DESCRIPTION, _SOFTWARE, 282, 283, 296):
            self.assertEqual(self.tags(source.path, tag), self.tags(copy, tag))
        for frame in self.frames(copy):
            self.assertEqual(frame.info["dpi"], (150, 150))
            self.assertIn("icc_profile", frame.info)

    def test_samples_of_16_bits_keep_all_of_them(self) -> None:
        grey = np.asarray(Image.fromarray(landscape(90, 60, 2)).convert("L")).astype(np.uint16)
        deep = grey * 257 + np.arange(90, dtype=np.uint16)
        source = pages_of(self.folder / "deep.tif", Image.fromarray(deep))
        copy = self.made(source).copy.path
        assert copy is not None
        (frame,) = self.frames(copy)
        np.testing.assert_array_equal(np.asarray(frame), deep)

    def test_few_colours_become_a_palette_and_an_idle_colour_grey(self) -> None:
        flat = np.zeros((200, 300, 3), np.uint8)
        flat[50:150, :100], flat[20:180, 150:250] = (200, 30, 40), (20, 90, 60)
        grey = Image.fromarray(landscape(200, 150, 3)).convert("L").convert("RGB")
        source = pages_of(self.folder / "flat.tif", Image.fromarray(flat), grey)
        copy = self.made(source).copy.path
        assert copy is not None
        self.assert_same_pixels(source.path, copy)
        self.assertEqual([frame.mode for frame in self.frames(copy)], ["P", "L"])

    def test_inks_and_what_is_see_through_are_packed_and_not_looked_through(self) -> None:
        photo = Image.fromarray(landscape(120, 80, 4))
        seen_through = photo.copy()
        seen_through.putalpha(photo.convert("L"))
        for name, image in (("inks", photo.convert("CMYK")), ("alpha", seen_through)):
            with self.subTest(name):
                source = pages_of(self.folder / f"{name}.tif", image)
                for preset in ("as-it-was", "reading-desk"):
                    copy = self.made(source, preset).copy.path
                    assert copy is not None
                    (frame,) = self.frames(copy)
                    self.assertEqual(frame.mode, image.mode)
                    np.testing.assert_array_equal(np.asarray(frame), np.asarray(image))

    @has_tools
    def test_any_libtiff_page_comes_out_pixel_by_pixel(self) -> None:
        """Strips, tiles, planes, both orders of bytes, both sizes of offsets, old codings."""
        source = scanned(self.folder / "log.tif")
        ways = {
            "strips": ("-c", "none", "-r", "7"),
            "big end first": ("-B", "-c", "lzw"),
            "big offsets": ("-8", "-c", "zip"),
            "tiles": ("-t", "-w", "64", "-l", "48", "-c", "lzw"),
            "bits from the right": ("-f", "lsb2msb", "-c", "none"),
        }
        for way, options in ways.items():
            with self.subTest(way):
                laid_out = variant(source, self.folder / f"{way}.tif", *options)
                copy = self.made(laid_out).copy.path
                assert copy is not None
                self.assert_same_pixels(source.path, copy)
                told = subprocess.run(["tiffinfo", copy], check=True, capture_output=True)
                self.assertEqual(told.stderr, b"", way)

    @has_tools
    def test_planes_and_differences_come_out_pixel_by_pixel(self) -> None:
        photo = Image.fromarray(landscape(150, 100, 3))
        source = pages_of(self.folder / "photo.tif", photo)
        for options in (("-p", "separate", "-c", "packbits"), ("-c", "lzw:2"), ("-c", "zip:2")):
            with self.subTest(options):
                laid_out = variant(source, self.folder / "laid-out.tif", *options)
                copy = self.made(laid_out).copy.path
                assert copy is not None
                self.assert_same_pixels(source.path, copy)

    @has_tools
    def test_deep_samples_of_either_order_stay(self) -> None:
        deep = (np.arange(60 * 90, dtype=np.uint16) * 11).reshape(60, 90)
        source = pages_of(self.folder / "deep.tif", Image.fromarray(deep))
        other_order = variant(source, self.folder / "big.tif", "-B", "-c", "none")
        copy = self.made(other_order).copy.path
        assert copy is not None
        self.assertEqual(copy.read_bytes()[:2], b"MM")
        np.testing.assert_array_equal(np.asarray(self.frames(copy)[0]), deep)

    @has_tools
    def test_group_3_becomes_group_4(self) -> None:
        source = pages_of(self.folder / "page.tif", lines())
        for number, coding in enumerate(("g3:1d", "g3:2d", "g3:fill")):
            with self.subTest(coding):
                fax = variant(source, self.folder / f"fax-{number}.tif", "-c", coding, "-r", "64")
                copy = self.made(fax, "record-office").copy.path
                assert copy is not None
                self.assert_same_pixels(source.path, copy)
                self.assertEqual(self.tags(copy, _COMPRESSION), [_GROUP_4])

    @settings(max_examples=12, deadline=None)
    @given(
        width=st.integers(1, 70),
        height=st.integers(1, 40),
        mode=st.sampled_from(["1", "L", "P", "RGB", "RGBA", "CMYK", "LA"]),
        orientation=st.integers(1, 8),
        seed=st.integers(0, 99),
    )
    def test_any_pixels_come_out_as_they_went_in(
        self, width: int, height: int, mode: str, orientation: int, seed: int
    ) -> None:
        noise = np.random.default_rng(seed).integers(0, 256, (height, width, 3), np.uint8)
        noise[:, : width // 2] = seed
        image = Image.fromarray(noise).convert(mode)
        # Pillow reads plain samples that lie on their side wrongly.
        told = {"tiffinfo": {274: orientation}, "compression": "tiff_lzw"}
        source = pages_of(self.folder / "any.tif", image, **told)
        sheet = weigh(source)
        made = make(source, sheet, Order(preset=preset_named("as-it-was")), self.out())
        if made.copy.path is not None:
            assert made.proof is not None
            self.assertIs(made.proof.verdict, Verdict.SAME, made.proof.reasons)
            self.assert_same_pixels(source.path, made.copy.path)
            self.assertEqual(self.tags(made.copy.path, 274), [orientation])
            made.copy.path.unlink()


class Lighter(TiffCase):
    def test_a_photo_becomes_fewer_pixels_at_the_size_it_had(self) -> None:
        photo = Image.fromarray(landscape(1200, 800, 5))
        source = pages_of(self.folder / "photo.tif", photo, dpi=(300, 300))
        made = self.made(source, "post")
        assert made.proof is not None and made.copy.path is not None
        self.assertIs(made.proof.verdict, Verdict.CLOSE, made.proof.reasons)
        (frame,) = self.frames(made.copy.path)
        self.assertEqual(self.tags(made.copy.path, _COMPRESSION), [_JPEG])
        for side, dots, before in zip(frame.size, frame.info["dpi"], photo.size, strict=True):
            self.assertLess(side, before)
            self.assertAlmostEqual(side / dots, before / 300, places=3)

    @has_tools
    def test_jpeg_pages_are_such_as_every_reader_knows(self) -> None:
        """Baseline, in one strip, whose colours libtiff turns into the same RGB as Pillow does."""
        photo = Image.fromarray(landscape(600, 400, 5))
        source = pages_of(self.folder / "photo.tif", photo, photo.convert("L"), dpi=(100, 100))
        copy = self.made(source, "post").copy.path
        assert copy is not None
        self.assertIn(b"\xff\xc0", copy.read_bytes())
        self.assertNotIn(b"\xff\xc2\x00\x11", copy.read_bytes())
        rgba = self.folder / "rgba.tif"
        subprocess.run(["tiff2rgba", copy, rgba], check=True, capture_output=True)
        by_libtiff = np.asarray(self.frames(rgba)[0].convert("RGB")).astype(int)
        by_pillow = np.asarray(self.frames(copy)[0].convert("RGB")).astype(int)
        self.assertLess(np.abs(by_libtiff - by_pillow).mean(), 2)

    @has_tools
    def test_jpeg_pages_that_share_tables_are_read(self) -> None:
        photo = Image.fromarray(landscape(400, 300, 5))
        source = pages_of(self.folder / "photo.tif", photo, dpi=(300, 300))
        for name, options in {
            "strips": ("-r", "64"),
            "whole": ("-r", "300"),
            "tiles": ("-t", "-w", "64", "-l", "64"),
        }.items():
            with self.subTest(name):
                jpeg = variant(source, self.folder / f"{name}.tif", "-c", "jpeg:r:95", *options)
                made = self.made(jpeg, "feather")
                assert made.proof is not None
                self.assertIs(made.proof.verdict, Verdict.CLOSE, made.proof.reasons)

    def test_lossless_is_asked_for_by_choice(self) -> None:
        source = scanned(self.folder / "log.tif")
        exact = PictureTreatment(coding=PictureCoding.LOSSLESS)
        chosen = replace(
            preset_named("post"), treatment=Treatment(pictures=dict.fromkeys(PictureClass, exact))
        )
        made = make(source, weigh(source), Order(preset=chosen), self.out())
        assert made.copy.path is not None
        self.assert_same_pixels(source.path, made.copy.path)


class Weighed(TiffCase):
    def test_pages_profiles_and_words_each_weigh_what_they_take(self) -> None:
        source = scanned(self.folder / "log.tif")
        sheet = weigh(source)
        self.assertEqual(sheet.pages, 3)
        classes = [part.picture.picture_class for part in sheet.parts if part.picture]
        self.assertEqual(classes[0], PictureClass.BITONAL)
        codings = {part.picture.coding for part in sheet.parts if part.picture}
        self.assertEqual(codings, {"PackBits"})
        colour = sheet.part("page:3").picture
        assert colour is not None
        self.assertAlmostEqual(colour.ppi or 0, 150, places=2)

    def test_unreferenced_bytes_are_leftovers_and_removed(self) -> None:
        source = scanned(self.folder / "log.tif")
        before = weigh(source).bytes_by_kind()[PartKind.STRUCTURE]
        with source.path.open("ab") as file:
            file.write(b"an earlier page" * 99)
        sheet = weigh(source)
        part = sheet.part(f"extra:{ExtraKind.LEFTOVERS}")
        self.assertGreaterEqual(part.size_bytes, 15 * 99)
        self.assertEqual(sheet.bytes_by_kind()[PartKind.STRUCTURE], before)
        copy = self.made(source).copy.path
        assert copy is not None
        self.assertNotIn(b"an earlier page", copy.read_bytes())

    def test_previews_are_an_extra_and_no_page(self) -> None:
        path = with_preview(self.folder / "with-preview.tif").path
        sheet = weigh(Source(path=path))
        self.assertEqual(sheet.pages, 1)
        preview = sheet.part(f"extra:{ExtraKind.THUMBNAILS}")
        self.assertGreater(preview.size_bytes, 40 * 30)
        for preset, frames in (("as-it-was", 2), ("record-office", 1)):
            made = self.made(Source(path=path), preset)
            assert made.copy.path is not None and made.proof is not None
            self.assertEqual(len(self.frames(made.copy.path)), frames)
            self.assertIs(made.proof.verdict, Verdict.SAME)

    def test_words_go_where_that_is_asked_for(self) -> None:
        source = scanned(self.folder / "log.tif")
        without = replace(
            preset_named("as-it-was"),
            treatment=Treatment(
                dropped_extras=frozenset({ExtraKind.METADATA, ExtraKind.CAMERA_DATA})
            ),
        )
        made = make(source, weigh(source), Order(preset=without), self.out())
        assert made.copy.path is not None and made.proof is not None
        self.assertEqual(self.tags(made.copy.path, _DESCRIPTION), [None] * 3)
        self.assertIs(made.proof.verdict, Verdict.SAME, made.proof.reasons)


class LeftAlone(TiffCase):
    def test_measurements_maps_and_private_data_stay_and_are_reported(self) -> None:
        """Tags as their owners registered them (from memory)."""
        cases = {33550: "map", 50838: "measurement", 33628: "microscopy", 51023: "private"}
        for tag, word in cases.items():
            with self.subTest(tag=tag):
                source = private_file(self.folder / f"{tag}.tif", tag)
                made = make(source, weigh(source), Order(preset=preset_named("post")), self.out())
                self.assertIsNone(made.copy.path)
                reasons = {outcome.reason for outcome in made.copy.outcomes}
                self.assertTrue(any(word in reason for reason in reasons), reasons)

    def test_microscopy_is_known_by_its_words(self) -> None:
        """OME-TIFF, by the Open Microscopy Environment; ImageJ's mark. From memory."""
        page = Image.fromarray(landscape(40, 30, 1)).convert("L")
        for words in ('<?xml version="1.0"?><OME xmlns="x"/>', "ImageJ=1.53\nslices=9"):
            source = pages_of(self.folder / "stack.tif", page, description=words)
            picture = weigh(source).part("page:1").picture
            assert picture is not None
            self.assertIn("microscopy", picture.untouchable)

    def test_samples_that_are_no_light_stay(self) -> None:
        heights = Image.fromarray(np.linspace(-3, 9, 1200, dtype=np.float32).reshape(30, 40))
        source = pages_of(self.folder / "heights.tif", heights)
        picture = weigh(source).part("page:1").picture
        assert picture is not None
        self.assertIn("no light", picture.untouchable)


class BadFiles(TiffCase):
    def test_truncated_files_are_reported(self) -> None:
        whole = scanned(self.folder / "log.tif").path.read_bytes()
        for share in (0.1, 0.5, 0.9, 0.999):
            cut = self.folder / "cut.tif"
            cut.write_bytes(whole[: int(len(whole) * share)])
            with self.subTest(share=share), self.assertRaises(UnreadableFileError):
                weigh(Source(path=cut))

    @settings(max_examples=60, deadline=None)
    @given(data=st.data())
    def test_damage_is_reported_or_harms_nothing(self, data: st.DataObject) -> None:
        content = bytearray(scanned(self.folder / "log.tif").path.read_bytes())
        # Directories lie behind the pixels: there damage is worst.
        for _ in range(data.draw(st.integers(1, 4))):
            place = data.draw(st.integers(0, min(9, len(content) - 1)) | st.integers(1, 700))
            content[place if place < 10 else -place] = data.draw(st.integers(0, 255))
        path = self.folder / "hurt.tif"
        path.write_bytes(content)
        source = Source(path=path)
        if content[:2] not in (b"II", b"MM") or bytes(content[2:4]) not in (b"*\0", b"\0*"):
            return
        try:
            sheet = weigh(source)
            made = make(source, sheet, Order(preset=preset_named("as-it-was")), self.out())
        except UnreadableFileError:
            return
        if made.copy.path is not None:
            made.copy.path.unlink()
        self.assertTrue(all(outcome.action in Action for outcome in made.copy.outcomes))

    def test_a_list_of_pages_that_loops_is_read_once(self) -> None:
        source = scanned(self.folder / "log.tif")
        content = bytearray(source.path.read_bytes())
        start = int.from_bytes(content[4:8], "little")
        count = int.from_bytes(content[start : start + 2], "little")
        at = start + 2 + 12 * count
        content[at : at + 4] = start.to_bytes(4, "little")
        source.path.write_bytes(content)
        sheet = weigh(source)
        self.assertEqual(sheet.pages, 1)
        self.assertIn("loops", sheet.remarks[0])
