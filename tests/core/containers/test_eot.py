"""Fonts in their wrapper (EOT, W3C Member Submission of 5 March 2008), read by the font library."""

import io
import struct
import unittest
from pathlib import Path

import reportlab
from fontTools.ttLib import TTFont

from lighten.containers.eot import coding_of_eot, subset_eot
from lighten.model.kinds import FontCoding

_FONT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
_COMPRESSED, _MIXED = 0x4, 0x10000000


def wrapped(font: bytes, flags: int = 0) -> bytes:
    """A head as short as the standard has one, with names left empty."""
    head = bytearray(82 + 18)
    data = bytes(byte ^ 0x50 for byte in font) if flags & _MIXED else font
    struct.pack_into("<4I", head, 0, len(head) + len(data), len(data), 0x20001, flags)
    struct.pack_into("<H", head, 34, 0x504C)
    return bytes(head) + data


class Fonts(unittest.TestCase):
    def test_fonts_keep_the_letters_in_use_mixed_or_not(self) -> None:
        font = _FONT.read_bytes()
        for flags in (0, _MIXED):
            with self.subTest(flags=flags):
                whole = wrapped(font, flags)
                self.assertIs(coding_of_eot(whole), FontCoding.TRUETYPE)
                light = subset_eot(whole, "Ω")
                self.assertLess(len(light) / len(whole), 0.6)
                size, data_size = struct.unpack_from("<2I", light)
                self.assertEqual(size, len(light))
                data = light[size - data_size :]
                plain = bytes(byte ^ 0x50 for byte in data) if flags else data
                kept = TTFont(io.BytesIO(plain))
                self.assertIn(ord("A"), kept.getBestCmap())
                self.assertNotIn(ord("Ж"), kept.getBestCmap())
                adjustment = struct.unpack_from("<I", light, 60)[0]
                self.assertEqual(adjustment, kept["head"].checkSumAdjustment)

    def test_fonts_stay_whole_where_they_are_packed_or_cut(self) -> None:
        font = _FONT.read_bytes()
        for odd in (wrapped(font, _COMPRESSED), wrapped(font)[:-9], b"", bytes(200)):
            self.assertIsNone(coding_of_eot(odd))
            self.assertEqual(subset_eot(odd, "A"), odd)
