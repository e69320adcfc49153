"""Text documents of ECMA-376, from weighing to proof; what comes out is read by python-docx."""

import io
import zipfile
from typing import Any

import docx
import numpy as np
from docx.shared import Pt
from lxml import etree
from PIL import Image

from lighten import (
    ExtraKind,
    FitOrder,
    Order,
    PartException,
    PartKind,
    PictureFacts,
    Preset,
    Source,
    Treatment,
    Verdict,
    WeightSheet,
    make,
    weigh,
)
from lighten.model.errors import (
    LightenError,
    PasswordNeededError,
    SignedFileError,
    UnreadableFileError,
)
from tests.builders import chart
from tests.core.formats.docx.samples import handbook, saved
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import picture_file, rewritten, with_members

ARTIST = 0x013B
_RSID = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}rsidR"


class DocxCase(PackageCase):
    def document(self, *pictures: io.BytesIO, width: float = 144) -> Source:
        document = docx.Document()
        for picture in pictures:
            document.add_picture(picture, width=Pt(width))
        return saved(document, self.folder / "made.docx")

    def facts(self, sheet: WeightSheet) -> list[PictureFacts]:
        return [part.picture for part in sheet.parts if part.picture]


class Weighing(DocxCase):
    def test_pictures_are_named_by_the_text_near_them(self) -> None:
        sheet = weigh(handbook(self.folder / "a.docx"))
        names = [part.name for part in sheet.parts if part.picture]
        self.assertEqual(names[0], "Picture 1, near “Nets at the north reed bed”")
        self.assertEqual(names[1], "Picture 2, near “Rings”")

    def test_a_picture_shown_twice_is_one_part_of_the_larger_size(self) -> None:
        photo, bitmap = self.facts(weigh(handbook(self.folder / "a.docx")))
        self.assertEqual(len(photo.placements), 2)
        self.assertEqual(photo.largest_display_pt, (216, 144))
        self.assertEqual(photo.ppi, 300)  # 900 pixels on 3 inches
        self.assertEqual((bitmap.coding, bitmap.width_px), ("BMP", 480))

    def test_kinds_of_parts_are_distinguished(self) -> None:
        kinds = weigh(handbook(self.folder / "a.docx")).bytes_by_kind()
        self.assertGreater(kinds[PartKind.PICTURE], kinds[PartKind.TEXT])
        self.assertTrue({PartKind.STYLES, PartKind.EXTRA, PartKind.STRUCTURE} <= kinds.keys())

    def test_pictures_in_headers_and_backgrounds_are_found(self) -> None:
        document = docx.Document()
        document.sections[0].header.paragraphs[0].add_run().add_picture(
            picture_file(), width=Pt(90)
        )
        sheet = weigh(saved(document, self.folder / "header.docx"))
        (facts,) = self.facts(sheet)
        self.assertEqual(facts.largest_display_pt, (90, 60))
        self.assertIn("word/header1.xml#1", [part.id for part in sheet.parts])

    def test_a_picture_that_only_an_unused_relation_leads_to_is_shown_nowhere(self) -> None:
        source = rewritten(
            self.document(picture_file()),
            {"word/document.xml": lambda xml: _without(xml, "{*}drawing")},
        )
        (facts,) = self.facts(weigh(source))
        self.assertEqual(facts.placements, ())
        self.assertNotIn("word/media/image1.jpg", self.members(self.make(source)))


