"""Pages to TIFF, read by Pillow, libtiff's tools and tesseract.

Source: TIFF 6.0; ITU-T T.6; text below 120 ppi is unreadable, archives ask for Group 4 and 300 ppi
(common practice, no source).
"""

import shutil
import subprocess
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image, ImageSequence

from lighten import (
    BitonalMethod,
    PageColours,
    Rasterised,
    RasterTreatment,
    Source,
    preset_named,
    rasterise,
)
from lighten.model.errors import (
    LimitExceededError,
    TooCoarseError,
    UnreadableFileError,
    UnsupportedFileError,
)
from tests.builders import FolderCase, PdfBuilder, Show, chart, landscape, text_page
from tests.core.formats.tiff.samples import has_tools, lines, pages_of

_GROUP_4 = 4
_WORDS = "Ring 4711 reed warbler moulted"


class RasterCase(FolderCase):
    def report(self) -> Source:
        """A page of print, one with colours, one with a photo."""
        builder = PdfBuilder().jpeg("Photo", landscape(600, 400, 3))
        builder.page(content=text_page(_WORDS, 30))
        builder.page(content=b"1 0 0 rg 72 400 200 80 re f 0 0 1 rg 72 200 200 80 re f\n")
        builder.page(Show("Photo", (400, 0, 0, 266, 72, 300)), content=text_page("Nest box 14", 20))
        return Source(path=builder.save(self.folder / "report.pdf"))

    def made(self, source: Source, **wanted: object) -> Rasterised:
        out = self.folder / f"pages-{len(list(self.folder.iterdir()))}.tif"
        return rasterise(source, out, RasterTreatment(**{"ppi": 150, **wanted}))  # type: ignore[arg-type]

    def frames(self, path: Path) -> list[Image.Image]:
        with Image.open(path) as image:
            return [frame.copy() for frame in ImageSequence.Iterator(image)]


class Colours(RasterCase):
    def test_colours_as_few_as_each_page_uses_every_one_exact(self) -> None:
        plain = self.made(self.report(), colours=PageColours.ALL)
        fewest = self.made(self.report(), colours=PageColours.FEWEST)
        self.assertLessEqual(fewest.size_bytes, plain.size_bytes)
        for one, other in zip(
            self.frames(plain.paths[0]), self.frames(fewest.paths[0]), strict=True
        ):
            np.testing.assert_array_equal(
                np.asarray(one.convert("RGB")), np.asarray(other.convert("RGB"))
            )
        self.assertEqual([frame.mode for frame in self.frames(fewest.paths[0])], ["L", "P", "RGB"])

    def test_bitonal_pages_are_group_4_and_photos_stay_grey_by_choice(self) -> None:
        by_choice = self.made(self.report(), colours=PageColours.BITONAL)
        kinds = [page.kind for page in by_choice.pages]
        self.assertEqual(kinds, ["black and white", "black and white", "greys"])
        self.assertIn("stays grey", by_choice.pages[2].remark)
        every = self.made(self.report(), colours=PageColours.BITONAL, keeps_photos_grey=False)
        self.assertIn("photo", every.pages[2].remark)
        with Image.open(every.paths[0]) as image:
            for number in range(3):
                image.seek(number)
                self.assertEqual(image.mode, "1")
                self.assertEqual(image.tag_v2[259], _GROUP_4)  # type: ignore[attr-defined]

    def test_small_palettes_are_exact_where_they_can_be(self) -> None:
        pixels = chart(300, 200, seed=2)
        count = len(np.unique(pixels.reshape(-1, 3), axis=0))
        source = pages_of(self.folder / "chart.tif", Image.fromarray(pixels), dpi=(100, 100))
        made = self.made(source, colours=PageColours.COLOURS_256)
        (frame,) = self.frames(made.paths[0])
        if count <= 256:
            np.testing.assert_array_equal(np.asarray(frame.convert("RGB")), pixels)
        few = self.made(source, colours=PageColours.COLOURS_16)
        (frame,) = self.frames(few.paths[0])
        self.assertLessEqual(len(frame.convert("RGB").getcolors(1 << 24) or []), 16)

    def test_colours_that_move_are_reported(self) -> None:
        """By CIEDE2000 over 5 mm: sixteen colours hold no rainbow."""
        hues = np.zeros((240, 360, 3), np.uint8)
        hues[..., 0] = np.linspace(0, 255, 360).astype(np.uint8)
        hues[..., 1], hues[..., 2] = 200, np.linspace(0, 255, 240).astype(np.uint8)[:, None]
        rainbow = np.asarray(Image.fromarray(hues, mode="HSV").convert("RGB"))
        source = pages_of(self.folder / "hues.tif", Image.fromarray(rainbow), dpi=(150, 150))
        (page,) = self.made(source, colours=PageColours.COLOURS_16).pages
        self.assertIn("CIEDE2000", page.remark)
        self.assertIsNotNone(page.before)

    def test_ways_of_dividing_differ(self) -> None:
        shaded = Image.fromarray(landscape(300, 200, 3)).convert("L")
        source = pages_of(self.folder / "shaded.tif", shaded, dpi=(100, 100))
        wanted = {"colours": PageColours.BITONAL, "keeps_photos_grey": False}
        shares = set()
        for way in BitonalMethod:
            made = self.made(source, divide=way, **wanted)
            shares.add(round(float(np.asarray(self.frames(made.paths[0])[0]).mean()), 4))
        self.assertEqual(len(shares), len(BitonalMethod))


