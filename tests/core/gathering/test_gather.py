"""Pictures gathered to a PDF, looked at with pdfium and poppler, beside what Pillow shows."""

import io
import os
import subprocess
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps

from lighten import (
    Order,
    PageSize,
    PictureOrder,
    Source,
    Verdict,
    arranged,
    gather,
    make,
    preset_named,
    weigh,
)
from lighten.gathering.gather import Gathered
from lighten.gathering.page_sizes import placed_on
from lighten.gathering.turns import UPRIGHT, is_on_its_side, turned
from lighten.model.errors import LimitExceededError, UnreadableFileError
from tests.builders import FolderCase, chart, landscape, print_of
from tests.core.formats.picture.samples import heic
from tests.core.formats.tiff.samples import has_tools, pages_of, variant
from tests.core.pictures.pixels.test_page_corners import photo_of, seen_by_a_camera, sheet

Pixels = NDArray[np.uint8]


class GatherCase(FolderCase):
    def picture(self, name: str, image: Image.Image, **options: object) -> Source:
        path = self.folder / name
        image.save(path, **options)
        return Source(path=path)

    def gathered(self, *sources: Source, page: PageSize = PageSize.OWN, **turns: int) -> Gathered:
        out = self.folder / "album.pdf"
        out.unlink(missing_ok=True)
        numbers = {int(name.removeprefix("page")): degrees for name, degrees in turns.items()}
        return gather(sources, out, page, turns=numbers)

    def pages(self, gathered: Gathered, width: int = 90) -> list[Pixels]:
        document = pypdfium2.PdfDocument(gathered.path)
        try:
            return [
                np.array(page.render(scale=width / page.get_width()).to_numpy())[..., ::-1]
                for page in document
            ]
        finally:
            document.close()

    def assert_shows(self, page: Pixels, image: Image.Image, within: float = 6) -> None:
        seen = image.convert("RGB").resize((page.shape[1], page.shape[0]), Image.Resampling.BOX)
        off = np.abs(np.asarray(seen).astype(int) - page)
        self.assertLess(off.mean(), within)

    def streams(self, gathered: Gathered) -> list[pikepdf.Object]:
        pdf = pikepdf.open(gathered.path)
        self.addCleanup(pdf.close)
        return [page.obj.Resources.XObject.P for page in pdf.pages]


