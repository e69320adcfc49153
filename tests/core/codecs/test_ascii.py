"""Bytes as letters, against the standard library and the worked cases of ISO 32000-1."""

import base64
import unittest

from hypothesis import given
from hypothesis import strategies as st

from lighten.codecs.ascii import decode_ascii85, decode_ascii_hex


class Ascii85(unittest.TestCase):
    @given(st.binary(max_size=400), st.integers(0, 70))
    def test_ascii85_says_what_the_standard_library_wrote(self, data: bytes, columns: int) -> None:
        written = base64.a85encode(data, wrapcol=columns if columns > 1 else 0)
        self.assertEqual(decode_ascii85(written + b"~>"), data)
        self.assertEqual(decode_ascii85(b"<~" + written), data)

    def test_four_zero_bytes_are_one_letter(self) -> None:
        """7.4.3: z stands for four bytes of 0."""
        self.assertEqual(decode_ascii85(b"z!!~>what follows"), bytes(5))

    def test_invalid_input_is_refused(self) -> None:
        for bad in (b"abc{def", b"uuuuu", b"\xff\xfe"):
            with self.subTest(bad), self.assertRaises(ValueError):
                decode_ascii85(bad)


class AsciiHex(unittest.TestCase):
    def test_a_last_single_digit_counts_as_followed_by_zero(self) -> None:
        """7.4.2, and white space between digits is passed over."""
        self.assertEqual(decode_ascii_hex(b"90 1f\nA3 7>00"), b"\x90\x1f\xa3\x70")
