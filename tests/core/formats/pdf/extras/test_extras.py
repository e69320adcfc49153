"""What a page does not need: found, named, weighed; dropped only where the preset says so."""

import pikepdf

from lighten import PartKind, Source, WeightSheet, make_copy, plan, preset_named, weigh
from lighten.model.kinds import ExtraKind
from tests.builders import FolderCase, PdfBuilder, Show, landscape, text_page
from tests.core.formats.pdf.samples import PHOTO

NOISE = bytes(range(256)) * 40


def bloated() -> PdfBuilder:
    """One page with a thumbnail, private data of two programs, an attachment, a script, XMP."""
    builder = PdfBuilder().jpeg("A", PHOTO).jpeg("Thumb", landscape(80, 60, 1))
    builder.page(Show("A", (216, 0, 0, 144, 72, 400)), content=text_page("Fen"))
    pdf, page = builder.pdf, builder.pdf.pages[0].obj
    page.Thumb = builder.pictures["Thumb"]
    private = pdf.make_stream(NOISE)
    page.PieceInfo = pikepdf.Dictionary(
        Sketcher=pikepdf.Dictionary(LastModified="D:2026", Private=private)
    )
    layers = pikepdf.Dictionary(Layers=pikepdf.Array([pdf.make_stream(NOISE + b"2")]))
    pdf.Root.PieceInfo = pikepdf.Dictionary(Typesetter=pikepdf.Dictionary(Private=layers))
    pdf.attachments["ledger.csv"] = b"ring,species\n" * 500
    script = pikepdf.Dictionary(
        S=pikepdf.Name.JavaScript, JS=pdf.make_stream(b"app.alert('hello');" * 30)
    )
    pdf.Root.OpenAction = pdf.make_indirect(script)
    xmp = pdf.make_stream(b"<x:xmpmeta xmlns:x='adobe:ns:meta/'></x:xmpmeta>")
    xmp.Type, xmp.Subtype = pikepdf.Name.Metadata, pikepdf.Name.XML
    pdf.Root.Metadata = xmp
    return builder


def extras(sheet: WeightSheet) -> dict[ExtraKind, int]:
    return {part.extra: part.size_bytes for part in sheet.parts if part.extra}


class Extras(FolderCase):
    def test_extras_are_found_each_with_its_weight(self) -> None:
        # Streams as they are, so that their bytes are known.
        path = bloated().save(self.folder / "a.pdf", compress_streams=False)
        found = extras(weigh(Source(path=path)))
        self.assertEqual(
            set(found),
            {
                ExtraKind.THUMBNAILS,
                ExtraKind.PRIVATE_DATA,
                ExtraKind.ATTACHMENTS,
                ExtraKind.SCRIPTS,
                ExtraKind.METADATA,
            },
        )
        self.assertGreater(found[ExtraKind.PRIVATE_DATA], 2 * len(NOISE))
        self.assertLess(found[ExtraKind.PRIVATE_DATA], 2 * len(NOISE) + 400)
        self.assertGreater(found[ExtraKind.SCRIPTS], 19 * 30)

    def copy_with(self, preset: str) -> tuple[WeightSheet, pikepdf.Pdf]:
        source = Source(path=bloated().save(self.folder / "a.pdf"))
        sheet = weigh(source)
        out = self.folder / f"{preset}.pdf"
        copy = make_copy(source, sheet, plan(sheet, preset_named(preset)), out)
        assert copy.path is not None
        pdf = pikepdf.open(copy.path)
        self.addCleanup(pdf.close)
        return weigh(Source(path=copy.path)), pdf

    def test_extras_that_no_page_needs_go_in_lossy_presets(self) -> None:
        sheet, pdf = self.copy_with("reading-desk")
        left = {ExtraKind.ATTACHMENTS, ExtraKind.SCRIPTS, ExtraKind.METADATA}
        self.assertEqual(set(extras(sheet)), left)
        self.assertNotIn("/Thumb", pdf.pages[0].obj)
        self.assertNotIn("/PieceInfo", pdf.Root)

    def test_extras_stay_where_nothing_may_change(self) -> None:
        sheet, pdf = self.copy_with("as-it-was")
        self.assertEqual(len(extras(sheet)), 5)
        self.assertIn("/Thumb", pdf.pages[0].obj)

    def test_extras_that_people_put_in_always_stay(self) -> None:
        for preset in ("as-it-was", "reading-desk", "post"):
            _, pdf = self.copy_with(preset)
            self.assertEqual(pdf.attachments["ledger.csv"].get_file().read_bytes()[:4], b"ring")
            (self.folder / f"{preset}.pdf").unlink()

    def test_descriptions_stay_as_they_are_and_readable_without_a_pdf_reader(self) -> None:
        # ISO 32000-1, 14.3.2 advises against filters on metadata.
        _, pdf = self.copy_with("reading-desk")
        kept = pdf.Root.Metadata.read_bytes()
        self.assertEqual(kept, b"<x:xmpmeta xmlns:x='adobe:ns:meta/'></x:xmpmeta>")
        self.assertIn(kept, (self.folder / "reading-desk.pdf").read_bytes())


