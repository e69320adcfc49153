"""What leads where in packages: relationships, frames, styles; small pieces of XML by hand."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from lighten.containers.odf.clean_story import clean_settings
from lighten.containers.odf.frames import length_pt, picture_frames
from lighten.containers.opc import open_package
from lighten.containers.opc.editing import crop_within
from lighten.containers.opc.relationships import read_relationships, rels_name, source_of
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.formats.docx.clean_story import clean_story
from lighten.model.errors import LimitExceededError, UnreadableFileError
from lighten.model.kinds import ExtraKind
from tests.builders import FolderCase
from tests.core.formats.package_samples import with_members

_RELATIONS = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_PACKAGE = "http://schemas.openxmlformats.org/package/2006"
_WORD = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"


def links(*entries: tuple[str, str, str]) -> bytes:
    inner = "".join(
        f'<Relationship Id="{key}" Type="{_RELATIONS}/{kind}" Target="{target}"/>'
        for key, kind, target in entries
    )
    return f'<Relationships xmlns="{_PACKAGE}/relationships">{inner}</Relationships>'.encode()


class Relationships(unittest.TestCase):
    def test_relationships_stand_beside_what_they_lead_from(self) -> None:
        # ECMA-376 part 2, 9.3.3: "_rels" beside the part, and ".rels" after its name.
        for member, rels in (
            ("word/document.xml", "word/_rels/document.xml.rels"),
            ("", "_rels/.rels"),
        ):
            self.assertEqual(rels_name(member), rels)
            self.assertEqual(source_of(rels), member)

    def test_relationships_lead_to_members_from_where_they_stand(self) -> None:
        root = etree.fromstring(
            links(
                ("1", "image", "media/a.png"),
                ("2", "image", "../b.png"),
                ("3", "image", "/word/media/c%20d.png"),
            )
        )
        self.assertEqual(
            [link.target for link in read_relationships(root, "word/document.xml")],
            ["word/media/a.png", "b.png", "word/media/c d.png"],
        )


class Reach(FolderCase):
    def test_reach_goes_by_use_and_leaves_what_is_not_understood(self) -> None:
        kinds = (
            '<Default Extension="rels" ContentType="x"/><Default Extension="png"'
            ' ContentType="image/png"/><Default Extension="xml" ContentType="text/xml"/>'
        )
        members = {
            "[Content_Types].xml": (
                f'<Types xmlns="{_PACKAGE}/content-types">{kinds}</Types>'
            ).encode(),
            "_rels/.rels": links(("1", "officeDocument", "word/document.xml")),
            "word/document.xml": f'<d xmlns:r="{_RELATIONS}"><a r:embed="rId1"/></d>'.encode(),
            "word/_rels/document.xml.rels": links(
                ("rId1", "image", "media/used.png"),
                ("rId2", "image", "media/unused.png"),
                ("rId3", "somethingNew", "media/strange.png"),
            ),
            **{f"word/media/{name}.png": b"1" for name in ("used", "unused", "strange")},
        }
        package = open_package(with_members(self.folder / "a.zip", members))
        media = {name for name in package.used if "/media/" in name}
        self.assertEqual(media, {"word/media/used.png", "word/media/strange.png"})


class Crops(unittest.TestCase):
    @given(
        st.tuples(*[st.floats(0, 0.45)] * 4),
        st.tuples(*[st.floats(0, 0.02)] * 4),
    )
    def test_crops_show_the_same_of_the_whole_picture(
        self, crop: tuple[float, ...], margins: tuple[float, ...]
    ) -> None:
        left, top, right, bottom = crop
        kept = [max(0.0, side - margin) for side, margin in zip(crop, margins, strict=True)]
        cut = (kept[0], kept[1], 1 - kept[2], 1 - kept[3])
        new = crop_within((left, top, right, bottom), cut)
        width, height = cut[2] - cut[0], cut[3] - cut[1]
        self.assertAlmostEqual(cut[0] + new[0] * width, left)
        self.assertAlmostEqual(cut[1] + new[1] * height, top)
        self.assertAlmostEqual(cut[2] - new[2] * width, 1 - right)
        self.assertAlmostEqual(cut[3] - new[3] * height, 1 - bottom)


class Frames(unittest.TestCase):
    def frames(self, body: str, styles: str = "") -> list[Any]:
        names = (("office", "office"), ("style", "style"), ("draw", "drawing"))
        names += (("svg", "svg-compatible"), ("fo", "xsl-fo-compatible"))
        spaces = " ".join(
            f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
            for prefix, name in names
        )
        xml = (
            f'<office:d {spaces} xmlns:xlink="http://www.w3.org/1999/xlink">'
            f"<office:automatic-styles>{styles}</office:automatic-styles>{body}</office:d>"
        )
        return list(picture_frames(etree.fromstring(xml)))

    def test_lengths_have_the_units_of_the_standard(self) -> None:
        # ISO/IEC 26300 part 1, 18.3.18, as XSL 5.9.13: an inch is 2.54 cm and 72 points.
        for text in ("1in", "2.54cm", "25.4mm", "72pt", "6pc"):
            self.assertAlmostEqual(length_pt(text) or 0, 72)
        self.assertIsNone(length_pt("100%"))

    def test_frames_read_clips_from_their_style(self) -> None:
        style = (
            '<style:style style:name="a"><style:graphic-properties'
            ' fo:clip="rect(1cm, 0cm, 0cm, 2cm)"/></style:style>'
        )
        image = '<draw:image xlink:href="Pictures/a.png"/>'
        (frame,) = self.frames(
            '<draw:frame draw:style-name="a" svg:width="72pt" svg:height="36pt">'
            f"{image}</draw:frame>",
            style,
        )
        self.assertEqual((frame.place, frame.width_pt, frame.height_pt), ("1", 72, 36))
        self.assertEqual([round(side, 2) for side in frame.clip], [28.35, 0, 0, 56.69])

    def test_addresses_outside_are_no_pictures_of_the_package(self) -> None:
        for href in ("https://example.org/a.png", "../a.png", "/etc/a.png", ""):
            image = f'<draw:frame><draw:image xlink:href="{href}"/></draw:frame>'
            self.assertEqual(self.frames(image), [])

    def test_several_forms_in_one_frame_are_measured_by_the_first(self) -> None:
        images = "".join(f'<draw:image xlink:href="Pictures/{name}"/>' for name in ("a", "b"))
        first, second = self.frames(f"<draw:frame>{images}</draw:frame>")
        self.assertEqual((first.clipped_by, second.clipped_by), ("Pictures/a", "Pictures/a"))


class Xml(unittest.TestCase):
    def test_xml_is_written_as_it_was_read(self) -> None:
        head = b'<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
        content = head + b'\n<a xml:space="x">\xc3\xa9</a>'
        self.assertEqual(write_xml(parse_xml(content, "a.xml", "a")).replace(b"'", b'"'), content)

    def test_xml_that_is_too_long_or_broken_is_refused_by_name(self) -> None:
        for content, error in (
            (b"<a>" + b" " * 60_000_001 + b"</a>", LimitExceededError),
            (b"<a><b></a>", UnreadableFileError),
        ):
            with self.assertRaises(error) as caught:
                parse_xml(content, "word/document.xml", "report.docx")
            self.assertIn("report.docx: word/document.xml", caught.exception.message)

    def test_runs_are_joined_as_readers_show_their_spaces(self) -> None:
        body = (
            f'<w:body xmlns:w="{_WORD}"><w:p><w:r><w:t> Furl </w:t></w:r>'
            '<w:r><w:t xml:space="preserve"> the nets</w:t></w:r><w:r><w:tab/></w:r></w:p></w:body>'
        )
        cleaned = clean_story(body.encode(), dropped=(), keeps_paragraph_ids=False)
        (run,) = etree.fromstring(cleaned).iter(f"{{{_WORD}}}r")
        self.assertEqual([child.tag.rpartition("}")[2] for child in run], ["t", "tab"])
        self.assertEqual(run[0].text, "Furl the nets")

    def test_settings_of_printer_and_window_go_each_by_itself(self) -> None:
        name = 'xmlns:c="urn:c" c:name'
        xml = (
            f'<c:s xmlns:c="urn:c"><c:config-item-set {name}="ooo:view-settings"/>'
            f'<c:config-item {name}="PrinterSetup">x</c:config-item></c:s>'
        ).encode()
        for extra, left in (
            (ExtraKind.PRINTER_SETTINGS, "config-item-set"),
            (ExtraKind.VIEW_SETTINGS, "config-item"),
        ):
            (kept,) = etree.fromstring(clean_settings(xml, dropped=(extra,)))
            self.assertEqual(kept.tag, f"{{urn:c}}{left}")
