"""Fonts with the letters in use only, read back by fontTools, pdfium and poppler."""

import io
import subprocess
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pikepdf
import reportlab
from fontTools.cffLib import CFFFontSet, FDArrayIndex, FDSelect, FontDict, TopDict
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.qu2cuPen import Qu2CuPen
from fontTools.pens.recordingPen import RecordingPen
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables._c_m_a_p import CmapSubtable
from PIL import Image
from reportlab.lib.fonts import addMapping
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfgen.canvas import Canvas

from lighten import (
    Action,
    Copy,
    ExtraKind,
    FontTreatment,
    Part,
    PartException,
    Preset,
    Source,
    Treatment,
    Verdict,
    make_copy,
    make_proved_copy,
    plan,
    weigh,
)
from lighten.formats.pdf.fonts.font_uses import find_font_uses
from tests.builders import FolderCase

# Free fonts that the registry package reportlab carries.
FONTS = Path(reportlab.__file__).parent / "fonts"
WORDS = "Reed warblers (juvenile): 42"


def preset(**fonts: bool) -> Preset:
    treatment = Treatment(
        fonts=FontTreatment(**fonts), dropped_extras=frozenset({ExtraKind.REPEATS})
    )
    return Preset(name="fonts", title="Fonts", description="", treatment=treatment)


def truetype_file(pdf: pikepdf.Pdf, **descriptor: object) -> pikepdf.Dictionary:
    data = (FONTS / "Vera.ttf").read_bytes()
    return pikepdf.Dictionary(
        Type=pikepdf.Name.FontDescriptor,
        FontName=pikepdf.Name("/BitstreamVeraSans-Roman"),
        Flags=32,
        FontBBox=[-183, -236, 1287, 928],
        ItalicAngle=0,
        Ascent=928,
        Descent=-236,
        CapHeight=729,
        StemV=80,
        FontFile2=pdf.make_stream(data, Length1=len(data)),
        **descriptor,
    )


def simple_font(pdf: pikepdf.Pdf) -> pikepdf.Dictionary:
    font = TTFont(FONTS / "Vera.ttf")
    scale = 1000 / font["head"].unitsPerEm
    names = font.getBestCmap()
    widths = [round(font["hmtx"][names.get(code, ".notdef")][0] * scale) for code in range(32, 127)]
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.TrueType,
        BaseFont=pikepdf.Name("/BitstreamVeraSans-Roman"),
        Encoding=pikepdf.Name.WinAnsiEncoding,
        FirstChar=32,
        LastChar=126,
        Widths=widths,
        FontDescriptor=pdf.make_indirect(truetype_file(pdf)),
    )


def composite_font(pdf: pikepdf.Pdf) -> pikepdf.Dictionary:
    below = pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.CIDFontType2,
        BaseFont=pikepdf.Name("/BitstreamVeraSans-Roman"),
        CIDSystemInfo=pikepdf.Dictionary(Registry="Adobe", Ordering="Identity", Supplement=0),
        CIDToGIDMap=pikepdf.Name.Identity,
        DW=600,
        FontDescriptor=pdf.make_indirect(truetype_file(pdf)),
    )
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.Type0,
        BaseFont=pikepdf.Name("/BitstreamVeraSans-Roman"),
        Encoding=pikepdf.Name("/Identity-H"),
        DescendantFonts=pikepdf.Array([pdf.make_indirect(below)]),
    )


def as_glyphs(words: str) -> bytes:
    font = TTFont(FONTS / "Vera.ttf")
    names = font.getBestCmap()
    return b"".join(font.getGlyphID(names[ord(sign)]).to_bytes(2, "big") for sign in words)