class Pictures(DocxCase):
    def test_pictures_are_resampled_to_the_resolution_of_their_largest_placement(self) -> None:
        members = self.members(self.make(handbook(self.folder / "a.docx")))
        photo = Image.open(io.BytesIO(members["word/media/image1.jpg"]))
        self.assertEqual(photo.size, (450, 300))  # 3 x 2 inches at 150 ppi

    def test_a_bitmap_becomes_what_is_lighter_with_all_that_names_it(self) -> None:
        made = self.make(handbook(self.folder / "a.docx"))
        members = self.members(made)
        (name,) = [name for name in members if name.startswith("word/media/image2.")]
        self.assertIn(name.rpartition(".")[2], ("png", "jpeg"))
        assert made.copy.path is not None
        parts = docx.Document(str(made.copy.path)).part.package.iter_parts()
        kinds = {str(part.partname): part.content_type for part in parts}
        self.assertEqual(kinds[f"/{name}"], f"image/{name.rpartition('.')[2]}")

    def cropped(self) -> tuple[Any, Any]:
        """A document, and the fill of a picture in it of which the left and the foot are hidden."""
        document = docx.Document()
        fill = document.add_picture(
            picture_file(), width=Pt(144)
        )._inline.graphic.graphicData.pic.blipFill
        name = f"{{{fill.nsmap['a']}}}srcRect"
        fill.insert(1, etree.SubElement(fill, name, l="40000", b="50000"))
        return document, fill

    def test_a_cropped_picture_is_cut_to_what_any_showing_has(self) -> None:
        document, _ = self.cropped()
        source = saved(document, self.folder / "cropped.docx")
        made = self.make(source)
        members = self.members(made)
        photo = Image.open(io.BytesIO(members["word/media/image1.jpg"]))
        # 2 x 1.33 inches at 150 ppi show .6 x .5 of it; a hundredth more stays at each cut side.
        self.assertAlmostEqual(photo.width, 300 * 0.61 / 0.6, delta=1)
        self.assertAlmostEqual(photo.height, 200 * 0.51 / 0.5, delta=1)
        (left,) = etree.fromstring(members["word/document.xml"]).xpath("//@l")
        self.assertAlmostEqual(int(left) / 100_000, 0.01 / 0.61, delta=0.003)
        self.assertTrue(any(outcome.is_cut for outcome in made.copy.outcomes))
        kept = self.make(source, "print-room")
        self.assertFalse(any(outcome.is_cut for outcome in kept.copy.outcomes))

    def test_a_crop_that_serves_a_drawing_as_well_cuts_nothing(self) -> None:
        document, fill = self.cropped()
        blip = fill[0]
        (embed,) = [key for key in blip.attrib if key.endswith("}embed")]
        etree.SubElement(blip, "{urn:svg}svgBlip", {embed: blip.get(embed)})
        made = self.make(saved(document, self.folder / "drawing.docx"))
        self.assertFalse(any(outcome.is_cut for outcome in made.copy.outcomes))
        photo = Image.open(io.BytesIO(self.members(made)["word/media/image1.jpg"]))
        self.assertAlmostEqual(photo.width, 300 / 0.6, delta=1)

    def test_pictures_see_through_pictures_stay_so(self) -> None:
        pixels = np.dstack([chart(600, 400, seed=1), np.tile(np.arange(600) // 3, (400, 1))])
        file = io.BytesIO()
        Image.fromarray(pixels.astype(np.uint8), "RGBA").save(file, "PNG", compress_level=1)
        file.seek(0)
        members = self.members(self.make(self.document(file)))
        picture = Image.open(io.BytesIO(members["word/media/image1.png"])).convert("RGBA")
        self.assertEqual(picture.getchannel("A").getextrema()[0], 0)

    def test_moving_pictures_stay_to_the_byte_and_still_ones_become_a_png(self) -> None:
        frames = [Image.fromarray(chart(300, 200, seed=seed)) for seed in range(3)]
        moving, still = io.BytesIO(), io.BytesIO()
        frames[0].save(moving, "GIF", save_all=True, append_images=frames[1:])
        frames[0].save(still, "GIF")
        whole = moving.getvalue()
        for file in (moving, still):
            file.seek(0)
        members = self.members(self.make(self.document(moving, still, picture_file())))
        self.assertEqual(members["word/media/image1.gif"], whole)
        self.assertNotIn("word/media/image2.gif", members)
        shown = Image.open(io.BytesIO(members["word/media/image2.png"]))
        self.assertEqual((shown.format, shown.size), ("PNG", (300, 200)))

    def test_the_same_picture_in_two_members_is_stored_once(self) -> None:
        source = self.document(picture_file(), picture_file("PNG"))
        with zipfile.ZipFile(source.path) as file:
            members = {name: file.read(name) for name in file.namelist()}
        members["word/media/image2.png"] = members["word/media/image1.jpg"]
        members["[Content_Types].xml"] = members["[Content_Types].xml"].replace(
            b'Extension="png" ContentType="image/png"', b'Extension="png" ContentType="image/jpeg"'
        )
        source = with_members(source.path, members)
        sheet = weigh(source)
        self.assertEqual(len(self.facts(sheet)), 1)
        self.assertGreater(
            sum(part.size_bytes for part in sheet.parts if part.extra is ExtraKind.REPEATS), 1000
        )
        made = self.make(source)
        media = [name for name in self.members(made) if "/media/" in name]
        self.assertEqual(len(media), 1)
        assert made.copy.path is not None
        shapes = docx.Document(str(made.copy.path)).inline_shapes
        self.assertEqual(len(shapes), 2)

    def test_a_supplied_picture_replaces_one(self) -> None:
        source = self.document(picture_file(), width=288)
        path = self.folder / "own.png"
        Image.fromarray(chart(1200, 800, seed=4)).save(path)
        (part,) = [part for part in weigh(source).parts if part.picture]
        chosen = {part.id: PartException(replacement=path)}
        made = self.make(source, exceptions=chosen)
        (name,) = [name for name in self.members(made) if "/media/" in name]
        shown = Image.open(io.BytesIO(self.members(made)[name])).convert("RGB")
        own = Image.fromarray(chart(1200, 800, seed=4)).resize(shown.size)
        self.assertLess(np.abs(np.asarray(shown, int) - np.asarray(own, int)).mean(), 6)

    def test_an_exempted_picture_stays_to_the_byte(self) -> None:
        source = self.document(picture_file(), picture_file("BMP", 480, 320))
        first, _ = [part for part in weigh(source).parts if part.picture]
        made = self.make(source, exceptions={first.id: PartException(is_exempt=True)})
        with zipfile.ZipFile(source.path) as file:
            whole = file.read("word/media/image1.jpg")
        self.assertEqual(self.members(made)["word/media/image1.jpg"], whole)

    def test_a_tiff_becomes_what_readers_show_more_easily(self) -> None:
        members = self.members(self.make(self.document(picture_file("TIFF"))))
        self.assertIn("word/media/image1.jpeg", members)

    def test_a_limit_is_met_with_the_least_loss(self) -> None:
        source = self.document(*(picture_file(quality=97 - step) for step in range(3)), width=400)
        limit = source.path.stat().st_size // 3
        made = self.make(source, fit=FitOrder(limit_bytes=limit))
        self.assertLessEqual(made.copy.bytes_after, limit)
        self.assertGreater(made.copy.bytes_after, limit * 0.8)

    def test_camera_data_goes_from_pictures_but_which_side_is_up(self) -> None:
        exif = Image.Exif()
        exif[0x0112], exif[0x0110] = 6, "Fenlight 3"
        made = self.make(self.document(picture_file(exif=exif)))
        picture = Image.open(io.BytesIO(self.members(made)["word/media/image1.jpg"]))
        self.assertEqual(dict(picture.getexif()), {0x0112: 6})

    def test_camera_data_stay_unless_their_removal_is_chosen(self) -> None:
        made = self.make(self.document(picture_file()), "as-it-was")
        picture = Image.open(io.BytesIO(self.members(made)["word/media/image1.jpg"]))
        self.assertIn(ARTIST, picture.getexif())


class Words(DocxCase):
    def test_traces_of_editing_go_and_equal_runs_are_joined(self) -> None:
        document = docx.Document()
        paragraph = document.add_paragraph()
        for number, words in enumerate(("Furl ", "the nets", " when it ", "rains.")):
            run = paragraph.add_run(words)
            run._r.set(_RSID, f"00AB{number:04X}")
            run.bold = number == 2
        for number in range(50):
            document.add_paragraph("Walk the nets.")._p.set(_RSID, f"00CD{number:04X}")
        made = self.make(saved(document, self.folder / "runs.docx"))
        self.assertNotIn(b"rsid", self.members(made)["word/document.xml"])
        assert made.copy.path is not None
        runs = docx.Document(str(made.copy.path)).paragraphs[0].runs
        self.assertEqual(
            [(run.text, bool(run.bold)) for run in runs],
            [("Furl the nets", False), (" when it ", True), ("rains.", False)],
        )

    def test_runs_with_content_besides_text_are_not_joined(self) -> None:
        document = docx.Document()
        paragraph = document.add_paragraph("See ")
        paragraph.add_run("here").add_break()
        field = etree.SubElement(paragraph.add_run()._r, _RSID.replace("rsidR", "fldChar"))
        field.set(_RSID.replace("rsidR", "fldCharType"), "begin")
        paragraph.add_run("there")
        made = self.make(saved(document, self.folder / "fields.docx"))
        assert made.copy.path is not None
        kept = docx.Document(str(made.copy.path)).paragraphs[0]
        self.assertEqual(kept.text, "See here\nthere")
        self.assertEqual(len(kept.runs), 3)

    def test_comments_and_changes_stay_unless_a_person_chooses(self) -> None:
        document = docx.Document()
        run = document.add_paragraph().add_run("Which nets?")
        document.add_comment([run], text="The lower two.", author="A. Warden")
        document.add_picture(picture_file(), width=Pt(72))
        source = saved(document, self.folder / "noted.docx")
        self.assertIn("word/comments.xml", self.members(self.make(source)))
        without = Treatment(dropped_extras=frozenset({ExtraKind.NOTES}))
        made = self.make(source, Preset(name="", title="", description="", treatment=without))
        members = self.members(made)
        self.assertNotIn("word/comments.xml", members)
        self.assertNotIn(b"comment", members["word/document.xml"])

    def test_built_in_styles_go_and_those_a_person_made_stay(self) -> None:
        document = docx.Document()
        document.styles.add_style("Station notice", docx.enum.style.WD_STYLE_TYPE.PARAGRAPH)
        document.add_paragraph("Words", style="Quote")
        made = self.make(saved(document, self.folder / "styles.docx"))
        assert made.copy.path is not None
        names = {style.name for style in docx.Document(str(made.copy.path)).styles}
        self.assertTrue({"Station notice", "Quote", "Normal"} <= names)
        self.assertNotIn("Colorful Grid Accent 6", names)

    def test_templates_keep_every_style(self) -> None:
        source = rewritten(
            handbook(self.folder / "a.docx"),
            {
                "[Content_Types].xml": lambda xml: xml.replace(
                    b"wordprocessingml.document.main+xml", b"wordprocessingml.template.main+xml"
                )
            },
        )
        sheet = weigh(source)
        self.assertTrue(sheet.media_type.endswith("template"))
        self.assertNotIn(ExtraKind.UNUSED_STYLES, {part.extra for part in sheet.parts})

    def test_a_word_that_is_lost_is_found(self) -> None:
        source = handbook(self.folder / "a.docx")
        sheet = weigh(source)
        made = make(source, sheet, Order(), self.folder / "copy.docx")
        assert made.copy.path is not None
        broken = rewritten(
            Source(path=made.copy.path),
            {"word/document.xml": lambda xml: xml.replace(b"note the time", b"note the tune", 1)},
        )
        from lighten.proving.compare import prove

        proof = prove(source, broken, sheet, made.copy.outcomes)
        self.assertIs(proof.verdict, Verdict.CHECK)
        self.assertIn("paragraphs", proof.reasons[0])


class BadInput(DocxCase):
    def refused(self, source: Source, error: type[LightenError]) -> None:
        before = source.path.read_bytes()
        with self.assertRaises(error) as caught:
            self.make(source)
        self.assertIn(source.name, caught.exception.message)
        self.assertEqual(source.path.read_bytes(), before)

    def test_entities_are_refused(self) -> None:
        bomb = b'<!DOCTYPE a [<!ENTITY b "x"><!ENTITY c SYSTEM "file:///etc/passwd">]><a>&c;</a>'
        for changed in (bomb, bomb.decode().encode("utf-16")):
            source = rewritten(
                handbook(self.folder / "a.docx"),
                {"word/document.xml": lambda _xml, changed=changed: changed},  # type: ignore[misc]
            )
            self.refused(source, UnreadableFileError)

    def test_missing_members_and_dangling_relations_are_reported(self) -> None:
        for name in ("[Content_Types].xml", "word/document.xml"):
            source = handbook(self.folder / "a.docx")
            with zipfile.ZipFile(source.path) as file:
                members = {member: file.read(member) for member in file.namelist()}
            del members[name]
            self.refused(with_members(source.path, members), UnreadableFileError)

    def test_a_relation_to_nothing_stays_as_it_is(self) -> None:
        source = rewritten(
            handbook(self.folder / "a.docx"),
            {"word/_rels/document.xml.rels": lambda xml: xml.replace(b"theme1", b"theme9")},
        )
        self.assertIsNotNone(self.make(source).copy.path)

    def test_signed_ones_are_not_changed_without_a_word(self) -> None:
        source = handbook(self.folder / "a.docx")
        signature = b'ContentType="application/vnd.openxmlformats-package.digital-signature-origin"'
        source = rewritten(
            source,
            {
                "[Content_Types].xml": lambda xml: xml.replace(
                    b"</Types>",
                    b'<Override PartName="/_xmlsignatures/o.sigs" %s/></Types>' % signature,
                )
            },
        )
        self.assertTrue(weigh(source).is_signed)
        self.refused(source, SignedFileError)

    def test_encrypted_documents_are_reported_as_such(self) -> None:
        path = self.folder / "locked.docx"
        path.write_bytes(
            b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
            + bytes(600)
            + "EncryptedPackage".encode("utf-16-le")
        )
        self.refused(Source(path=path), PasswordNeededError)

    def test_a_group_within_itself_many_times_over_is_too_deep(self) -> None:
        deep = b"<w:p>" * 400 + b"</w:p>" * 400
        source = rewritten(
            handbook(self.folder / "a.docx"),
            {"word/document.xml": lambda xml: xml.replace(b"<w:sectPr", deep + b"<w:sectPr", 1)},
        )
        self.refused(source, UnreadableFileError)


def _without(xml: bytes, path: str) -> bytes:
    root = etree.fromstring(xml)
    for element in root.findall(f".//{path}"):
        element.getparent().remove(element)
    return etree.tostring(root)
