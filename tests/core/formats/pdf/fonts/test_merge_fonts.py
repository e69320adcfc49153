"""Files with some letters each of one font become one, read back by fontTools and poppler."""

import io
from pathlib import Path

import pikepdf
from fontTools.cffLib import CFFFontSet
from fontTools.pens.recordingPen import RecordingPen
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont

from lighten import Copy, Source
from lighten.formats.pdf.fonts.font_errors import font_errors
from lighten.formats.pdf.fonts.font_use import FontUse
from lighten.formats.pdf.fonts.merge_fonts import FontFile, MergedFont, merge_fonts
from tests.core.formats.pdf.fonts.test_fonts import (
    FONTS,
    FontCase,
    as_glyphs,
    composite_font,
    preset,
)
from tests.core.formats.pdf.fonts.test_fonts import Type1 as Type1Case

CHAPTERS = ("Reed warblers", "Sedge warblers", "Marsh harriers", "Bearded tits")


def some_letters(words: str, *, font: str = "Vera") -> bytes:
    """A TrueType file with those letters at their own numbers, found by number only."""
    whole = TTFont(FONTS / f"{font}.ttf")
    options = Options(retain_gids=True, notdef_outline=True, hinting=True, glyph_names=False)
    options.drop_tables += ["cmap", "post", "OS/2"]
    subsetter = Subsetter(options)
    numbers = whole.getBestCmap()
    subsetter.populate(gids=[whole.getGlyphID(numbers[ord(letter)]) for letter in words])
    subsetter.subset(whole)
    out = io.BytesIO()
    whole.save(out)
    return out.getvalue()


def outlines(data: bytes) -> dict[int, tuple[object, ...]]:
    """Return the outline of each glyph by its number, through fontTools' own reader."""
    font = TTFont(io.BytesIO(data))
    font.setGlyphOrder([f"g{number}" for number in range(font["maxp"].numGlyphs)])
    glyphs, found = font.getGlyphSet(), {}
    for number, name in enumerate(font.getGlyphOrder()):
        pen = RecordingPen()
        glyphs[name].draw(pen)
        if pen.value:
            found[number] = (*pen.value, font["hmtx"][name][0])
    return found


def merged_by_number(files: tuple[bytes, ...]) -> list[MergedFont]:
    """Merge files of composite fonts that show every glyph that they have an outline of."""

    def use_of(data: bytes) -> FontUse:
        try:
            codes = frozenset(outlines(data))
        except font_errors():
            codes = frozenset()
        return FontUse(codes=codes, names={}, is_composite=True)

    return merge_fonts(tuple(FontFile(data=data, uses=(use_of(data),)) for data in files))


