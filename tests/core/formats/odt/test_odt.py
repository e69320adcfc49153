"""OpenDocument texts, from weighing to proof; what comes out is read by lxml and Pillow."""

import io
import zipfile
from dataclasses import replace
from typing import Any

import numpy as np
from lxml import etree
from PIL import Image

from lighten import (
    ExtraKind,
    OrderResult,
    Preset,
    Source,
    Treatment,
    preset_named,
    weigh,
)
from lighten.containers.odf.editing import NewSize, clip_within
from lighten.model.errors import PasswordNeededError, UnreadableFileError
from tests.builders import landscape
from tests.core.formats.odt.samples import frame, handbook, write_odt
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import picture_file, with_members

_DRAW = "{urn:oasis:names:tc:opendocument:xmlns:drawing:1.0}"
_FO_CLIP = "{urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0}clip"
_MANIFEST = "{urn:oasis:names:tc:opendocument:xmlns:manifest:1.0}full-path"


class OdtCase(PackageCase):
    def content(self, made: OrderResult) -> Any:
        return etree.fromstring(self.members(made)["content.xml"])


class Objects(OdtCase):
    def test_objects_may_lose_their_images_and_pictures_keep_their_places(self) -> None:
        image = picture_file("PNG", 200, 100).read()
        body = (
            '<text:p><draw:frame svg:width="5cm" svg:height="3cm">'
            '<draw:object xlink:href="./Object 1"/>'
            '<draw:image xlink:href="./ObjectReplacements/Object 1"/></draw:frame></text:p>'
            f"<text:p>{frame('photo.jpg', 6, 4)}</text:p>"
        )
        source = write_odt(
            self.folder / "a.odt",
            body,
            {"photo.jpg": picture_file().read()},
            more={
                "Object 1/content.xml": b"<office:document-content xmlns:office='x'/>",
                "ObjectReplacements/Object 1": image,
            },
        )
        preset = Preset(
            name="own",
            title="Own",
            description="",
            treatment=replace(
                preset_named("post").treatment,
                dropped_extras=frozenset({ExtraKind.OBJECT_IMAGES}),
            ),
        )
        made = self.make(source, preset)
        members = self.members(made)
        self.assertNotIn("ObjectReplacements/Object 1", members)
        photo = Image.open(io.BytesIO(members["Pictures/photo.jpg"]))
        self.assertLess(photo.width, 900)


class Packages(OdtCase):
    def test_the_kind_comes_first_and_is_stored(self) -> None:
        made = self.make(handbook(self.folder / "a.odt"))
        assert made.copy.path is not None
        # ISO/IEC 26300 part 3, 3.3: readable at place 38 of the file, after a head of 30 bytes.
        head = made.copy.path.read_bytes()[:77]
        self.assertEqual(head[30:], b"mimetypeapplication/vnd.oasis.opendocument.text")

    def test_the_manifest_names_the_kinds_of_members(self) -> None:
        made = self.make(handbook(self.folder / "a.odt"))
        members = self.members(made)
        told = {
            entry.get(_MANIFEST) for entry in etree.fromstring(members["META-INF/manifest.xml"])
        }
        self.assertEqual(told - {"/"}, members.keys() - {"mimetype", "META-INF/manifest.xml"})

    def test_previews_and_window_settings_go(self) -> None:
        more = {
            "Thumbnails/thumbnail.png": picture_file("PNG").read(),
            "layout-cache": b"cached",
            "Configurations2/accelerator/current.xml": b"",
        }
        source = write_odt(
            self.folder / "a.odt",
            frame("photo.jpg", 4, 3),
            {"photo.jpg": picture_file().read()},
            more=more,
        )
        self.assertFalse(self.members(self.make(source)).keys() & more.keys())
        self.assertTrue(self.members(self.make(source, "as-it-was")).keys() > more.keys())

    def test_encrypted_and_other_kinds_of_documents_are_reported(self) -> None:
        source = handbook(self.folder / "a.odt")
        with zipfile.ZipFile(source.path) as file:
            members = {name: file.read(name) for name in file.namelist()}
        locked = members["META-INF/manifest.xml"].replace(
            b"</manifest:manifest>",
            b'<manifest:file-entry manifest:full-path="x"><manifest:encryption-data/>'
            b"</manifest:file-entry></manifest:manifest>",
        )
        cases: tuple[tuple[dict[str, bytes], type[Exception]], ...] = (
            ({**members, "META-INF/manifest.xml": locked}, PasswordNeededError),
            ({**members, "content.xml": b"<a><b></a>"}, UnreadableFileError),
            (
                {name: members[name] for name in members if name != "content.xml"},
                UnreadableFileError,
            ),
        )
        for changed, error in cases:
            with zipfile.ZipFile(source.path, "w") as file:
                for name, content in changed.items():
                    file.writestr(name, content)
            with self.subTest(error=error), self.assertRaises(error):
                weigh(source)