class Pages(RasterCase):
    def test_pages_say_how_large_they_are_and_which_of_how_many(self) -> None:
        made = self.made(self.report(), ppi=200)
        with Image.open(made.paths[0]) as image:
            for number in range(3):
                image.seek(number)
                self.assertEqual(image.info["dpi"], (200, 200))
                self.assertEqual(image.size, (1700, 2200))
                tags = image.tag_v2  # type: ignore[attr-defined] # of TIFF images
                self.assertEqual((tags[254], tags[297]), (2, (number, 3)))

    def test_a_file_each_is_numbered(self) -> None:
        out = self.folder / "log.tif"
        made = rasterise(self.report(), out, RasterTreatment(ppi=120), each=True)
        names = [path.name for path in made.paths]
        self.assertEqual(names, ["log-001.tif", "log-002.tif", "log-003.tif"])
        self.assertFalse(out.exists())
        for path in made.paths:
            self.assertEqual(len(self.frames(path)), 1)

    def test_a_picture_keeps_its_pixels_unless_it_has_more(self) -> None:
        photo = Image.fromarray(landscape(300, 200, 4))
        source = pages_of(self.folder / "two.tif", photo, photo.convert("L"), dpi=(100, 100))
        same = self.frames(self.made(source, ppi=300).paths[0])
        np.testing.assert_array_equal(np.asarray(same[0].convert("RGB")), np.asarray(photo))
        self.assertEqual(same[0].info["dpi"], (100, 100))
        fewer = self.frames(self.made(source, ppi=50).paths[0])
        self.assertEqual(fewer[0].size, (150, 100))

    def test_text_is_not_made_too_coarse_to_read_unless_somebody_says_so(self) -> None:
        source, out = self.report(), self.folder / "coarse.tif"
        with self.assertRaisesRegex(TooCoarseError, "page 1 .* 72 ppi"):
            rasterise(source, out, RasterTreatment(ppi=72))
        self.assertEqual([path.name for path in self.folder.iterdir()], ["report.pdf"])
        made = rasterise(source, out, RasterTreatment(ppi=72), may_blur_text=True)
        self.assertEqual(len(made.pages), 3)

    @unittest.skipUnless(shutil.which("tesseract"), "no text recognition here")
    def test_letters_on_bitonal_pages_are_read(self) -> None:
        preset = preset_named("record-office").treatment.raster
        made = rasterise(self.report(), self.folder / "a.tif", preset, each=True)
        command = ["tesseract", made.paths[0], "-", "--psm", "6"]
        told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
        self.assertIn(_WORDS, told)

    @has_tools
    def test_libtiff_finds_nothing_to_remark(self) -> None:
        for colours in PageColours:
            made = self.made(self.report(), colours=colours)
            told = subprocess.run(
                ["tiffinfo", "-D", made.paths[0]], check=True, capture_output=True
            )
            self.assertEqual(told.stderr, b"", colours)

    def test_the_same_twice(self) -> None:
        one, other = (self.made(self.report()).paths[0].read_bytes() for _ in range(2))
        self.assertEqual(one, other)


