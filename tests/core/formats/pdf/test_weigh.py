"""Weight sheets of PDFs: to the byte, and against poppler's list of pictures."""

import subprocess
import zlib

import numpy as np
import pikepdf
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lighten import PartKind, PictureClass, Source, WeightSheet, weigh
from lighten.model.errors import PasswordNeededError, UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.sheet_json import dump_sheet, sheet_from_json
from lighten.model.weights import Part
from tests.builders import FolderCase, PdfBuilder, Show, chart, landscape, text_page
from tests.core.formats.pdf.samples import PHOTO, report, signed


def pictures(sheet: WeightSheet) -> list[Part]:
    return [part for part in sheet.parts if part.picture]


class Bytes(FolderCase):
    def test_bytes_add_up_to_the_file(self) -> None:
        source = report(self.folder / "a.pdf")
        sheet = weigh(source)
        self.assertEqual(sum(part.size_bytes for part in sheet.parts), source.path.stat().st_size)

    def test_bytes_add_up_in_every_way_of_writing(self) -> None:
        ways = (
            {"object_stream_mode": pikepdf.ObjectStreamMode.generate},
            {"linearize": True},
            {"qdf": True},
            {"encryption": pikepdf.Encryption(owner="o", user="", R=6)},
        )
        for number, way in enumerate(ways):
            with self.subTest(way=way):
                source = report(self.folder / f"{number}.pdf", **way)
                sheet = weigh(source)
                self.assertEqual(sheet.size_bytes, source.path.stat().st_size)
                self.assertEqual(len(pictures(sheet)), 3)

    def test_bytes_of_a_picture_include_its_soft_mask(self) -> None:
        sheet = weigh(report(self.folder / "a.pdf"))
        soft = next(
            part for part in pictures(sheet) if part.picture and part.picture.mask == "soft"
        )
        with pikepdf.open(self.folder / "a.pdf") as pdf:
            picture = pdf.pages[1].obj.Resources.XObject["/Soft"]
            stored = len(picture.read_raw_bytes()) + len(picture.SMask.read_raw_bytes())
        self.assertGreater(soft.size_bytes, stored)
        self.assertLess(soft.size_bytes, stored + 800)

    def test_bytes_of_an_earlier_save_are_leftovers(self) -> None:
        path = report(self.folder / "a.pdf").path
        before = path.read_bytes()
        with pikepdf.open(path) as pdf:
            root = pdf.Root.objgen[0]
            number = pdf.pages[0].Contents.objgen[0]
        # An incremental update (ISO 32000-1, 7.5.6) that replaces one stream.
        start = before.rindex(b"startxref") + len(b"startxref")
        old_xref = int(before[start:].split()[0])
        body = b"%d 0 obj\n<< /Length 3 >>\nstream\nq Q\nendstream\nendobj\n" % number
        xref = len(before) + 1 + len(body)
        update = b"\n" + body + b"xref\n%d 1\n%010d 00000 n \n" % (number, len(before) + 1)
        update += b"trailer << /Size 100 /Root %d 0 R /Prev %d >>\n" % (root, old_xref)
        path.write_bytes(before + update + b"startxref\n%d\n%%%%EOF\n" % xref)
        sheet = weigh(Source(path=path))
        left = [part for part in sheet.parts if part.extra is ExtraKind.LEFTOVERS]
        self.assertGreater(left[0].size_bytes, 40)

    @settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(
        st.lists(
            st.tuples(st.integers(1, 60), st.integers(1, 60), st.booleans()), min_size=1, max_size=5
        ),
        st.booleans(),
    )
    def test_bytes_add_up_for_any_document(
        self, shapes: list[tuple[int, int, bool]], has_object_streams: bool
    ) -> None:
        builder = PdfBuilder()
        for number, (width, height, is_jpeg) in enumerate(shapes):
            pixels = landscape(max(width, 8), max(height, 8), number)
            add = builder.jpeg if is_jpeg else builder.flate
            add(f"P{number}", pixels)
            builder.page(Show(f"P{number}", (width, 0, 0, height, 0, 0)))
        mode = (
            pikepdf.ObjectStreamMode.generate
            if has_object_streams
            else pikepdf.ObjectStreamMode.disable
        )
        source = Source(path=builder.save(self.folder / "any.pdf", object_stream_mode=mode))
        sheet = weigh(source)
        self.assertEqual(sum(part.size_bytes for part in sheet.parts), source.path.stat().st_size)
        self.assertEqual(sheet_from_json(dump_sheet(sheet)), sheet)