class FontCase(FolderCase):
    def saved(self, pdf: pikepdf.Pdf) -> Source:
        path = self.folder / "a.pdf"
        pdf.save(path)
        return Source(path=path)

    def page_of(self, font: pikepdf.Dictionary, shown: str, pdf: pikepdf.Pdf) -> Source:
        pdf.add_blank_page(page_size=(400, 200))
        page = pdf.pages[0].obj
        page.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=pdf.make_indirect(font)))
        page.Contents = pdf.make_stream(f"BT /F 20 Tf 20 100 Td {shown} Tj ET".encode())
        return self.saved(pdf)

    def lighten(self, source: Source, wanted: Preset) -> Copy:
        sheet = weigh(source)
        out = self.folder / "b.pdf"
        copy, proof = make_proved_copy(source, sheet, plan(sheet, wanted), out)
        assert proof is not None, copy.reasons
        self.assertIs(proof.verdict, Verdict.SAME, proof.reasons)
        self.assert_poppler_sees_no_difference()
        return copy

    def assert_poppler_sees_no_difference(self) -> None:
        pages, texts = [], []
        for name in ("a", "b"):
            for command in (
                ["pdftoppm", "-r", "200", "-gray", "-singlefile", f"{name}.pdf", name],
                ["pdftotext", f"{name}.pdf", f"{name}.txt"],
            ):
                subprocess.run(command, cwd=self.folder, check=True, capture_output=True)
            pages.append(np.asarray(Image.open(self.folder / f"{name}.pgm"), np.int16))
            texts.append((self.folder / f"{name}.txt").read_text())
        self.assertEqual(*texts)
        # Poppler puts glyphs at quarters of a pixel; ties may fall the other way.
        self.assertLess(np.abs(pages[0] - pages[1]).mean(), 0.7)

    def font_file(self, key: str) -> bytes:
        with pikepdf.open(self.folder / "b.pdf") as pdf:
            for value in pdf.objects:
                if isinstance(value, pikepdf.Dictionary) and key in value:
                    return bytes(value[key].read_bytes())
        raise AssertionError(f"no {key}")