class Codings(GatherCase):
    def test_a_jpeg_is_embedded_unchanged_without_its_metadata(self) -> None:
        exif = Image.Exif()
        exif[0x010F] = "A maker of cameras"
        photo = Image.fromarray(landscape(300, 200, 4))
        source = self.picture("a.jpg", photo, quality=90, exif=exif)
        gathered = self.gathered(source)
        (stream,) = self.streams(gathered)
        self.assertEqual(stream.Filter, "/DCTDecode")
        self.assertNotIn(b"maker of cameras", stream.read_raw_bytes())
        again, before = (
            np.asarray(Image.open(file))
            for file in (io.BytesIO(stream.read_raw_bytes()), source.path)
        )
        np.testing.assert_array_equal(again, before)

    def test_every_kind_comes_out_pixel_by_pixel(self) -> None:
        """As poppler takes them out again."""
        rgb, drawing = Image.fromarray(landscape(90, 60, 2)), Image.fromarray(chart(90, 60, seed=2))
        lines = Image.fromarray(print_of("Lapwing 8")[:60, :333] == 0)
        images = {
            "rgb.png": rgb,
            "grey.png": rgb.convert("L"),
            "lines.png": lines,
            "palette.png": drawing.quantize(12),
            "a.bmp": rgb,
            "a.gif": drawing.quantize(12),
            "a.webp": rgb,
        }
        options = {"a.webp": {"lossless": True}}
        sources = [
            self.picture(name, image, **options.get(name, {})) for name, image in images.items()
        ]
        gathered = self.gathered(*sources)
        command = ["pdfimages", "-png", gathered.path.name, "p"]
        subprocess.run(command, cwd=self.folder, check=True, capture_output=True)
        for number, (name, image) in enumerate(images.items()):
            with self.subTest(name=name), Image.open(self.folder / f"p-{number:03}.png") as seen:
                np.testing.assert_array_equal(
                    np.asarray(seen.convert("RGB")), np.asarray(image.convert("RGB"))
                )
        filters = [str(stream.Filter) for stream in self.streams(gathered)]
        self.assertEqual(filters[:2], ["/FlateDecode", "/FlateDecode"])

    def test_interlaced_and_transparent_pictures_are_re_encoded(self) -> None:
        rgba = Image.fromarray(landscape(90, 60, 2)).convert("RGBA")
        rgba.putalpha(Image.linear_gradient("L").resize((90, 60)))
        gathered = self.gathered(self.picture("a.png", rgba))
        (stream,) = self.streams(gathered)
        self.assertIn("/SMask", stream)
        on_white = Image.alpha_composite(Image.new("RGBA", rgba.size, "white"), rgba)
        self.assert_shows(self.pages(gathered)[0], on_white)

    def test_16_bits_stay_where_they_can(self) -> None:
        deep = Image.fromarray(landscape(90, 60, 2)[..., 0].astype(np.uint16) * 257)
        gathered = self.gathered(self.picture("a.png", deep))
        self.assertEqual(int(self.streams(gathered)[0].BitsPerComponent), 16)
        self.assertEqual(gathered.remarks, {})

    def test_webp_with_loss_is_said(self) -> None:
        photo = Image.fromarray(landscape(120, 90, 4))
        gathered = self.gathered(self.picture("a.webp", photo, quality=70))
        self.assertIn("JPEG", gathered.remarks["a.webp"])
        self.assert_shows(self.pages(gathered)[0], photo)

    def test_four_inks_and_profiles_keep_their_colours(self) -> None:
        inks = Image.fromarray(landscape(120, 90, 4)).convert("CMYK")
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        rgb = Image.fromarray(landscape(120, 90, 4))
        sources = (
            self.picture("inks.jpg", inks, quality=95),
            self.picture("a.jpg", rgb, quality=95, icc_profile=profile),
        )
        gathered = self.gathered(*sources)
        first, second = self.pages(gathered)
        self.assertLess(np.abs(first.astype(int) - second).mean(), 30)
        self.assertEqual(self.streams(gathered)[1].ColorSpace[0], "/ICCBased")


class Turns(GatherCase):
    def test_every_orientation_of_cameras_is_obeyed(self) -> None:
        """Exif 2.32, table 4, beside Pillow's own reading of it."""
        photo = landscape(120, 80, 5)
        photo[:20, :30] = (200, 30, 30)
        image = Image.fromarray(photo)
        sources, upright = [], []
        for orientation in range(1, 9):
            exif = Image.Exif()
            exif[0x0112] = orientation
            sources.append(self.picture(f"{orientation}.jpg", image, quality=95, exif=exif))
            with Image.open(sources[-1].path) as stored:
                upright.append(ImageOps.exif_transpose(stored).convert("RGB"))
        for page, seen in zip(self.pages(self.gathered(*sources)), upright, strict=True):
            self.assertEqual(page.shape[0] > page.shape[1], seen.height > seen.width)
            self.assert_shows(page, seen)

    def test_pages_are_turned_with_the_clock(self) -> None:
        photo = landscape(120, 80, 5)
        photo[:20, :30] = (200, 30, 30)
        image = Image.fromarray(photo)
        source = self.picture("a.png", image)
        pages = self.pages(self.gathered(source, source, page2=90))
        self.assert_shows(pages[0], image)
        self.assert_shows(pages[1], image.transpose(Image.Transpose.ROTATE_270))
        for wrong in ({"page3": 90}, {"page1": 45}):
            with self.subTest(wrong=wrong), self.assertRaises(ValueError):
                self.gathered(source, source, **wrong)

    @given(st.sampled_from(sorted(UPRIGHT)), st.integers(0, 3))
    def test_turns_stay_within_the_unit_square(self, orientation: int, quarters: int) -> None:
        turn = turned(UPRIGHT[orientation], 90 * quarters)
        a, b, c, d, e, f = turn
        corners = {(a * x + c * y + e, b * x + d * y + f) for x in (0, 1) for y in (0, 1)}
        self.assertEqual(corners, {(0, 0), (0, 1), (1, 0), (1, 1)})
        self.assertEqual(
            is_on_its_side(turn), is_on_its_side(UPRIGHT[orientation]) != bool(quarters % 2)
        )