class Placements(FolderCase):
    def ppi_by_poppler(self, path: str) -> list[tuple[int, float]]:
        """Page and x-ppi of each showing, by poppler's pdfimages -list."""
        listed = subprocess.run(
            ["pdfimages", "-list", path], capture_output=True, text=True, check=True
        )
        rows = [line.split() for line in listed.stdout.splitlines()[2:]]
        return [(int(row[0]), float(row[12])) for row in rows if row[2] == "image"]

    def test_placements_agree_with_poppler(self) -> None:
        builder = PdfBuilder().jpeg("A", landscape(600, 400, 1)).flate("B", chart(300, 200, 1))
        builder.page(Show("A", (144, 0, 0, 96, 10, 10)), Show("B", (0, 144, -96, 0, 400, 300)))
        # Nested transformations, turned by 30 degrees.
        builder.page(
            content=b"q .5 0 0 .5 0 0 cm q .866 .5 -.5 .866 300 300 cm "
            b"400 0 0 300 0 0 cm /A Do Q Q\n"
        )
        builder.pdf.pages[1].obj.Resources.XObject["/A"] = builder.pictures["A"]
        path = builder.save(self.folder / "a.pdf")
        ours = sorted(
            (placement.page, part.picture.width_px / placement.width_pt * 72)
            for part in pictures(weigh(Source(path=path)))
            if part.picture
            for placement in part.picture.placements
        )
        theirs = sorted(self.ppi_by_poppler(str(path)))
        self.assertEqual([page for page, _ in ours], [page for page, _ in theirs])
        for (_, one), (_, other) in zip(ours, theirs, strict=True):
            self.assertAlmostEqual(one, other, delta=1)

    def test_placements_of_a_shared_picture_count_once_with_all_pages(self) -> None:
        sheet = weigh(report(self.folder / "a.pdf"))
        photo = next(p for p in pictures(sheet) if p.picture and len(p.picture.placements) == 2)
        assert photo.picture is not None
        self.assertEqual(photo.picture.pages, (1, 2))
        # 900 px over 216 pt, the larger of two showings: 300 ppi.
        self.assertAlmostEqual(photo.picture.ppi or 0, 300)

    def test_placements_are_found_in_nested_forms_patterns_and_annotations(self) -> None:
        builder = PdfBuilder().jpeg("A", PHOTO).jpeg("B", PHOTO[:300]).jpeg("C", PHOTO[:200])
        pdf = builder.pdf

        def form(name: str, content: bytes, **entries: object) -> pikepdf.Object:
            stream = pdf.make_stream(content)
            resources = pikepdf.Dictionary({f"/{name}": builder.pictures[name]})
            stream.Resources = pikepdf.Dictionary(XObject=resources)
            stream.BBox = pikepdf.Array([0, 0, 100, 100])
            for key, value in entries.items():
                stream[f"/{key}"] = value
            return stream

        inner = form(
            "A", b"90 0 0 60 0 0 cm /A Do", Subtype=pikepdf.Name.Form, Matrix=[2, 0, 0, 2, 0, 0]
        )
        tile = form(
            "B",
            b"50 0 0 50 0 0 cm /B Do",
            PatternType=1,
            PaintType=1,
            TilingType=1,
            XStep=50,
            YStep=50,
        )
        look = form("C", b"100 0 0 100 0 0 cm /C Do", Subtype=pikepdf.Name.Form)
        builder.page(content=b"/Fm Do /Pattern cs /T scn 0 0 200 200 re f\n")
        page = pdf.pages[0].obj
        page.Resources.XObject["/Fm"] = inner
        page.Resources.Pattern = pikepdf.Dictionary(T=tile)
        page.Annots = pikepdf.Array(
            [
                pikepdf.Dictionary(
                    Subtype=pikepdf.Name.Stamp, Rect=[10, 10, 60, 60], AP=pikepdf.Dictionary(N=look)
                )
            ]
        )
        sheet = weigh(Source(path=builder.save(self.folder / "a.pdf")))
        widths = sorted(
            round(part.picture.largest_display_pt[0])
            for part in pictures(sheet)
            if part.picture and part.picture.largest_display_pt
        )
        self.assertEqual(widths, [50, 50, 180])