class Archives(FolderCase):
    def archive(self, part: int, level: str) -> Source:
        builder = PdfBuilder().jpeg("A", PHOTO).page(Show("A", (216, 0, 0, 144, 72, 400)))
        xmp = builder.pdf.make_stream(
            b"<x:xmpmeta xmlns:x='adobe:ns:meta/'>"
            b"<rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
            b"<rdf:Description xmlns:pdfaid='http://www.aiim.org/pdfa/ns/id/'>"
            b"<pdfaid:part>%d</pdfaid:part><pdfaid:conformance>%s</pdfaid:conformance>"
            b"</rdf:Description></rdf:RDF></x:xmpmeta>" % (part, level.encode())
        )
        xmp.Type, xmp.Subtype = pikepdf.Name.Metadata, pikepdf.Name.XML
        builder.pdf.Root.Metadata = xmp
        return Source(path=builder.save(self.folder / f"a{part}.pdf"))

    def test_archives_are_recognised_by_their_claim(self) -> None:
        # ISO 19005-1, 6.7.11: pdfaid:part and pdfaid:conformance.
        self.assertEqual(weigh(self.archive(2, "B")).rules.standard, "PDF/A-2b")

    def test_archives_of_part_one_get_no_object_streams(self) -> None:
        # ISO 19005-1, 6.1.4 rests on PDF 1.4, which has none; part 2 allows them.
        for part, has_them in ((1, False), (2, True)):
            source = self.archive(part, "B")
            sheet = weigh(source)
            out = self.folder / f"copy{part}.pdf"
            make_copy(source, sheet, plan(sheet, preset_named("post")), out)
            self.assertEqual(b"/ObjStm" in out.read_bytes(), has_them)
            self.assertEqual(weigh(Source(path=out)).rules.standard, f"PDF/A-{part}b")


class Fonts(FolderCase):
    def test_fonts_used_by_many_pages_count_once(self) -> None:
        builder = PdfBuilder()
        font_file = builder.pdf.make_stream(NOISE)
        for number in range(3):
            builder.page(content=text_page(f"page {number}"))
            descriptor = pikepdf.Dictionary(
                Type=pikepdf.Name.FontDescriptor,
                FontName=pikepdf.Name.Fen,
                FontFile2=font_file,
            )
            font = builder.pdf.pages[number].obj.Resources.Font.F1
            font.FontDescriptor = builder.pdf.make_indirect(descriptor)
        sheet = weigh(Source(path=builder.save(self.folder / "a.pdf", compress_streams=False)))
        (font_part,) = (part for part in sheet.parts if part.kind is PartKind.FONT)
        self.assertAlmostEqual(font_part.size_bytes, len(NOISE), delta=120)