class TrueType(FontCase):
    def test_true_type_become_the_same_bytes_at_any_time(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(simple_font(pdf), "(Reed warblers)", pdf)
        sheet, contents = weigh(source), []
        for moment in (1_700_000_000.0, 1_800_000_000.0):
            out = self.folder / f"{moment}.pdf"
            # Font libraries write when a font was changed into it, by the clock.
            with patch("time.time", return_value=moment):
                make_copy(source, sheet, plan(sheet, preset(subset=True)), out)
            contents.append(out.read_bytes())
        self.assertEqual(*contents)

    def test_whole_simple_fonts_become_subsets(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(simple_font(pdf), f"({WORDS.replace('(', '').replace(')', '')})", pdf)
        copy = self.lighten(source, preset(subset=True))
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.45)
        font = TTFont(io.BytesIO(self.font_file("/FontFile2")))
        cmap = font.getBestCmap()
        self.assertLessEqual({ord(sign) for sign in "Redwarbls42"}, set(cmap))
        self.assertNotIn(ord("Q"), cmap)

    def test_composite_fonts_keep_their_numbers(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(composite_font(pdf), f"<{as_glyphs('Fen 7').hex()}>", pdf)
        self.lighten(source, preset(subset=True))
        before = TTFont(FONTS / "Vera.ttf")
        after = TTFont(io.BytesIO(self.font_file("/FontFile2")))
        number = before.getGlyphID("F")
        self.assertEqual(
            before["glyf"][before.getGlyphName(number)], after["glyf"][after.getGlyphName(number)]
        )

    def test_true_type_keep_a_byte_encoding_table_that_is_their_only_cmap(self) -> None:
        """Office suites write nothing but a (1, 0) subtable of format 0."""
        font = TTFont(FONTS / "Vera.ttf")
        names = font.getBestCmap()
        table = CmapSubtable.newSubtable(0)
        table.platformID, table.platEncID, table.language = 1, 0, 0
        shown = {code: ord(letter) for code, letter in enumerate("Reed wrblsg", start=1)}
        table.cmap = {code: names[letter] for code, letter in shown.items()}
        font["cmap"].tables = [table]
        data = io.BytesIO()
        font.save(data)
        pdf = pikepdf.new()
        simple = simple_font(pdf)
        simple.FirstChar, simple.LastChar, simple.Widths = 1, len(shown), [600] * len(shown)
        simple.FontDescriptor.Flags = 4
        simple.FontDescriptor.FontFile2 = pdf.make_stream(data.getvalue(), Length1=data.tell())
        del simple["/Encoding"]
        source = self.page_of(simple, f"<{bytes(range(1, len(shown) + 1)).hex()}>", pdf)
        self.lighten(source, preset(subset=True))
        kept = TTFont(io.BytesIO(self.font_file("/FontFile2")))
        self.assertEqual(kept["cmap"].getcmap(1, 0).cmap, table.cmap)

    def test_true_type_are_named_as_subsets(self) -> None:
        pdf = pikepdf.new()
        self.lighten(self.page_of(simple_font(pdf), "(Fen)", pdf), preset(subset=True))
        with pikepdf.open(self.folder / "b.pdf") as made:
            font = made.pages[0].obj.Resources.Font["/F"]
            self.assertRegex(str(font.BaseFont), r"^/[A-Z]{6}\+BitstreamVeraSans-Roman$")
            self.assertEqual(font.BaseFont, font.FontDescriptor.FontName)

    def test_true_type_of_form_fields_stay_whole(self) -> None:
        pdf = pikepdf.new()
        font = pdf.make_indirect(simple_font(pdf))
        pdf.Root.AcroForm = pikepdf.Dictionary(
            Fields=[], DR=pikepdf.Dictionary(Font=pikepdf.Dictionary(F=font))
        )
        source = self.page_of(font, "(Fen)", pdf)
        sheet = weigh(source)
        copy, _ = make_proved_copy(
            source, sheet, plan(sheet, preset(subset=True)), self.folder / "b.pdf"
        )
        kept = next(one for one in copy.outcomes if one.part_id.startswith("font:"))
        self.assertIs(kept.action, Action.KEEP)
        self.assertIn("not certain", kept.reason)

    def test_stored_again_become_one(self) -> None:
        pdf = pikepdf.new()
        fonts = [pdf.make_indirect(simple_font(pdf)) for _ in range(3)]
        source = self.page_of(fonts[0], "(Fen)", pdf)
        page = pdf.pages[0].obj
        for number, font in enumerate(fonts):
            page.Resources.Font[f"/F{number}"] = font
        page.Contents = pdf.make_stream(
            b"BT /F0 20 Tf 20 150 Td (Fen) Tj /F1 20 Tf (Reed) Tj /F2 20 Tf (Sedge) Tj ET"
        )
        source = self.saved(pdf)
        copy = self.lighten(source, preset(subset=False))
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.4)


class Cff(FontCase):
    """Bare CFF, name-keyed and CID-keyed, made by fontTools from a free TrueType font."""

    def cff(self, *, is_cid_keyed: bool) -> bytes:
        whole = TTFont(FONTS / "Vera.ttf")
        glyphs = whole.getGlyphSet()
        order = [".notdef", *sorted(set(whole.getBestCmap().values()) - {".notdef"})]
        programs = {}
        for name in order:
            pen = T2CharStringPen(glyphs[name].width, glyphs)
            glyphs[name].draw(Qu2CuPen(pen, max_err=2, all_cubic=True))
            programs[name] = pen.getCharString()
        builder = FontBuilder(2048, isTTF=False)
        builder.setupGlyphOrder(order)
        matrix = {"FontMatrix": [1 / 2048, 0, 0, 1 / 2048, 0, 0]}
        builder.setupCFF("Vera", matrix, programs, {"defaultWidthX": 0, "nominalWidthX": 0})
        fonts, holder = builder.font["CFF "].cff, builder.font
        if is_cid_keyed:
            self.key_by_cid(fonts[0], order)
        out = io.BytesIO()
        fonts.compile(out, holder, isCFF2=False)
        return out.getvalue()

    def key_by_cid(self, top: TopDict, order: list[str]) -> None:
        """CIDs in the order of the letters (Adobe technical note 5176, 18)."""
        names = [".notdef", *(f"cid{place:05d}" for place in range(1, len(order)))]
        strings = top.CharStrings
        strings.charStrings = {
            new: strings.charStrings[old] for new, old in zip(names, order, strict=True)
        }
        top.charset, top.ROS, top.CIDCount = names, ("Adobe", "Identity", 0), len(names)
        below = FontDict()
        below.Private = top.Private
        top.FDArray, top.FDSelect = FDArrayIndex(), FDSelect(format=3)
        top.FDArray.append(below)
        top.FDSelect.gidArray = [0] * len(names)
        for letter in strings.charStrings.values():
            letter.fdSelectIndex = 0
        del top.Private
        if hasattr(top, "Encoding"):
            del top.Encoding

    def with_file(
        self, font: pikepdf.Dictionary, data: bytes, subtype: str, pdf: pikepdf.Pdf
    ) -> None:
        below = font.DescendantFonts[0] if "/DescendantFonts" in font else font
        del below.FontDescriptor["/FontFile2"]
        below.FontDescriptor.FontFile3 = pdf.make_stream(data, Subtype=pikepdf.Name(subtype))

    def test_named_letters_in_use_stay(self) -> None:
        pdf = pikepdf.new()
        font = simple_font(pdf)
        font.Subtype = pikepdf.Name.Type1
        self.with_file(font, self.cff(is_cid_keyed=False), "/Type1C", pdf)
        source = self.page_of(font, "(Reed warblers 42)", pdf)
        copy = self.lighten(source, preset(subset=True))
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.35)
        fonts = CFFFontSet()
        fonts.decompile(io.BytesIO(self.font_file("/FontFile3")), None)
        pen = RecordingPen()
        fonts[0].CharStrings["R"].draw(pen)
        self.assertGreater(len(pen.value), 4)
        pen = RecordingPen()
        fonts[0].CharStrings["Q"].draw(pen)
        self.assertLessEqual(len(pen.value), 1)

    def test_numbered_letters_in_use_stay(self) -> None:
        whole = TTFont(FONTS / "Vera.ttf")
        names = whole.getBestCmap()
        order = [".notdef", *sorted(set(names.values()) - {".notdef"})]
        shown = b"".join(order.index(names[ord(one)]).to_bytes(2, "big") for one in WORDS)
        pdf = pikepdf.new()
        font = composite_font(pdf)
        below = font.DescendantFonts[0]
        below.Subtype = pikepdf.Name.CIDFontType0
        del below["/CIDToGIDMap"]
        self.with_file(font, self.cff(is_cid_keyed=True), "/CIDFontType0C", pdf)
        copy = self.lighten(self.page_of(font, f"<{shown.hex()}>", pdf), preset(subset=True))
        self.assertLess(copy.bytes_after / copy.bytes_before, 0.35)


