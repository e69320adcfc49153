"""Showings of pictures in DrawingML and VML."""

import unittest

from lxml import etree

from lighten.containers.opc.drawings import Reference, picture_references, write_crop
from lighten.containers.opc.editing import crop_within

_NAMESPACES = (
    'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
    ' xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing"'
    ' xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"'
    ' xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"'
    ' xmlns:wpg="http://schemas.microsoft.com/office/word/2010/wordprocessingGroup"'
    ' xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"'
    ' xmlns:v="urn:schemas-microsoft-com:vml"'
    ' xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006"'
)
INCH = 914_400  # EMU (ECMA-376 part 1, 20.1.10.16)


def references(xml: str) -> list[Reference]:
    return list(picture_references(etree.fromstring(f"<w:body {_NAMESPACES}>{xml}</w:body>")))


def picture(width: float, height: float, crop: str = "", more: str = "") -> str:
    return (
        f'<pic:pic><pic:blipFill><a:blip r:embed="rId1">{more}</a:blip>{crop}'
        "<a:stretch><a:fillRect/></a:stretch></pic:blipFill><pic:spPr><a:xfrm>"
        f'<a:ext cx="{width * INCH:.0f}" cy="{height * INCH:.0f}"/></a:xfrm></pic:spPr></pic:pic>'
    )


def inline(content: str, width: float, height: float) -> str:
    return (
        f'<wp:inline><wp:extent cx="{width * INCH:.0f}" cy="{height * INCH:.0f}"/>'
        f"<a:graphic><a:graphicData>{content}</a:graphicData></a:graphic></wp:inline>"
    )


class Showings(unittest.TestCase):
    def shown(self, xml: str) -> tuple[float, float]:
        (reference,) = references(xml)
        assert reference.width_pt is not None and reference.height_pt is not None
        return round(reference.width_pt, 3), round(reference.height_pt, 3)

    def test_an_inch_has_914400_units(self) -> None:
        self.assertEqual(self.shown(inline(picture(2, 1), 2, 1)), (144, 72))

    def test_a_cropped_picture_is_larger_than_its_frame(self) -> None:
        crop = '<a:srcRect l="25000" r="25000"/>'
        self.assertEqual(self.shown(inline(picture(2, 1, crop), 2, 1)), (288, 72))
        crop = '<a:srcRect l="25%" r="25%"/>'  # the strict form
        self.assertEqual(self.shown(inline(picture(2, 1, crop), 2, 1)), (288, 72))

    def test_groups_within_groups_scale(self) -> None:
        def group(tag: str, content: str, outer: float, inner: float) -> str:
            return (
                f'<{tag}><wpg:grpSpPr><a:xfrm><a:ext cx="{outer * INCH:.0f}"'
                f' cy="{outer * INCH:.0f}"/><a:chExt cx="{inner * INCH:.0f}"'
                f' cy="{inner * INCH:.0f}"/></a:xfrm></wpg:grpSpPr>{content}</{tag}>'
            )

        nested = group("wpg:wgp", group("wpg:grpSp", picture(1, 1), 2, 1), 6, 2)
        self.assertEqual(self.shown(inline(nested, 6, 6)), (432, 432))

    def test_legacy_drawings_are_measured_in_points_and_shares_of_65536(self) -> None:
        shape = '<v:shape style="width:2in;height:72pt"><v:imagedata r:id="rId1" {}/></v:shape>'
        self.assertEqual(self.shown(shape.format("")), (144, 72))
        self.assertEqual(self.shown(shape.format('cropleft="32768f"')), (288, 72))
        group = (
            '<v:group style="width:100pt;height:50pt" coordsize="1000,1000">'
            '<v:shape style="width:500;height:1000"><v:imagedata r:id="rId1"/></v:shape></v:group>'
        )
        self.assertEqual(self.shown(group), (50, 50))

    def test_a_vector_form_beside_a_picture_is_a_showing_of_its_own(self) -> None:
        svg = '<a:extLst><asvg:svgBlip xmlns:asvg="urn:svg" r:embed="rId2"/></a:extLst>'
        found = references(inline(picture(1, 1, more=svg), 1, 1))
        self.assertEqual([reference.id for reference in found], ["rId1", "rId2"])

    def test_showings_of_a_picture_with_another_form_all_is_in_sight(self) -> None:
        """ECMA-376 part 1, 20.1.8.55: srcRect is of the fill, so of each form in its blip."""
        crop = '<a:srcRect l="25000" r="25000"/>'
        svg = '<a:extLst><asvg:svgBlip xmlns:asvg="urn:svg" r:embed="rId2"/></a:extLst>'
        drawn = inline(picture(1, 1, crop), 1, 1)
        (alone,) = references(drawn)
        self.assertEqual(alone.visible, (0.25, 0.0, 0.75, 1.0))
        linked = drawn.replace('r:embed="rId1"', 'r:embed="rId1" r:link="rId3"')
        for xml in (inline(picture(1, 1, crop, svg), 1, 1), linked):
            for reference in references(xml):
                self.assertEqual(reference.visible, (0.0, 0.0, 1.0, 1.0))
                self.assertEqual(reference.crop, (0.25, 0.0, 0.25, 0.0))

    def test_fallbacks_for_older_readers_are_counted_apart(self) -> None:
        old = '<v:shape style="width:9pt;height:9pt"><v:imagedata r:id="rId3"/></v:shape>'
        xml = f"<mc:Fallback>{old}</mc:Fallback>{inline(picture(1, 1), 1, 1)}"
        self.assertEqual([reference.place for reference in references(xml)], ["f1", "1"])

    def test_tiles_and_unknown_sizes_are_reported(self) -> None:
        tiled = '<v:rect style="width:9pt;height:9pt"><v:fill r:id="rId1" type="tile"/></v:rect>'
        self.assertTrue(references(tiled)[0].is_tiled)
        (reference,) = references("<a:blipFill><a:blip r:embed='rId1'/></a:blipFill>")
        self.assertIsNone(reference.width_pt)

    def test_a_crop_is_written_as_it_is_on_what_was_kept(self) -> None:
        for xml in (
            inline(picture(2, 1, '<a:srcRect l="30000" r="20000" t="-5000"/>'), 2, 1),
            '<v:shape style="width:9pt;height:9pt"><v:imagedata r:id="rId1" cropleft="19661f"'
            ' cropright="13107f"/></v:shape>',
        ):
            with self.subTest(xml=xml[:20]):
                (reference,) = references(xml)
                # 28 to 82 hundredths were kept: 2 on either side of 54 are hidden of it.
                write_crop(reference, crop_within(reference.crop, (0.28, 0.0, 0.82, 1.0)))
                root = reference.element.getroottree().getroot()
                (again,) = picture_references(root)
                self.assertAlmostEqual(again.crop[0], 0.02 / 0.54, places=3)
                self.assertAlmostEqual(again.crop[2], 0.02 / 0.54, places=3)
                self.assertAlmostEqual(again.crop[1], reference.crop[1])