class Facts(FolderCase):
    def test_facts_give_coding_colour_bits_and_class(self) -> None:
        rows = np.packbits(np.indices((64, 64)).sum(axis=0) % 5 == 0, axis=1)
        builder = PdfBuilder().jpeg("A", PHOTO).flate("B", chart(300, 200, 1))
        builder.stream(
            "C",
            zlib.compress(rows.tobytes()),
            size=(64, 64),
            bits=1,
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.DeviceGray,
        )
        builder.page(*(Show(name, (72, 0, 0, 72, 0, 0)) for name in "ABC"))
        found = {
            (p.picture.coding, p.picture.colour, p.picture.bits, p.picture.picture_class)
            for p in pictures(weigh(Source(path=builder.save(self.folder / "a.pdf"))))
            if p.picture
        }
        self.assertEqual(
            found,
            {
                ("DCT", "DeviceRGB", 8, PictureClass.PHOTO),
                ("Flate", "DeviceRGB", 8, PictureClass.GRAPHIC),
                ("Flate", "DeviceGray", 1, PictureClass.BITONAL),
            },
        )

    def test_facts_name_what_is_not_understood_yet(self) -> None:
        builder = PdfBuilder().stream(
            "A",
            zlib.compress(bytes(1200)),
            size=(20, 20),
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.Pattern,
        )
        builder.page(Show("A", (72, 0, 0, 72, 0, 0)))
        (part,) = pictures(weigh(Source(path=builder.save(self.folder / "a.pdf"))))
        assert part.picture is not None
        self.assertIn("Pattern", part.picture.untouchable)

    def test_facts_name_signatures(self) -> None:
        self.assertTrue(weigh(signed(self.folder / "a.pdf")).is_signed)
        self.assertFalse(weigh(report(self.folder / "b.pdf")).is_signed)

    def test_name_fonts(self) -> None:
        builder = PdfBuilder().page(content=text_page("x"))
        font_file = builder.pdf.make_stream(b"not a real font, but it weighs" * 20)
        descriptor = pikepdf.Dictionary(
            Type=pikepdf.Name.FontDescriptor,
            FontName=pikepdf.Name("/ABCDEF+Fen"),
            FontFile2=font_file,
        )
        builder.pdf.pages[0].obj.Resources.Font.F1.FontDescriptor = builder.pdf.make_indirect(
            descriptor
        )
        sheet = weigh(Source(path=builder.save(self.folder / "a.pdf")))
        self.assertEqual([p.name for p in sheet.parts if p.kind is PartKind.FONT], ["Fen"])


class BadInput(FolderCase):
    def test_locked_files_ask_for_the_password(self) -> None:
        lock = pikepdf.Encryption(owner="owner", user="reed", R=6)
        source = report(self.folder / "locked.pdf", encryption=lock)
        with self.assertRaisesRegex(PasswordNeededError, "locked.pdf.*password"):
            weigh(source)
        self.assertEqual(weigh(Source(path=source.path, password="reed")).pages, 2)

    def test_damage_is_said_or_repaired_and_said(self) -> None:
        path = report(self.folder / "a.pdf").path
        whole = path.read_bytes()
        cut = self.folder / "cut.pdf"
        cut.write_bytes(whole[:300])
        with self.assertRaisesRegex(UnreadableFileError, "cut.pdf: .*Save or scan"):
            weigh(Source(path=cut))
        path.write_bytes(whole.replace(b"startxref", b"startyref"))
        sheet = weigh(Source(path=path))
        self.assertIn("Damaged", sheet.remarks[0])
        self.assertEqual(sheet.pages, 2)
