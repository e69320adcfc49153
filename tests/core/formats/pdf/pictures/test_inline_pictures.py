"""Pictures that lie within page drawing, against poppler, which reads them where they are."""

import base64
import subprocess
import zlib
from pathlib import Path

import numpy as np
import pikepdf
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from lighten import Part, PartKind, Source, WeightSheet, make_proved_copy, plan, preset_named, weigh
from lighten.formats.pdf.pictures.inline_pictures import lift_inline_pictures
from lighten.making.draw_thumbnails import thumbnail_name, write_thumbnails
from tests.builders import FolderCase, PdfBuilder, Show, as_jpeg, landscape, text_page

PHOTO = landscape(600, 400, 7)


def inline(dictionary: str, data: bytes, matrix: str) -> bytes:
    """Content that shows a picture in line (ISO 32000-1, 8.9.7)."""
    return b"q %s cm\nBI %s\nID %s\nEI Q\n" % (matrix.encode(), dictionary.encode(), data)


def jpeg_in_line(matrix: str = "144 0 0 96 72 400") -> bytes:
    return inline("/W 600 /H 400 /BPC 8 /CS /RGB /F /DCT", as_jpeg(PHOTO), matrix)


def pictures(sheet: WeightSheet) -> list[Part]:
    return [part for part in sheet.parts if part.kind is PartKind.PICTURE]


def drawn_by_poppler(path: Path) -> NDArray[np.uint8]:
    target = path.with_suffix("")
    subprocess.run(["pdftoppm", "-r", "72", "-png", "-singlefile", path, target], check=True)
    with Image.open(path.with_suffix(".png")) as image:
        return np.asarray(image.convert("RGB"))


