"""Slides weighed, made lighter and proved; looked at with python-pptx, which had no part in it.

Sources: ECMA-376 part 1, clause 19; sizes in EMU, 12,700 to the point (20.1.2.1).
"""

import io
import zipfile
from typing import Any

import pptx
from lxml import etree
from PIL import Image
from pptx.util import Emu, Pt

from lighten import (
    ExtraKind,
    PartKind,
    Preset,
    Source,
    Verdict,
    make_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from lighten.model.errors import PasswordNeededError, UnreadableFileError
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import picture_file, rewritten, with_members
from tests.core.formats.pptx.samples import saved, talk

_SLIDE = "ppt/slides/slide{}.xml"


def without(*extras: ExtraKind) -> Preset:
    """Reading desk, and those extras out as well."""
    from dataclasses import replace

    preset = preset_named("reading-desk")
    dropped = preset.treatment.dropped_extras | set(extras)
    return replace(preset, treatment=replace(preset.treatment, dropped_extras=dropped))


class SlidesCase(PackageCase):
    def talk(self) -> Source:
        return talk(self.folder / "talk.pptx")

    def opened(self, made: Any) -> Any:
        return pptx.Presentation(str(made.copy.path))


class Weighing(SlidesCase):
    def test_parts_add_up_and_kinds_are_distinguished(self) -> None:
        sheet = weigh(self.talk())
        self.assertEqual(sheet.format, "pptx")
        kinds = sheet.bytes_by_kind()
        expected = {PartKind.PICTURE, PartKind.TEXT, PartKind.STYLES, PartKind.MEDIA}
        self.assertTrue(expected <= kinds.keys(), kinds)
        film = next(part for part in sheet.parts if part.kind is PartKind.MEDIA)
        self.assertIs(film.removed_with, ExtraKind.MEDIA)

    def test_a_picture_counts_once_as_large_as_any_slide_shows_it(self) -> None:
        pictures = [part for part in weigh(self.talk()).parts if part.picture]
        photo = next(part for part in pictures if part.picture.coding == "JPEG")
        self.assertEqual(len(photo.picture.placements), 2)
        self.assertEqual(photo.picture.largest_display_pt, (216, 144))
        self.assertEqual(photo.picture.near, "slide 2: Nets at dawn")

    def test_weighing_on_a_master_it_is_as_large_as_there_and_in_a_background_as_the_slide(
        self,
    ) -> None:
        deck = pptx.Presentation()
        deck.slide_width, deck.slide_height = Pt(720), Pt(405)
        slide = deck.slides.add_slide(deck.slide_layouts[6])
        picture = slide.shapes.add_picture(picture_file(), 0, 0, width=Pt(90))
        blip = picture._element.blipFill
        background = etree.fromstring(
            '<p:bg xmlns:p="http://schemas.openxmlformats.org/presentationml/2006/main"><p:bgPr/>'
            "</p:bg>"
        )
        fill = etree.fromstring(etree.tostring(blip).replace(b"p:blipFill", b"a:blipFill"))
        background[0].append(fill)
        slide._element.cSld.insert(0, background)
        picture._element.getparent().remove(picture._element)
        (part,) = [
            part for part in weigh(saved(deck, self.folder / "bg.pptx")).parts if part.picture
        ]
        self.assertEqual(part.picture.largest_display_pt, (720, 405))

    def test_weighing_in_a_placeholder_it_is_as_large_as_the_layout_says(self) -> None:
        deck = pptx.Presentation()
        layout = deck.slide_layouts[8]
        slide = deck.slides.add_slide(layout)
        place = next(one for one in slide.placeholders if one.placeholder_format.idx == 1)
        place.insert_picture(picture_file())
        (facts,) = [
            part.picture
            for part in weigh(saved(deck, self.folder / "place.pptx")).parts
            if part.picture
        ]
        frame = next(one for one in layout.placeholders if one.placeholder_format.idx == 1)
        left, _, right, _ = facts.visible
        shown = facts.largest_display_pt[0] * (right - left)
        self.assertAlmostEqual(shown, Emu(frame.width).pt, delta=0.5)


class Copies(SlidesCase):
    def test_copies_keep_words_shapes_notes_and_films_and_resample_pictures(self) -> None:
        source = self.talk()
        made = self.make(source)
        before, after = pptx.Presentation(str(source.path)), self.opened(made)
        for old, new in zip(before.slides, after.slides, strict=True):
            told = [
                [
                    (shape.shape_id, shape.name, shape.left, shape.width, shape.has_text_frame)
                    for shape in slide.shapes
                ]
                for slide in (old, new)
            ]
            self.assertEqual(told[0], told[1])
        self.assertEqual(after.slides[0].notes_slide.notes_text_frame.text, "Thank the volunteers.")
        photo = after.slides[2].shapes[0].image
        self.assertEqual(photo.size, (450, 300))  # 3 x 2 inches at 150 ppi
        films = [part for part in weigh(Source(path=made.copy.path)).parts if part.removed_with]
        self.assertTrue(films)

    def test_layouts_no_slide_uses_go_on_request_with_pictures_only_they_show(self) -> None:
        deck = pptx.Presentation()
        idle = deck.slide_layouts[3]
        slide = deck.slides.add_slide(deck.slide_layouts[6])
        picture = slide.shapes.add_picture(picture_file(), 0, 0, width=Pt(90))
        _, relation = idle.part.get_or_add_image_part(picture_file("PNG", 400, 300))
        own = etree.fromstring(etree.tostring(picture._element))
        (blip,) = own.iter("{*}blip")
        blip.set(next(key for key in blip.attrib if key.endswith("}embed")), relation)
        idle.shapes._spTree.append(own)
        source = saved(deck, self.folder / "layouts.pptx")
        kept = self.opened(self.make(source))
        self.assertEqual(len(kept.slide_layouts), 11)
        made = self.make(source, without(ExtraKind.UNUSED_LAYOUTS))
        self.assertEqual([one.name for one in self.opened(made).slide_layouts], ["Blank"])
        self.assertEqual(sum("media" in name for name in self.members(made)), 1)

    def test_films_go_on_request_and_their_still_picture_stays(self) -> None:
        made = self.make(self.talk(), without(ExtraKind.MEDIA))
        members = self.members(made)
        self.assertFalse([name for name in members if name.endswith(".mp4")])
        slide = self.opened(made).slides[2]
        self.assertEqual(len(slide.shapes), 2)
        xml = members[_SLIDE.format(3)]
        for gone in (b"videoFile", b"p14:media", b"<p:video", b"ppaction://media"):
            self.assertNotIn(gone, xml)
        # Nothing is left of an animation that only played it.
        self.assertNotIn(b"childTnLst/", xml)

    def test_speaker_notes_go_only_on_request(self) -> None:
        source = self.talk()
        self.assertTrue(self.opened(self.make(source, "feather")).slides[0].has_notes_slide)
        light = self.opened(self.make(source, without(ExtraKind.SPEAKER_NOTES)))
        self.assertFalse(light.slides[0].has_notes_slide)

    def test_a_lost_word_shape_or_film_is_seen(self) -> None:
        source = self.talk()
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.pptx")
        faults = {
            "text": (2, b"Species", b"Spices"),
            "shapes": (2, b"<p:pic>", b"<p:pic><!-- -->"),
            "films": (3, b"a:videoFile", b"a:videoLost"),
            "speaker notes": (0, b"Thank the", b"Fire the"),
        }
        for kind, (slide, old, new) in faults.items():
            with self.subTest(kind):
                name = _SLIDE.format(slide) if slide else "ppt/notesSlides/notesSlide1.xml"
                path = self.folder / f"{kind}.pptx"
                path.write_bytes(copy.path.read_bytes())
                change = {"shapes": lambda xml: xml.replace(b'name="Picture', b'name="Other')}.get(
                    kind, lambda xml, old=old, new=new: xml.replace(old, new)
                )
                faulty = rewritten(Source(path=path), {name: change})
                proof = prove(source, faulty, sheet, copy.outcomes)
                self.assertIs(proof.verdict, Verdict.CHECK)
                self.assertIn(kind, " ".join(proof.reasons))

    def test_every_preset_is_proved_and_same_bytes_come_twice(self) -> None:
        source = self.talk()
        for preset in ("as-it-was", "reading-desk", "feather", "record-office"):
            with self.subTest(preset):
                made = [self.members(self.make(source, preset)) for _ in range(2)]
                self.assertEqual(made[0], made[1])


class BadInput(SlidesCase):
    def test_bad_input_is_said_with_a_way_out(self) -> None:
        source = self.talk()
        whole = source.path.read_bytes()
        cut = self.folder / "cut.pptx"
        cut.write_bytes(whole[: len(whole) // 2])
        with self.assertRaisesRegex(UnreadableFileError, "cut.pptx: is damaged or cut short"):
            weigh(Source(path=cut))
        locked = self.folder / "locked.pptx"
        mark = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600)
        locked.write_bytes(mark + "EncryptedPackage".encode("utf-16-le"))
        with self.assertRaises(PasswordNeededError):
            weigh(Source(path=locked))

    def test_bad_input_without_its_list_of_slides_it_is_no_presentation(self) -> None:
        members = {"ppt/slides/slide1.xml": b"<p/>", "[Content_Types].xml": b"<Types/>"}
        source = with_members(self.folder / "odd.pptx", members)
        with self.assertRaises(UnreadableFileError):
            weigh(source)

    def test_cyclic_masters_and_slides_that_are_missing_do_no_harm(self) -> None:
        source = rewritten(
            self.talk(),
            {
                "ppt/presentation.xml": lambda xml: xml.replace(
                    b"<p:sldIdLst>", b'<p:sldIdLst><p:sldId id="999" r:id="rId999"/>'
                ),
                "ppt/slideLayouts/_rels/slideLayout1.xml.rels": lambda xml: xml.replace(
                    b"</Relationships>",
                    b'<Relationship Id="rId77" Type="http://schemas.openxmlformats.org/office'
                    b'Document/2006/relationships/slideLayout" Target="slideLayout1.xml"/>'
                    b"</Relationships>",
                ),
            },
        )
        self.assertEqual(weigh(source).size_bytes, source.path.stat().st_size)


class Backgrounds(SlidesCase):
    def test_a_picture_in_a_table_cell_is_as_large_as_the_cell(self) -> None:
        deck = pptx.Presentation()
        slide = deck.slides.add_slide(deck.slide_layouts[6])
        _, relation = slide.part.get_or_add_image_part(picture_file())
        table = slide.shapes.add_table(1, 2, 0, 0, Pt(300), Pt(50)).table
        table.columns[1].width, table.rows[0].height = Pt(120), Pt(80)
        a = "http://schemas.openxmlformats.org/drawingml/2006/main"
        r = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
        properties = table.cell(0, 1)._tc.get_or_add_tcPr()
        properties.append(
            etree.fromstring(
                f'<a:blipFill xmlns:a="{a}" xmlns:r="{r}"><a:blip r:embed="{relation}"/>'
                "<a:stretch><a:fillRect/></a:stretch></a:blipFill>"
            )
        )
        source = saved(deck, self.folder / "cell.pptx")
        (facts,) = [part.picture for part in weigh(source).parts if part.picture]
        self.assertEqual(facts.largest_display_pt, (120, 80))
        made = self.make(source)
        (name,) = [name for name in self.members(made) if "media" in name]
        image = Image.open(io.BytesIO(self.members(made)[name]))
        self.assertEqual(image.size, (250, 167))  # 120 x 80 pt at 150 ppi


class References(SlidesCase):
    """Nothing in use is removed, whatever sort of member uses it."""

    def test_pictures_that_only_vml_shows_stay(self) -> None:
        """As previews of embedded objects and controls are stored (ECMA-376 part 4, 19.1.2.11)."""
        vml, media = "ppt/drawings/vmlDrawing1.vml", "ppt/media/preview.png"
        drawing = (
            '<xml xmlns:v="urn:schemas-microsoft-com:vml"'
            ' xmlns:o="urn:schemas-microsoft-com:office:office">'
            '<v:shape style="width:72pt;height:48pt"><v:imagedata o:relid="rId1"/></v:shape></xml>'
        )
        relation = (
            '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
            f'<Relationship Id="rId1" Type="{_RELATIONS}/image" Target="../media/preview.png"/>'
            "</Relationships>"
        )
        source = self.talk()
        with zipfile.ZipFile(source.path) as file:
            members = {name: file.read(name) for name in file.namelist()}
        members[vml] = drawing.encode()
        members["ppt/drawings/_rels/vmlDrawing1.vml.rels"] = relation.encode()
        members[media] = picture_file("PNG", 300, 200).read()
        link = f'<Relationship Id="rIdV" Type="{_RELATIONS}/vmlDrawing" Target="../drawings/'
        rels = "ppt/slides/_rels/slide2.xml.rels"
        members[rels] = members[rels].replace(
            b"</Relationships>", f'{link}vmlDrawing1.vml"/></Relationships>'.encode()
        )
        types = members["[Content_Types].xml"]
        default = (
            b'<Default Extension="vml" ContentType='
            b'"application/vnd.openxmlformats-officedocument.vmlDrawing"/>'
        )
        members["[Content_Types].xml"] = types.replace(b"<Default ", default + b"<Default ", 1)
        made = self.make(with_members(self.folder / "vml.pptx", members), "post")
        kept = self.members(made)
        self.assertTrue(any(name.startswith("ppt/media/preview.") for name in kept))
        self.assertIn(b"preview.", kept["ppt/drawings/_rels/vmlDrawing1.vml.rels"])

    def test_links_stay_as_many_as_they_are_where_runs_are_joined(self) -> None:
        deck = pptx.Presentation()
        slide = deck.slides.add_slide(deck.slide_layouts[5])
        words = slide.shapes.title.text_frame.paragraphs[0]
        for text in ("Har", "row", " Fen"):
            run = words.add_run()
            run.text = text
            run.hyperlink.address = "https://example.org/"
        made = self.make(saved(deck, self.folder / "links.pptx"))
        self.assertEqual(self.members(made)[_SLIDE.format(1)].count(b"hlinkClick"), 3)


_RELATIONS = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