class BadInput(RasterCase):
    def test_bad_input_is_reported_and_leaves_no_file_behind(self) -> None:
        out = self.folder / "out.tif"
        broken = self.folder / "broken.pdf"
        broken.write_bytes(b"%PDF-1.4\nnothing")
        words = self.folder / "words.txt"
        words.write_text("only words")
        huge = PdfBuilder().page(size=(14_400, 14_400)).save(self.folder / "huge.pdf")
        cases = (
            (broken, UnreadableFileError),
            (words, UnsupportedFileError),
            (huge, LimitExceededError),
        )
        for path, error in cases:
            with self.subTest(path.name), self.assertRaises(error):
                rasterise(Source(path=path), out, RasterTreatment())
        self.assertFalse(out.exists())
        self.assertEqual(len(list(self.folder.iterdir())), len(cases))

    def test_existing_files_stay(self) -> None:
        out = self.folder / "out.tif"
        out.write_bytes(b"mine")
        with self.assertRaises(FileExistsError):
            rasterise(self.report(), out, RasterTreatment())
        self.assertEqual(out.read_bytes(), b"mine")

    def test_existing_files_are_replaced_only_once_all_pages_are_made(self) -> None:
        out, source = self.folder / "out.tif", self.report()
        out.write_bytes(b"mine")
        with self.assertRaises(TooCoarseError):
            rasterise(source, out, RasterTreatment(ppi=72), may_replace=True)
        self.assertEqual(out.read_bytes(), b"mine")
        with self.assertRaises(FileExistsError):
            rasterise(source, source.path, RasterTreatment(ppi=120), may_replace=True)
        for _ in range(2):
            rasterise(source, out, RasterTreatment(ppi=120), each=True, may_replace=True)

    def test_treatments_out_of_range_are_refused(self) -> None:
        for wrong in ({"ppi": 5}, {"ppi": 9999}, {"threshold": 0}):
            with self.subTest(wrong), self.assertRaises(ValueError):
                replace(RasterTreatment(), **wrong)


class BitonalPage(RasterCase):
    def test_a_letter_is_light(self) -> None:
        """An A4 page of 25 lines at 300 ppi: 40 kB at most."""
        content = b"".join(
            b"BT /F1 11 Tf 60 %d Td (%s) Tj ET\n" % (700 - 15 * line, (_WORDS * 2).encode())
            for line in range(25)
        )
        source = Source(
            path=PdfBuilder().page(content=content, size=(595, 842)).save(self.folder / "a4.pdf")
        )
        made = self.made(source, ppi=300, colours=PageColours.BITONAL)
        self.assertLess(made.size_bytes, 40_000)
        self.assertEqual(self.frames(made.paths[0])[0].size, (2480, 3509))

    def test_lines_stay_as_they_are(self) -> None:
        page = lines()
        source = pages_of(self.folder / "lines.tif", page, dpi=(150, 150))
        made = self.made(source, colours=PageColours.BITONAL)
        np.testing.assert_array_equal(np.asarray(self.frames(made.paths[0])[0]), np.asarray(page))