class Pages(GatherCase):
    def test_pages_are_as_large_as_the_picture_says(self) -> None:
        image = Image.fromarray(landscape(600, 300, 4))
        gathered = self.gathered(
            self.picture("told.png", image, dpi=(100, 100)), self.picture("untold.png", image)
        )
        with pikepdf.open(gathered.path) as pdf:
            told, untold = ([float(side) for side in page.mediabox[2:]] for page in pdf.pages)
        self.assertAlmostEqual(told[0], 6 * 72, delta=1)
        self.assertAlmostEqual(told[1], 3 * 72, delta=1)
        # 25 cm where nothing is said (decision 18).
        self.assertAlmostEqual(untold[0], 25 / 2.54 * 72, delta=1)

    def test_pages_that_were_scanned_are_as_large_as_their_paper(self) -> None:
        image = Image.new("L", (2480, 3508), 250)
        gathered = self.gathered(
            self.picture("a4.png", image, dpi=(300, 300)), page=PageSize.SCANNED
        )
        with pikepdf.open(gathered.path) as pdf:
            sides = [float(side) / 72 * 25.4 for side in pdf.pages[0].mediabox[2:]]
        np.testing.assert_allclose(sides, [210, 297], atol=0.1)

    @given(
        st.integers(1, 9000), st.integers(1, 9000), st.sampled_from([PageSize.A4, PageSize.LETTER])
    )
    def test_pages_of_paper_hold_the_picture_within_margins(
        self, width: int, height: int, page: PageSize
    ) -> None:
        """A4 is 210 x 297 mm (ISO 216), Letter 8.5 x 11 in (ANSI/ASME Y14.1)."""
        placed = placed_on(page, (100.0, 100.0), (width, height))
        left, low, right, high = placed.box_pt
        sides = sorted(placed.page_pt)
        expected = [210 / 25.4 * 72, 297 / 25.4 * 72] if page is PageSize.A4 else [612, 792]
        np.testing.assert_allclose(sides, expected)
        margin = 10 / 25.4 * 72 - 0.001
        self.assertTrue(left >= margin and low >= margin)
        self.assertTrue(right <= placed.page_pt[0] - margin and high <= placed.page_pt[1] - margin)
        self.assertAlmostEqual((right - left) / (high - low), width / height, delta=0.001 * width)
        # Never coarser than 100 ppi.
        self.assertGreaterEqual(width / ((right - left) / 72), 99.99)


