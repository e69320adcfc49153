"""Small copies to recognise pictures by."""

import io
import zlib

import numpy as np
import pikepdf
from PIL import Image

from lighten import Source, weigh
from lighten.making.draw_thumbnails import LONGEST_PX, thumbnail_name, write_thumbnails
from tests.builders import FolderCase, PdfBuilder, Show, landscape
from tests.core.formats.pdf.samples import report


class Thumbnails(FolderCase):
    def test_thumbnails_show_the_picture_in_its_proportions(self) -> None:
        source = report(self.folder / "a.pdf")
        ids = [part.id for part in weigh(source).parts if part.picture]
        drawn = write_thumbnails(source, weigh(source), ids, self.folder / "small")
        self.assertEqual(drawn, ids)
        for part_id in ids:
            with Image.open(self.folder / "small" / thumbnail_name(part_id)) as image:
                self.assertEqual(max(image.size), LONGEST_PX)
                self.assertAlmostEqual(image.width / image.height, 1.5, delta=0.02)

    def test_look_like_the_picture(self) -> None:
        pixels = landscape(900, 600, 3)
        builder = PdfBuilder().jpeg("A", pixels).page(Show("A", (90, 0, 0, 60, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        (part,) = (part for part in weigh(source).parts if part.picture)
        write_thumbnails(source, weigh(source), [part.id], self.folder)
        with Image.open(self.folder / thumbnail_name(part.id)) as image:
            small = np.asarray(image.convert("RGB"), np.int16)
        wanted = np.asarray(Image.fromarray(pixels).resize((320, 213)), np.int16)
        self.assertLess(np.abs(small - wanted).mean(), 6)

    def test_thumbnails_are_made_of_bitonal_codings_too(self) -> None:
        page = Image.new("1", (400, 200), 1)
        page.paste(0, (50, 50, 200, 150))
        tiff = io.BytesIO()
        page.save(tiff, "TIFF", compression="group4")
        with Image.open(tiff) as image:
            start, length = image.tag_v2[273][0], image.tag_v2[279][0]
        builder = PdfBuilder().stream(
            "A",
            tiff.getvalue()[start : start + length],
            size=(400, 200),
            bits=1,
            Filter=pikepdf.Name.CCITTFaxDecode,
            ColorSpace=pikepdf.Name.DeviceGray,
            DecodeParms=pikepdf.Dictionary(K=-1, Columns=400, Rows=200),
        )
        builder.page(Show("A", (90, 0, 0, 45, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        (part,) = (part for part in weigh(source).parts if part.picture)
        assert part.picture is not None
        self.assertEqual(part.picture.coding, "CCITTFax")
        self.assertEqual(write_thumbnails(source, weigh(source), [part.id], self.folder), [part.id])

    def test_thumbnails_that_cannot_be_drawn_are_left_out(self) -> None:
        builder = PdfBuilder().stream(
            "A",
            zlib.compress(b"far too little"),
            size=(400, 200),
            Filter=pikepdf.Name.JBIG2Decode,
            ColorSpace=pikepdf.Name.DeviceGray,
        )
        builder.page(Show("A", (90, 0, 0, 45, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        (part,) = (part for part in weigh(source).parts if part.picture)
        drawn = write_thumbnails(
            source, weigh(source), [part.id, "picture:9999-0", "font:1-0"], self.folder
        )
        self.assertEqual(drawn, [])

    def test_ink_pictures_look_as_on_screen(self) -> None:
        # Plain cyan ink, which screens show blue-green (ISO 32000-2, 10.4.2.4).
        inks = np.zeros((100, 200, 4), np.uint8)
        inks[:, 100:, 0] = 255
        builder = PdfBuilder().stream(
            "A",
            zlib.compress(inks.tobytes()),
            size=(200, 100),
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.DeviceCMYK,
        )
        builder.page(Show("A", (90, 0, 0, 45, 0, 0)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        (part,) = (part for part in weigh(source).parts if part.picture)
        write_thumbnails(source, weigh(source), [part.id], self.folder)
        with Image.open(self.folder / thumbnail_name(part.id)) as image:
            self.assertEqual(image.mode, "RGB")
            red, green, blue = image.getpixel((150, 50))
            self.assertGreater(min(image.getpixel((50, 50))), 250)
        self.assertLess(red, 60)
        self.assertGreater(min(green, blue), 120)
