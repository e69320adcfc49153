"""Type 1 fonts against the font library, which reads them by running their PostScript.

The fonts are those that reportlab carries.
"""

import unittest

from fontTools.misc import eexec
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.t1Lib import T1Font, readPFB
from hypothesis import given
from hypothesis import strategies as st

from lighten.formats.pdf.fonts.type1 import FILE_KEY, LETTER_KEY, decrypted, read_type1
from tests.core.formats.pdf.fonts.test_fonts import FONTS

_NAMES = ("DarkGardenMK", "callig15", "_a______")


def _by_library(data: bytes) -> T1Font:
    font = T1Font.__new__(T1Font)
    font.data, font.encoding = data, "latin-1"
    return font


class Reading(unittest.TestCase):
    def font(self, name: str = _NAMES[0]) -> bytes:
        return bytes(readPFB(str(FONTS / f"{name}.pfb")))

    def test_letters_codes_and_sizes_are_the_librarys(self) -> None:
        for name in _NAMES:
            with self.subTest(name):
                ours, theirs = read_type1(self.font(name)), _by_library(self.font(name))
                letters = theirs["CharStrings"]
                self.assertEqual(set(ours.letters), set(letters))
                self.assertEqual(list(ours.encoding), list(theirs["Encoding"]))
                self.assertEqual(list(ours.matrix), list(map(float, theirs["FontMatrix"])))
                self.assertEqual(list(ours.box), list(map(float, theirs["FontBBox"])))
                for letter in sorted(letters)[:40]:
                    pens = DecomposingRecordingPen(letters), DecomposingRecordingPen(ours.letters)
                    letters[letter].draw(pens[0])
                    ours.letters[letter].draw(pens[1])
                    self.assertEqual(pens[1].value, pens[0].value, letter)
                    self.assertEqual(ours.letters[letter].width, letters[letter].width)

    def test_one_in_hexadecimal_digits_is_the_same(self) -> None:
        binary = self.font()
        start = binary.index(b"eexec") + 6
        end = binary.index(b"0" * 64)
        as_digits = binary[:start] + binary[start:end].hex().encode() + b"\n" + binary[end:]
        self.assertEqual(set(read_type1(as_digits).letters), set(read_type1(binary).letters))

    def test_unusual_syntax_is_reported(self) -> None:
        font = self.font()
        start = font.index(b"eexec")
        for name, data in {
            "nothing": b"",
            "no encrypted part": font[:start],
            "an empty encrypted part": font[: start + 6],
            "no box": font.replace(b"/FontBBox", b"/Fontbox!"),
        }.items():
            with self.subTest(name), self.assertRaises(ValueError):
                read_type1(data)

    @given(st.binary(max_size=200), st.sampled_from((FILE_KEY, LETTER_KEY)))
    def test_decrypting_undoes_the_librarys_encrypting(self, plain: bytes, key: int) -> None:
        self.assertEqual(decrypted(eexec.encrypt(plain, key)[0], key), plain)