class Documents(GatherCase):
    def test_documents_are_made_lighter_and_proved_as_any_other(self) -> None:
        photos = [
            self.picture(f"{seed}.jpg", Image.fromarray(landscape(1600, 1200, seed)), quality=95)
            for seed in (1, 2)
        ]
        gathered = self.gathered(*photos, page=PageSize.A4)
        source = Source(path=gathered.path)
        made = make(
            source, weigh(source), Order(preset=preset_named("post")), self.folder / "b.pdf"
        )
        assert made.proof is not None
        self.assertIs(made.proof.verdict, Verdict.CLOSE, made.proof.reasons)
        self.assertLess(made.copy.bytes_after, 0.5 * made.copy.bytes_before)

    def test_bad_pictures_are_named_and_nothing_is_left_behind(self) -> None:
        sound = self.picture("a.png", Image.fromarray(landscape(90, 60, 2)))
        content = sound.path.read_bytes()
        moving = self.folder / "moving.gif"
        frames = [Image.new("L", (9, 9), level) for level in (0, 200)]
        frames[0].save(moving, save_all=True, append_images=frames[1:])
        bad = {"cut.png": content[: len(content) // 2], "words.png": b"plain words"}
        damaged = bytearray(content)
        damaged[content.index(b"IDAT") + 20] ^= 0xFF
        bad["damaged.png"] = bytes(damaged)
        for name, data in bad.items():
            (self.folder / name).write_bytes(data)
        for name in (*bad, "moving.gif", "none.png"):
            with (
                self.subTest(name=name),
                self.assertRaisesRegex(UnreadableFileError, name),
            ):
                self.gathered(sound, Source(path=self.folder / name))
        self.assertFalse([path for path in self.folder.iterdir() if "album" in path.name])

    def test_existing_files_stay_and_too_many_pages_are_refused(self) -> None:
        sound = self.picture("a.png", Image.fromarray(landscape(90, 60, 2)))
        out = self.folder / "there.pdf"
        out.write_bytes(b"mine")
        with self.assertRaises(FileExistsError):
            gather([sound], out)
        self.assertEqual(out.read_bytes(), b"mine")
        with self.assertRaises(LimitExceededError):
            gather([sound] * 2001, Path(self.folder / "b.pdf"))


class ManyPages(GatherCase):
    def test_a_tiff_has_a_page_for_each_of_its_own_at_its_own_size(self) -> None:
        photo = Image.fromarray(landscape(300, 200, 4))
        images = [Image.fromarray(~print_of("Snipe 3")), photo.convert("L"), photo]
        source = pages_of(self.folder / "log.tif", *images, dpi=(150, 150))
        gathered = self.gathered(self.picture("a.png", photo), source, page=PageSize.SCANNED)
        self.assertEqual(gathered.pages, 4)
        with pikepdf.open(gathered.path) as pdf:
            sizes = [[float(side) for side in page.mediabox[2:]] for page in pdf.pages]
        for size, image in zip(sizes[1:], images, strict=True):
            np.testing.assert_allclose(size, np.array(image.size) / 150 * 72, atol=0.01)
        for page, image in zip(self.pages(gathered)[1:], images, strict=True):
            self.assert_shows(page, image)

    @has_tools
    def test_codings_that_a_pdf_knows_go_in_as_they_are(self) -> None:
        """ITU-T T.6, T.81 and Deflate of a TIFF, by poppler pixel by pixel as they were."""
        photo = Image.fromarray(landscape(300, 200, 4))
        bitonal = pages_of(self.folder / "lines.tif", Image.fromarray(~print_of("Snipe 3")))
        colour = pages_of(self.folder / "colour.tif", photo)
        flat = pages_of(self.folder / "flat.tif", photo.quantize(40))
        cases = {
            "/CCITTFaxDecode": [(bitonal, "-c", "g4"), (bitonal, "-c", "g4", "-f", "lsb2msb")],
            "/DCTDecode": [(colour, "-c", "jpeg:r:90"), (colour, "-c", "jpeg:90")],
            "/FlateDecode": [(colour, "-c", "zip:2"), (colour, "-c", "zip"), (flat, "-c", "zip")],
        }
        for coding, ways in cases.items():
            for source, *options in ways:
                with self.subTest(options):
                    laid_out = variant(source, self.folder / "laid.tif", "-r", "9999", *options)
                    gathered = self.gathered(laid_out)
                    (stream,) = self.streams(gathered)
                    self.assertEqual(stream.Filter, coding)
                    shown = self.drawn_by_poppler(gathered)
                    with Image.open(laid_out.path) as image:
                        before = np.asarray(image.convert("RGB")).astype(int)
                    self.assertLess(np.abs(shown - before).max(), 4)

    def drawn_by_poppler(self, gathered: Gathered) -> NDArray[np.int64]:
        root = self.folder / "drawn"
        command = ["pdfimages", "-png", gathered.path, root]
        subprocess.run(command, check=True, capture_output=True)
        with Image.open(f"{root}-000.png") as image:
            return np.asarray(image.convert("RGB")).astype(int)

    def test_a_page_that_is_turned_is_counted_across_files(self) -> None:
        photo = Image.fromarray(landscape(120, 80, 4))
        source = pages_of(self.folder / "two.tif", photo, photo)
        gathered = self.gathered(source, page2=90)
        shapes = [page.shape[:2] for page in self.pages(gathered)]
        self.assertLess(shapes[0][0], shapes[1][0])
        with self.assertRaises(ValueError):
            self.gathered(source, page3=90)

    def test_measurements_are_refused_with_what_to_do(self) -> None:
        heights = Image.fromarray(np.linspace(-3, 9, 1200, dtype=np.float32).reshape(30, 40))
        source = pages_of(self.folder / "heights.tif", heights)
        with self.assertRaisesRegex(UnreadableFileError, "plain TIFF"):
            self.gathered(source)

    def test_heic_lies_as_it_was_taken(self) -> None:
        """As what wrote it turns it by a mark of its own (ISO/IEC 23008-12, 6.5.10)."""
        photo = Image.fromarray(landscape(300, 200, 4))
        source = heic(self.folder / "a.heic", photo, orientation=6)
        gathered = self.gathered(source)
        self.assertIn("fine JPEG", gathered.remarks["a.heic"])
        (page,) = self.pages(gathered)
        self.assertGreater(page.shape[0], page.shape[1])
        self.assert_shows(page, photo.rotate(-90, expand=True))


class Arranged(GatherCase):
    def test_arranged_by_name_as_people_count_and_by_the_time_taken(self) -> None:
        photo = Image.fromarray(landscape(60, 40, 1))
        times = {"p10.jpg": "2026:05:04 05:12:00", "p2.jpg": "2026:05:04 09:30:00", "P1.jpg": ""}
        sources = []
        for name, time in times.items():
            exif = Image.Exif()
            if time:
                exif[0x0132] = time
            sources.append(self.picture(name, photo, exif=exif))
        # Of a file that tells no time, that of the file counts.
        os.utime(sources[2].path, (0, 0))
        scan = pages_of(self.folder / "s.tif", photo, tiffinfo={306: "2026:05:04 07:00:00"})

        def names(order: PictureOrder) -> list[str]:
            return [source.name for source in arranged([*sources, scan], order)]

        self.assertEqual(names(PictureOrder.GIVEN), ["p10.jpg", "p2.jpg", "P1.jpg", "s.tif"])
        self.assertEqual(names(PictureOrder.NAME), ["P1.jpg", "p2.jpg", "p10.jpg", "s.tif"])
        self.assertEqual(names(PictureOrder.TIME), ["P1.jpg", "p10.jpg", "s.tif", "p2.jpg"])

    def test_sheets_in_photos_become_pages_where_that_is_asked_for(self) -> None:
        corners = seen_by_a_camera((12.0, 18.0), (600, 800))
        photo = Image.fromarray(photo_of(sheet(), corners, (600, 800)))
        source = self.picture("a.jpg", photo, quality=95)
        view = self.picture("b.jpg", Image.fromarray(landscape(300, 200, 4)))
        out = self.folder / "sheets.pdf"
        gathered = gather([source, view], out, PageSize.OWN, finds_sheets=True)
        self.assertEqual(list(gathered.remarks), ["a.jpg"])
        with pikepdf.open(out) as pdf:
            width, height = (float(side) for side in pdf.pages[0].mediabox[2:])
        self.assertAlmostEqual(height / width, 2**0.5, places=3)
        self.assertAlmostEqual(height, 297 / 25.4 * 72, places=1)
        shown = self.pages(gathered, width=310)[0]
        self.assert_shows(shown, Image.fromarray(sheet()), within=8)
