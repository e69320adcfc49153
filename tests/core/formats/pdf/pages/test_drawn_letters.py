"""Letters of drawn fonts (Type 3) that are made of pictures, against poppler's own placing."""

import re
import subprocess

import numpy as np
import pikepdf

from lighten import Part, PartKind, Source, make_proved_copy, plan, preset_named, weigh
from tests.builders import FolderCase, PdfBuilder, landscape

SIDE = 1600
INK = landscape(SIDE, SIDE, 5)[..., 1] > 120


def letters_of_pictures(content: bytes) -> PdfBuilder:
    """Two letters, each a stencil of 1,600 x 1,600 pixels; a is as wide as high, b half as wide."""
    builder = PdfBuilder()
    for name in "ab":
        stencil = np.packbits(INK if name == "a" else INK.T, axis=1)
        builder.stream(
            name, stencil.tobytes(), size=(SIDE, SIDE), bits=1, ImageMask=True, Decode=[0, 1]
        )
    pdf = builder.pdf
    glyphs = {
        "/a": pdf.make_stream(b"1000 0 0 0 1000 1000 d1 q 1000 0 0 1000 0 0 cm /P Do Q"),
        "/b": pdf.make_stream(b"500 0 0 0 500 1000 d1 q 500 0 0 1000 0 0 cm /R Do Q"),
    }
    font = pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.Type3,
        FontBBox=[0, 0, 1000, 1000],
        FontMatrix=[0.001, 0, 0, 0.001, 0, 0],
        CharProcs=pikepdf.Dictionary(glyphs),
        Encoding=pikepdf.Dictionary(
            Type=pikepdf.Name.Encoding,
            Differences=[97, pikepdf.Name.a, pikepdf.Name.b],
        ),
        FirstChar=97,
        LastChar=98,
        Widths=[1000, 500],
        Resources=pikepdf.Dictionary(
            XObject=pikepdf.Dictionary(P=builder.pictures["a"], R=builder.pictures["b"])
        ),
    )
    builder.page(content=content)
    builder.pdf.pages[0].obj.Resources.Font["/D"] = builder.pdf.make_indirect(font)
    return builder


class DrawnLetters(FolderCase):
    def parts(self, source: Source) -> list[Part]:
        return [part for part in weigh(source).parts if part.kind is PartKind.PICTURE]

    def test_drawn_letters_show_their_pictures_at_the_size_and_place_of_the_text(self) -> None:
        content = (
            b"q 2 0 0 2 0 0 cm BT /D 20 Tf 14 TL 50 200 Td (ab) Tj T* [(b) -500 (a)] TJ ET Q "
            b"BT /D 30 Tf 100 Tz 3 Tc 1 0 0 1 60 90 Tm (aab) Tj 50 Tz (b) ' 0 0 (ab) \" ET\n"
        )
        path = letters_of_pictures(content).save(self.folder / "a.pdf")
        ours = sorted(
            (round(placement.box[0], 1), round(placement.box[2], 1), round(placement.width_pt, 1))
            for part in self.parts(Source(path=path))
            if part.picture
            for placement in part.picture.placements
        )
        listed = subprocess.run(
            ["pdftotext", "-bbox-layout", path, "-"], capture_output=True, text=True, check=True
        ).stdout
        edges = re.findall(r'<word xMin="([\d.]+)".*?xMax="([\d.]+)"', listed)
        lefts = sorted(float(left) for left, _ in edges)
        # Ten letters in all; every word that poppler reads begins where one of ours does.
        self.assertEqual(len(ours), 10)
        for left in lefts:
            self.assertTrue(
                any(abs(left - own) < 0.6 for own, _, _ in ours), f"none of {ours} at {left}"
            )
        self.assertEqual({width for _, _, width in ours}, {40.0, 20.0, 30.0, 15.0, 7.5})

    def test_drawn_letters_in_a_font_that_a_graphics_state_chose_have_their_size(self) -> None:
        builder = letters_of_pictures(b"/G gs BT 1 0 0 1 60 90 Tm (a) Tj ET\n")
        resources = builder.pdf.pages[0].obj.Resources
        resources.ExtGState = pikepdf.Dictionary(
            G=pikepdf.Dictionary(Font=[resources.Font["/D"], 36])
        )
        # It need not be named among the fonts as well.
        del resources.Font["/D"]
        parts = self.parts(Source(path=builder.save(self.folder / "a.pdf")))
        shown = [part.picture.largest_display_pt for part in parts if part.picture]
        self.assertIn((36.0, 36.0), [tuple(map(round, one)) for one in shown if one])

    def test_drawn_letters_become_coarser_pictures_as_the_text_needs_them(self) -> None:
        """At 8 points 1,600 pixels are 14,400 ppi."""
        source = Source(
            path=letters_of_pictures(b"BT /D 8 Tf 72 700 Td (abba) Tj ET\n").save(
                self.folder / "a.pdf"
            )
        )
        sheet = weigh(source)
        self.assertEqual(
            sorted(round(part.picture.ppi or 0) for part in self.parts(source) if part.picture),
            [14400, 14400],
        )
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(source, sheet, plan(sheet, preset_named("Post")), out)
        self.assertLess(copy.bytes_after, 0.5 * sheet.size_bytes)
        assert proof is not None
        self.assertNotEqual(str(proof.verdict), "check")