class InlinePictures(FolderCase):
    def save(self, *contents: bytes, packed: bool = True) -> Source:
        builder = PdfBuilder()
        for content in contents:
            builder.page(content=content)
        path = builder.save(self.folder / "a.pdf", compress_streams=packed)
        return Source(path=path)

    def test_inline_pictures_are_parts_that_poppler_lists_alike(self) -> None:
        source = self.save(text_page("before") + jpeg_in_line() + text_page("after"))
        listed = subprocess.run(
            ["pdfimages", "-list", source.path], capture_output=True, text=True, check=True
        )
        row = listed.stdout.splitlines()[2].split()
        (part,) = pictures(weigh(source))
        assert part.picture is not None
        self.assertTrue(part.picture.is_inline)
        self.assertEqual((part.picture.width_px, part.picture.height_px), (600, 400))
        self.assertEqual(row[3:5], ["600", "400"])
        self.assertAlmostEqual(part.picture.ppi or 0, float(row[-4]), delta=1)

    def test_inline_pictures_weigh_what_they_take_up_in_their_content(self) -> None:
        data = as_jpeg(PHOTO)
        for packed in (True, False):
            with self.subTest(packed=packed):
                sheet = weigh(self.save(jpeg_in_line() + text_page("a" * 50) * 40, packed=packed))
                (part,) = pictures(sheet)
                self.assertAlmostEqual(part.size_bytes / len(data), 1, delta=0.05)

    def test_inline_pictures_become_lighter_and_look_the_same_in_poppler(self) -> None:
        source = self.save(text_page("before") + jpeg_in_line() + text_page("after"))
        sheet = weigh(source)
        out = self.folder / "b.pdf"
        copy, _ = make_proved_copy(source, sheet, plan(sheet, preset_named("Reading desk")), out)
        self.assertLess(copy.bytes_after, 0.6 * sheet.size_bytes)
        before, after = drawn_by_poppler(source.path), drawn_by_poppler(out)
        self.assertLess(np.abs(before.astype(int) - after).mean(), 0.6)

    def test_inline_pictures_that_repeat_on_each_page_are_kept_once(self) -> None:
        source = self.save(*[text_page(f"page {number}") + jpeg_in_line() for number in range(6)])
        sheet = weigh(source)
        (part,) = pictures(sheet)
        assert part.picture is not None
        self.assertEqual(part.picture.pages, (1, 2, 3, 4, 5, 6))
        copy, proof = make_proved_copy(
            source, sheet, plan(sheet, preset_named("As it was")), self.folder / "b.pdf"
        )
        self.assertLess(copy.bytes_after, sheet.size_bytes / 4)
        assert proof is not None
        self.assertEqual(str(proof.verdict), "same")

    def test_inline_pictures_of_every_coding_look_the_same_as_objects(self) -> None:
        grey = np.ascontiguousarray(PHOTO[::2, ::2, 0])
        packed = zlib.compress(grey.tobytes())
        letters = base64.a85encode(packed) + b"~>"
        size = "/W 300 /H 200"
        cases = {
            "raw": inline(f"{size} /BPC 8 /CS /G", grey.tobytes(), "150 0 0 100 9 9"),
            "flate": inline(f"{size} /BPC 8 /CS /G /F /Fl", packed, "150 0 0 100 9 9"),
            "hex": inline(
                f"{size} /BPC 8 /CS /G /F /AHx",
                grey.tobytes().hex().encode() + b">",
                "90 0 0 60 9 9",
            ),
            "chain": inline(f"{size} /BPC 8 /CS /G /F [/A85 /Fl]", letters, "150 0 0 100 9 9"),
            "full names": inline(
                "/Width 300 /Height 200 /BitsPerComponent 8 /ColorSpace /DeviceGray "
                "/Filter /FlateDecode /DecodeParms <</Predictor 1>>",
                packed,
                "150 0 0 100 9 9",
            ),
            "stencil": b"1 0 0 rg\n"
            + inline(
                f"{size} /IM true /D [1 0]",
                np.packbits(grey > 128, axis=1).tobytes(),
                "150 0 0 100 9 9",
            ),
            "palette": inline(
                f"{size} /BPC 8 /CS [/I /RGB 255 <{bytes(range(256)).hex() * 3}>]",
                grey.tobytes(),
                "150 0 0 100 9 9",
            ),
        }
        for name, content in cases.items():
            for is_packed in (True, False):
                with self.subTest(name, packed=is_packed):
                    source = self.save(content, packed=is_packed)
                    with pikepdf.open(source.path) as pdf:
                        self.assertEqual(len(lift_inline_pictures(pdf)), 1)
                        pdf.save(self.folder / "lifted.pdf")
                    np.testing.assert_array_equal(
                        drawn_by_poppler(source.path), drawn_by_poppler(self.folder / "lifted.pdf")
                    )

    def test_inline_pictures_in_colours_named_by_the_page_take_the_colours_along(self) -> None:
        builder = PdfBuilder()
        builder.page(
            content=inline("/W 60 /H 40 /BPC 8 /CS /Own", PHOTO[:40, :60].tobytes(), "9 0 0 6 1 1")
        )
        own = pikepdf.Array(
            [pikepdf.Name.CalRGB, pikepdf.Dictionary(WhitePoint=[0.95, 1, 1.09], Gamma=[2, 2, 2])]
        )
        builder.pdf.pages[0].obj.Resources.ColorSpace = pikepdf.Dictionary(Own=own)
        sheet = weigh(Source(path=builder.save(self.folder / "a.pdf")))
        self.assertEqual(
            [part.picture.colour for part in pictures(sheet) if part.picture], ["CalRGB"]
        )

    def test_inline_pictures_whose_colours_differ_from_page_to_page_stay(self) -> None:
        builder = PdfBuilder()
        content = inline("/W 60 /H 40 /BPC 8 /CS /Own", PHOTO[:40, :60].tobytes(), "9 0 0 6 1 1")
        builder.page(content=content).page(content=b"")
        first, second = (page.obj for page in builder.pdf.pages)
        second.Contents = first.Contents
        first.Resources.ColorSpace = pikepdf.Dictionary(Own=pikepdf.Name.DeviceRGB)
        second.Resources.ColorSpace = pikepdf.Dictionary(
            Own=pikepdf.Array([pikepdf.Name.Lab, pikepdf.Dictionary(WhitePoint=[0.95, 1, 1.09])])
        )
        self.assertEqual(pictures(weigh(Source(path=builder.save(self.folder / "a.pdf")))), [])

    def test_inline_pictures_that_are_small_stay_where_they_are(self) -> None:
        source = self.save(inline("/W 8 /H 8 /BPC 8 /CS /G", bytes(64), "9 0 0 9 1 1") * 30)
        self.assertEqual(pictures(weigh(source)), [])

    def test_inline_pictures_have_thumbnails(self) -> None:
        source = self.save(jpeg_in_line())
        (part,) = pictures(weigh(source))
        write_thumbnails(source, weigh(source), [part.id], self.folder)
        with Image.open(self.folder / thumbnail_name(part.id)) as image:
            self.assertAlmostEqual(image.width / image.height, 1.5, delta=0.02)

    def test_inline_pictures_in_forms_are_found(self) -> None:
        builder = PdfBuilder()
        form = builder.pdf.make_stream(jpeg_in_line("1 0 0 1 0 0"))
        form.Subtype, form.BBox = pikepdf.Name.Form, pikepdf.Array([0, 0, 1, 1])
        form.Resources = pikepdf.Dictionary()
        builder.pictures["Form"] = form
        builder.page(Show("Form", (72, 0, 0, 48, 0, 0)))
        (part,) = pictures(weigh(Source(path=builder.save(self.folder / "a.pdf"))))
        assert part.picture is not None
        self.assertAlmostEqual(part.picture.ppi or 0, 600)

    @settings(max_examples=15, deadline=None, suppress_health_check=list(HealthCheck))
    @given(
        sides=st.tuples(st.integers(20, 90), st.integers(20, 90)),
        seed=st.integers(0, 99),
        count=st.integers(1, 4),
    )
    def test_inline_pictures_of_any_bytes_are_found_whole(
        self, sides: tuple[int, int], seed: int, count: int
    ) -> None:
        """Their bytes may look like operators; the picture taken out has each of them."""
        pixels = np.random.default_rng(seed).integers(0, 256, (*sides, 3), np.uint8)
        pixels[0, :4] = np.frombuffer(b" EI Q BI ID ", np.uint8).reshape(4, 3)
        packed = zlib.compress(pixels.tobytes(), 1)
        head = f"/W {sides[1]} /H {sides[0]} /BPC 8 /CS /RGB /F /Fl"
        source = self.save(inline(head, packed, "90 0 0 60 9 9") * count)
        with pikepdf.open(source.path) as pdf:
            lifted = lift_inline_pictures(pdf)
            found = [pdf.get_object(one) for content in lifted for one in content.pictures]
            self.assertEqual(len(found), count if len(packed) >= 1000 else 0)
            for picture in found:
                self.assertEqual(picture.read_bytes(), pixels.tobytes())