class Frames(OdtCase):
    def test_frames_give_the_size_and_the_visible_share_of_a_picture(self) -> None:
        sheet = weigh(handbook(self.folder / "a.odt"))
        photo, bitmap = (part.picture for part in sheet.parts if part.picture)
        assert photo is not None and bitmap is not None and photo.largest_display_pt is not None
        # Clipped to a half, it is 2 cm wide: 4 cm for the whole, less than the 6 of the other.
        self.assertEqual([round(side, 1) for side in photo.largest_display_pt], [170.1, 113.4])
        self.assertEqual(photo.near, "Nets at the north reed bed")
        self.assertEqual((bitmap.coding, bitmap.near), ("BMP", "Rings"))

    def test_a_bitmap_becomes_what_is_lighter_with_all_that_leads_to_it(self) -> None:
        made = self.make(handbook(self.folder / "a.odt"))
        names = {image.get("{http://www.w3.org/1999/xlink}href") for image in self.images(made)}
        self.assertFalse(names - self.members(made).keys())
        self.assertFalse(any(name.endswith(".bmp") for name in names))

    def images(self, made: OrderResult) -> list[Any]:
        return list(self.content(made).iter(f"{_DRAW}image"))

    def test_a_clipped_picture_is_cut_and_its_clip_is_as_it_was_on_the_rest(self) -> None:
        # 900 x 600 pixels at 300 dots an inch: 7.62 x 5.08 cm of its own.
        photo = picture_file(dpi=(300, 300)).read()
        automatic = (
            '<style:style style:name="gr2" style:family="graphic"><style:graphic-properties'
            ' fo:clip="rect(0cm, 2.54cm, 0cm, 2.54cm)"/></style:style>'
        )
        body = f"<text:p>{frame('photo.jpg', 1, 2, 'gr2')}</text:p>"
        source = write_odt(self.folder / "a.odt", body, {"photo.jpg": photo}, automatic=automatic)
        made = self.make(source)
        picture = Image.open(io.BytesIO(self.members(made)["Pictures/photo.jpg"]))
        self.assertAlmostEqual(picture.width, 59 * 0.353 / 0.333, delta=2)
        (clip,) = [
            element.get(_FO_CLIP) for element in self.content(made).iter() if element.get(_FO_CLIP)
        ]
        right = float(clip.split(",")[1].removesuffix("cm"))
        own_cm = picture.width / picture.info["dpi"][0] * 2.54
        self.assertAlmostEqual(right / own_cm, 0.01 / 0.353, delta=0.005)

    def test_a_clip_follows_the_resolution_of_the_picture(self) -> None:
        size = NewSize(before_pt=(100, 50), after_pt=(27, 25), cut=(0.28, 0.0, 0.82, 1.0))
        top, right, bottom, left = clip_within((0, 20, 5, 30), size)
        self.assertAlmostEqual(left, 0.02 * 50)
        self.assertAlmostEqual(right, 0.02 * 50)
        self.assertEqual((top, bottom), (0, 2.5))

    def test_frames_see_through_pictures_stay_so(self) -> None:
        alpha = np.tile(np.arange(600) // 3, (400, 1)).astype(np.uint8)
        file = io.BytesIO()
        Image.fromarray(np.dstack([landscape(600, 400, seed=1), alpha]), "RGBA").save(file, "PNG")
        source = write_odt(self.folder / "a.odt", frame("a.png", 4, 3), {"a.png": file.getvalue()})
        made = self.make(source)
        picture = Image.open(io.BytesIO(self.members(made)["Pictures/a.png"]))
        self.assertEqual(picture.convert("RGBA").getchannel("A").getextrema()[0], 0)


class Styles(OdtCase):
    def test_automatic_styles_that_say_the_same_become_one_and_idle_spans_go(self) -> None:
        made = self.make(handbook(self.folder / "a.odt"))
        content = self.content(made)
        self.assertNotIn(b"rsid", self.members(made)["content.xml"])
        text = [style for style in content.iter("{*}style") if len(style) and _is_text(style)]
        self.assertEqual(len(text), 1)
        paragraph = next(p for p in content.iter("{*}p") if "Round 7" in "".join(p.itertext()))
        self.assertEqual("".join(paragraph.itertext()), "Round 7: walk the nets, note the time.")
        self.assertEqual([span.text for span in paragraph.iter("{*}span")], ["7"])

    def test_notes_and_white_space_stay_where_they_stand(self) -> None:
        automatic = (
            '<style:style style:name="T1" style:family="text"><style:text-properties'
            ' officeooo:rsid="0001"/></style:style>'
        )
        note = (
            '<text:note text:note-class="footnote"><text:note-body><text:p>A note.</text:p>'
            "</text:note-body></text:note>"
        )
        span = '<text:span text:style-name="T1">{}</text:span>'
        body = (
            f"<text:p>{span.format('Nets')}{span.format(note)}{span.format('<text:s/>at dawn')}"
            f"{span.format('')}</text:p>" + frame("photo.jpg", 4, 3)
        )
        source = write_odt(
            self.folder / "a.odt", body, {"photo.jpg": picture_file().read()}, automatic=automatic
        )
        paragraph = next(self.content(self.make(source)).iter("{*}p"))
        self.assertEqual("".join(paragraph.itertext()), "NetsA note.at dawn")

    def test_comments_go_where_a_person_chose_so_and_stay_elsewhere(self) -> None:
        comment = "<office:annotation><text:p>Which nets?</text:p></office:annotation>"
        body = f"<text:p>Furl{comment} the nets.</text:p>{frame('photo.jpg', 4, 3)}"
        source = write_odt(self.folder / "a.odt", body, {"photo.jpg": picture_file().read()})
        self.assertIn(b"Which nets?", self.members(self.make(source))["content.xml"])
        without = Treatment(dropped_extras=frozenset({ExtraKind.NOTES}))
        preset = Preset(name="own", title="Own", description="", treatment=without)
        content = self.content(self.make(source, preset))
        self.assertEqual("".join(next(content.iter("{*}p")).itertext()), "Furl the nets.")

    def test_common_styles_stay_because_a_person_may_have_changed_them(self) -> None:
        common = (
            '<style:style style:name="Notice" style:family="paragraph"/>'
            + "".join(
                f'<style:style style:name="Level {level}" style:family="paragraph"'
                f' style:class="text"><style:text-properties fo:color="#{level:06x}"/>'
                "</style:style>"
                for level in range(40)
            )
            + '<style:style style:name="Body" style:family="paragraph" style:class="text"/>'
        )
        source = write_odt(
            self.folder / "a.odt",
            f'<text:p text:style-name="Body">Words</text:p>{frame("photo.jpg", 4, 3)}',
            {"photo.jpg": picture_file().read()},
            common=common,
        )
        styles = etree.fromstring(self.members(self.make(source))["styles.xml"])
        names = [next(iter(style.attrib.values())) for style in styles.iter("{*}style")]
        self.assertEqual(names, ["Notice", *(f"Level {level}" for level in range(40)), "Body"])


def _is_text(style: Any) -> bool:
    return any(key.endswith("family") and value == "text" for key, value in style.attrib.items())


class OtherWriters(PackageCase):
    """Packages in other orders than part 3, 3.3, asks for, as some programs write them."""

    def members_of(self, source: Source) -> dict[str, bytes]:
        with zipfile.ZipFile(source.path) as file:
            return {name: file.read(name) for name in file.namelist()}

    def test_other_writers_that_put_the_kind_last_are_read(self) -> None:
        members = self.members_of(handbook(self.folder / "a.odt"))
        kind = members.pop("mimetype")
        made = self.make(with_members(self.folder / "b.odt", {**members, "mimetype": kind}))
        self.assertEqual(next(iter(self.members(made))), "mimetype")

    def test_other_writers_that_leave_the_kind_to_the_manifest_are_read(self) -> None:
        members = self.members_of(handbook(self.folder / "a.odt"))
        del members["mimetype"]
        source = with_members(self.folder / "b.odt", members)
        self.assertEqual(weigh(source).format, "odt")

    def test_pictures_stay_that_only_an_object_inside_shows(self) -> None:
        chart = b'<c:chart xmlns:c="urn:c" xmlns:x="urn:x" x:href="../Pictures/paper.png"/>'
        source = write_odt(
            self.folder / "a.odt",
            f"<text:p>Words</text:p>{frame('photo.jpg', 4, 3)}",
            {"photo.jpg": picture_file().read(), "paper.png": picture_file("PNG").read()},
            more={"Object 1/content.xml": chart},
        )
        made = self.make(source, "post")
        self.assertIn("Pictures/paper.png", self.members(made))