class TrueTypeFiles(FontCase):
    def test_true_type_files_have_the_letters_of_all_at_their_numbers(self) -> None:
        files = tuple(map(some_letters, CHAPTERS))
        (merged,) = merged_by_number(files)
        self.assertEqual(merged.members, (0, 1, 2, 3))
        expected: dict[int, tuple[object, ...]] = {}
        for file in files:
            expected |= outlines(file)
        self.assertEqual(outlines(merged.plain), expected)

    def test_true_type_files_of_other_designs_stay_apart(self) -> None:
        files = (some_letters("Reed"), some_letters("Sedge", font="VeraBd"), some_letters("Fen"))
        (merged,) = merged_by_number(files)
        self.assertEqual(merged.members, (0, 2))

    def test_true_type_files_whose_numbers_mean_other_letters_stay_apart(self) -> None:
        other = TTFont(io.BytesIO(some_letters("Reed warbler")))
        other.setGlyphOrder([f"g{number}" for number in range(other["maxp"].numGlyphs)])
        glyphs = other["glyf"].glyphs
        one, two = (f"g{number}" for number in outlines(some_letters("ed")) if number > 3)
        glyphs[one], glyphs[two] = glyphs[two], glyphs[one]
        changed = io.BytesIO()
        other.save(changed)
        self.assertEqual(merged_by_number((some_letters("Reed"), changed.getvalue())), [])

    def test_true_type_files_that_are_damaged_are_passed_over(self) -> None:
        files = (some_letters("Reed"), b"\0\1\0\0" + bytes(40), b"", some_letters("Sedge"))
        (merged,) = merged_by_number(files)
        self.assertEqual(merged.members, (0, 3))

    def test_found_by_post_names_stay_apart_from_those_found_by_number(self) -> None:
        """A simple font without a cmap is read by its post names (ISO 32000-2, 9.6.5.4)."""
        named = TTFont(FONTS / "Vera.ttf")
        del named["cmap"]
        data = io.BytesIO()
        named.save(data)
        simple = FontUse(codes=frozenset(b"Reed"), names={})
        by_number = some_letters("Sedge")
        composite = FontUse(codes=frozenset(outlines(by_number)), names={}, is_composite=True)
        files = (
            FontFile(data=data.getvalue(), uses=(simple,)),
            FontFile(data=by_number, uses=(composite,)),
        )
        self.assertEqual(merge_fonts(files), [])

    def test_one_of_which_has_no_cmap_are_merged(self) -> None:
        whole = TTFont(FONTS / "Vera.ttf")
        del whole["post"]
        data = io.BytesIO()
        whole.save(data)
        codes = frozenset(outlines(some_letters("Sedge")))
        use = FontUse(codes=codes, names={}, is_composite=True)
        files = [
            FontFile(data=file, uses=(use,)) for file in (some_letters("Sedge"), data.getvalue())
        ]
        for pair in (files, files[::-1]):
            (merged,) = merge_fonts(tuple(pair))
            self.assertEqual(merged.members, (0, 1))

    def test_true_type_files_of_a_document_become_one(self) -> None:
        pdf = pikepdf.new()
        for words in CHAPTERS:
            font = composite_font(pdf)
            data = some_letters(words)
            font.DescendantFonts[0].FontDescriptor.FontFile2 = pdf.make_stream(
                data, Length1=len(data)
            )
            page = pdf.add_blank_page(page_size=(400, 200)).obj
            page.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=pdf.make_indirect(font)))
            content = f"BT /F 20 Tf 20 100 Td <{as_glyphs(words).hex()}> Tj ET"
            page.Contents = pdf.make_stream(content.encode())
        copy = self.lighten(self.saved(pdf), preset(subset=True))
        self.assert_one_font_file(copy)

    def assert_one_font_file(self, copy: Copy) -> None:
        outcomes = [one for one in copy.outcomes if one.part_id.startswith("font:")]
        self.assertGreater(len(outcomes), 1)
        self.assertEqual(sum(one.bytes_after > 0 for one in outcomes), 1)
        self.assertIn("in one file for all", outcomes[0].reason)
        with pikepdf.open(self.folder / "b.pdf") as pdf:
            files = {
                value[key].objgen
                for value in pdf.objects
                if isinstance(value, pikepdf.Dictionary)
                for key in ("/FontFile", "/FontFile2", "/FontFile3")
                if key in value
            }
        self.assertEqual(len(files), 1)


class CffFiles(Type1Case):
    """Chapters made by themselves, each with its letters of a Type 1 font, then put together."""

    def put_together(self, name: str) -> Source:
        whole = pikepdf.new()
        for words in CHAPTERS:
            chapter = self.drawn(name, words)
            (self.folder / "b.pdf").unlink(missing_ok=True)
            self.lighten(chapter, preset(subset=True))
            with pikepdf.open(self.folder / "b.pdf") as pdf:
                whole.pages.extend(pdf.pages)
        (self.folder / "b.pdf").unlink()
        return self.saved(whole)

    def test_cff_files_of_a_document_become_one(self) -> None:
        for name in ("DarkGardenMK", "callig15"):
            with self.subTest(font=name):
                source = self.put_together(name)
                copy = self.lighten(source, preset(subset=True))
                TrueTypeFiles.assert_one_font_file(self, copy)  # type: ignore[arg-type]
                fonts = CFFFontSet()
                fonts.decompile(io.BytesIO(self.font_file("/FontFile3")), None)
                letters = set(fonts[0].CharStrings.keys())
                self.assertEqual(letters - {".notdef", "space"}, set("".join(CHAPTERS)) - {" "})
                self.assertLess(copy.bytes_after, 0.8 * copy.bytes_before)
                Path(self.folder / "b.pdf").unlink()
