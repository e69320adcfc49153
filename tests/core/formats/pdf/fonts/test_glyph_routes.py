"""Routes from codes to glyphs, in fonts changed by fontTools and read by FreeType."""

import io
import unittest
from pathlib import Path
from typing import Any

import reportlab
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables._c_m_a_p import CmapSubtable

from lighten.formats.pdf.fonts.font_use import FontUse
from lighten.formats.pdf.fonts.glyph_routes import changed_route

# Free fonts that the registry package reportlab carries.
FONTS = Path(reportlab.__file__).parent / "fonts"
VERA = (FONTS / "Vera.ttf").read_bytes()
TYPE_1 = (FONTS / "DarkGardenMK.pfb").read_bytes()
SIMPLE = FontUse(codes=frozenset(b"ABa"), names={})


def written(font: TTFont) -> bytes:
    data = io.BytesIO()
    font.save(data)
    return data.getvalue()


def opened(data: bytes = VERA) -> Any:
    return TTFont(io.BytesIO(data), recalcTimestamp=False)


def with_mac_table(kind: int, letters: dict[int, str]) -> bytes:
    """Vera with one cmap subtable, (1, 0), of a format (OpenType 1.9, cmap)."""
    font = opened()
    table = CmapSubtable.newSubtable(kind)
    table.platformID, table.platEncID, table.language, table.cmap = 1, 0, 0, letters
    font["cmap"].tables = [table]
    return written(font)


class SimpleFonts(unittest.TestCase):
    def test_equal_files_have_equal_routes(self) -> None:
        self.assertEqual(changed_route(VERA, VERA, (SIMPLE,)), "")

    def test_glyph_numbers_may_change(self) -> None:
        font = opened()
        font["cmap"].tables = [table for table in font["cmap"].tables if table.platformID == 3]
        before = written(font)
        order = list(font.getGlyphOrder())
        font.ensureDecompiled()  # what is not read is written by its old numbers
        font.setGlyphOrder([order[0], *reversed(order[1:])])
        font["glyf"].glyphOrder = font.getGlyphOrder()
        self.assertEqual(changed_route(before, written(font), (SIMPLE,)), "")

    def test_other_units_an_em_are_named(self) -> None:
        font = opened()
        font["head"].unitsPerEm //= 2
        self.assertIn("units an em", changed_route(VERA, written(font), (SIMPLE,)))

    def test_lost_cmap_subtable_is_named(self) -> None:
        before = with_mac_table(0, {65: "A", 66: "B", 97: "a"})
        font = opened(before)
        font["cmap"].tables = []
        self.assertIn("cmap (1, 0)", changed_route(before, written(font), (SIMPLE,)))

    def test_same_subtable_in_another_format_is_the_same_route(self) -> None:
        letters = {65: "A", 66: "B", 97: "a"}
        before, after = with_mac_table(0, letters), with_mac_table(6, letters)
        self.assertEqual(changed_route(before, after, (SIMPLE,)), "")

    def test_code_that_leads_to_another_glyph_is_named(self) -> None:
        before = with_mac_table(0, {65: "A", 66: "B", 97: "a"})
        after = with_mac_table(0, {65: "A", 66: "A", 97: "a"})
        self.assertEqual(
            changed_route(before, after, (SIMPLE,)), "cmap (1, 0) 66 leads to another glyph"
        )

    def test_code_that_is_not_shown_may_change(self) -> None:
        before = with_mac_table(0, {65: "A", 67: "C"})
        after = with_mac_table(0, {65: "A", 67: "A"})
        self.assertEqual(changed_route(before, after, (SIMPLE,)), "")

    def test_code_within_the_symbol_range_is_followed(self) -> None:
        font = opened()
        table = CmapSubtable.newSubtable(4)
        table.platformID, table.platEncID, table.language = 3, 0, 0
        table.cmap = {0xF041: "A"}
        font["cmap"].tables = [table]
        before = written(font)
        table.cmap = {0xF041: "B"}
        self.assertIn("cmap (3, 0)", changed_route(before, written(font), (SIMPLE,)))

    def test_lost_glyph_names_are_named(self) -> None:
        font = opened()
        font["post"].formatType = 3.0
        self.assertIn("name A is gone", changed_route(VERA, written(font), (SIMPLE,)))

    def test_name_of_the_fonts_own_encoding_is_followed(self) -> None:
        use = FontUse(codes=frozenset([300]), names={300: "yen"})
        font = opened()
        font["post"].formatType = 3.0
        self.assertIn("name yen is gone", changed_route(VERA, written(font), (use,)))

    def test_changed_advance_is_another_glyph(self) -> None:
        font = opened()
        advance, bearing = font["hmtx"]["A"]
        font["hmtx"]["A"] = (advance + 40, bearing)
        self.assertIn("leads to another glyph", changed_route(VERA, written(font), (SIMPLE,)))

    def test_moved_outline_is_another_glyph(self) -> None:
        font = opened()
        outline = font["glyf"]["A"]
        outline.coordinates.translate((0, 200))
        self.assertIn("leads to another glyph", changed_route(VERA, written(font), (SIMPLE,)))

    def test_outline_rounded_by_a_unit_is_the_same_glyph(self) -> None:
        font = opened()
        font["glyf"]["A"].coordinates.translate((0, 1))
        self.assertEqual(changed_route(VERA, written(font), (SIMPLE,)), "")

    def test_file_that_cannot_be_opened_has_lost_all_routes(self) -> None:
        self.assertIn("is gone", changed_route(VERA, VERA[:200], (SIMPLE,)))

    def test_original_that_cannot_be_opened_has_none_to_lose(self) -> None:
        self.assertEqual(changed_route(b"no font", VERA, (SIMPLE,)), "")


class CompositeFonts(unittest.TestCase):
    def composite(self, *glyphs: int) -> FontUse:
        """Return CIDs 1 to n that lead to `glyphs` by a map (ISO 32000-2, table 115)."""
        table = b"".join(glyph.to_bytes(2, "big") for glyph in (0, *glyphs))
        codes = frozenset(range(1, len(glyphs) + 1))
        return FontUse(codes=codes, names={}, is_composite=True, glyph_of_cid=table)

    def test_cid_is_followed_through_its_map(self) -> None:
        font = opened()
        number = font.getGlyphID("A")
        font["glyf"]["A"] = font["glyf"]["B"]
        changed = written(font)
        self.assertIn("CID 1", changed_route(VERA, changed, (self.composite(number),)))
        other = self.composite(font.getGlyphID("C"))
        self.assertEqual(changed_route(VERA, changed, (other,)), "")

    def test_cid_without_a_glyph_leads_nowhere(self) -> None:
        self.assertEqual(changed_route(VERA, VERA[:200], (self.composite(0),)), "")


class Type1Fonts(unittest.TestCase):
    def test_built_in_encoding_is_followed(self) -> None:
        use = FontUse(codes=frozenset(b"ag"), names={})
        self.assertEqual(changed_route(TYPE_1, TYPE_1 + b"\0", (use,)), "")

    def test_glyph_of_another_font_is_another_glyph(self) -> None:
        use = FontUse(codes=frozenset(b"ag"), names={})
        self.assertIn("leads to another glyph", changed_route(TYPE_1, VERA, (use,)))