class Type1(FontCase):
    def drawn(self, name: str, words: str) -> Source:
        face = pdfmetrics.EmbeddedType1Face(str(FONTS / f"{name}.afm"), str(FONTS / f"{name}.pfb"))
        pdfmetrics.registerTypeFace(face)
        pdfmetrics.registerFont(
            pdfmetrics.Font(name, face.name, face.requiredEncoding or "WinAnsiEncoding")
        )
        addMapping(name, 0, 0, name)
        path = self.folder / "a.pdf"
        canvas = Canvas(str(path), pagesize=(400, 200), pageCompression=1)
        canvas.setFont(name, 24)
        canvas.drawString(20, 100, words)
        canvas.save()
        return Source(path=path)

    def test_type1_becomes_cff_with_the_same_looks(self) -> None:
        for name in ("DarkGardenMK", "callig15", "_ab_____"):
            with self.subTest(font=name):
                (self.folder / "b.pdf").unlink(missing_ok=True)
                source = self.drawn(name, "Harrow Fen 1926")
                copy = self.lighten(source, preset(subset=True))
                outcome = next(one for one in copy.outcomes if one.part_id.startswith("font:"))
                self.assertIs(outcome.action, Action.RECODE)
                self.assertLess(outcome.bytes_after / outcome.bytes_before, 0.6)

    def test_letters_keep_their_outlines_and_widths(self) -> None:
        source = self.drawn("DarkGardenMK", "Fen")
        self.lighten(source, preset(subset=True))
        fonts = CFFFontSet()
        fonts.decompile(io.BytesIO(self.font_file("/FontFile3")), None)
        letters = fonts[0].CharStrings
        self.assertEqual(set(letters.keys()), {".notdef", "F", "e", "n"})
        pen = RecordingPen()
        letters["F"].draw(pen)
        self.assertGreater(len(pen.value), 4)
        metrics = (FONTS / "DarkGardenMK.afm").read_text()
        width = next(
            int(line.split(";")[1].split()[1]) for line in metrics.splitlines() if "; N F ;" in line
        )
        # The font counts 2048 to the em, its metrics 1000.
        self.assertEqual(round(letters["F"].width / 2.048), width)


class StandardFonts(FontCase):
    def test_standard_fonts_go_on_request_and_never_from_an_archive(self) -> None:
        pdf = pikepdf.new()
        font = simple_font(pdf)
        font.BaseFont = font.FontDescriptor.FontName = pikepdf.Name.Helvetica
        source = self.page_of(font, "(Fen)", pdf)
        sheet = weigh(source)
        decided = plan(sheet, preset(drops_standard=True))
        font_part = next(part for part in sheet.parts if part.font)
        self.assertIs(decided.by_part()[font_part.id].action, Action.DROP)
        self.assertTrue(any("Standard fonts" in warning for warning in decided.warnings))


class SpareFonts(FontCase):
    """Fonts that a person leaves out; which may go is by ISO 32000-1, 9.6.6 and table 123."""

    def font_part(self, source: Source) -> Part:
        return next(part for part in weigh(source).parts if part.font)

    def test_spare_fonts_are_those_whose_codes_a_standard_explains(self) -> None:
        win, letters = pikepdf.Name.WinAnsiEncoding, [65, pikepdf.Name("/eacute")]
        kinds: dict[str, tuple[bool, object, int]] = {
            "named": (True, win, 32),
            "with other letters": (True, pikepdf.Dictionary(Differences=letters), 32),
            "with names of its own": (
                False,
                pikepdf.Dictionary(Differences=[65, pikepdf.Name("/g17")]),
                32,
            ),
            "with an encoding of its own": (False, None, 32),
            "symbols": (False, win, 4),
        }
        for name, (can_go, encoding, flags) in kinds.items():
            with self.subTest(kind=name):
                (self.folder / "a.pdf").unlink(missing_ok=True)
                pdf = pikepdf.new()
                font = simple_font(pdf)
                del font.Encoding
                if encoding is not None:
                    font.Encoding = encoding
                font.FontDescriptor.Flags = flags
                facts = self.font_part(self.page_of(font, "(Fen)", pdf)).font
                assert facts is not None
                self.assertEqual(facts.can_be_spared, can_go)

    def test_composite_ones_by_glyph_numbers_stay(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(composite_font(pdf), f"<{as_glyphs('Fen').hex()}>", pdf)
        part = self.font_part(source)
        assert part.font is not None
        self.assertFalse(part.font.can_be_spared)
        chosen = {part.id: PartException(is_left_out=True)}
        decided = plan(weigh(source), preset(), exceptions=chosen)
        self.assertIsNot(decided.by_part()[part.id].action, Action.DROP)

    def test_unembedded_fonts_leave_the_text_and_are_reported(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(simple_font(pdf), f"({WORDS.replace('(', '').replace(')', '')})", pdf)
        sheet, part = weigh(source), self.font_part(source)
        chosen = {part.id: PartException(is_left_out=True)}
        decided = plan(sheet, preset(), exceptions=chosen)
        self.assertTrue(any("removed" in warning for warning in decided.warnings))
        copy, proof = make_proved_copy(source, sheet, decided, self.folder / "b.pdf")
        assert copy.path is not None and proof is not None
        # Another reader has other fonts.
        self.assertIs(proof.verdict, Verdict.CLOSE)
        self.assertIn("a font that was removed", proof.remarks[0])
        with pikepdf.open(copy.path) as made:
            descriptor = made.pages[0].Resources.Font.F.FontDescriptor
            self.assertNotIn("/FontFile2", descriptor)
        words = subprocess.run(
            ["pdftotext", copy.path, "-"], capture_output=True, text=True, check=True
        )
        self.assertIn("Reed warblers", words.stdout)


class Uses(FontCase):
    def test_uses_are_found_wherever_content_can_be(self) -> None:
        """Forms, patterns, drawn fonts, annotations and states (ISO 32000-1, 7.8, 8.7, 9.6.5)."""
        pdf = pikepdf.new()
        font = pdf.make_indirect(simple_font(pdf))
        fonts = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=font))

        def drawing(word: str, **entries: object) -> pikepdf.Stream:
            content = f"BT /F 9 Tf ({word}) Tj ET".encode()
            return pdf.make_stream(content, Resources=fonts, BBox=[0, 0, 9, 9], **entries)

        form = drawing("form", Subtype=pikepdf.Name.Form)
        inherits = pdf.make_stream(
            b"BT (inherits) Tj ET", Subtype=pikepdf.Name.Form, BBox=[0, 0, 9, 9]
        )
        pattern = drawing("pattern", PatternType=1)
        glyphs = pikepdf.Dictionary(
            Type=pikepdf.Name.Font,
            Subtype=pikepdf.Name.Type3,
            CharProcs=pikepdf.Dictionary(a=pdf.make_stream(b"BT /F 9 Tf (drawn) Tj ET")),
            Resources=fonts,
        )
        appearance = drawing("note", Subtype=pikepdf.Name.Form)
        note = pikepdf.Dictionary(
            Subtype=pikepdf.Name.Stamp,
            Rect=[0, 0, 9, 9],
            AP=pikepdf.Dictionary(N=pikepdf.Dictionary(On=appearance)),
        )
        pdf.add_blank_page(page_size=(200, 200))
        page = pdf.pages[0].obj
        page.Resources = pikepdf.Dictionary(
            Font=pikepdf.Dictionary(T=pdf.make_indirect(glyphs)),
            XObject=pikepdf.Dictionary(A=form, B=inherits),
            Pattern=pikepdf.Dictionary(P=pattern),
            ExtGState=pikepdf.Dictionary(G=pikepdf.Dictionary(Font=[font, 12])),
        )
        page.Contents = pdf.make_stream(
            b"/A Do q /G gs /B Do BT (state) Tj [(kerned) -20 (pair)] TJ ET Q"
        )
        page.Annots = pikepdf.Array([pdf.make_indirect(note)])
        uses = find_font_uses(pdf)
        self.assertTrue(uses.is_complete)
        self.assertEqual(
            uses.shown[font.objgen],
            {b"form", b"inherits", b"pattern", b"drawn", b"note", b"state", b"kerned", b"pair"},
        )

    def test_content_that_cannot_be_read_leaves_fonts_alone(self) -> None:
        pdf = pikepdf.new()
        source = self.page_of(simple_font(pdf), "(Fen)", pdf)
        with pikepdf.open(source.path) as again:
            again.pages[0].obj.Contents = again.make_stream(
                b"not packed at all", Filter=pikepdf.Name.DCTDecode
            )
            self.assertFalse(find_font_uses(again).is_complete)
