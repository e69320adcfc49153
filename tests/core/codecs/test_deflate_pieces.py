"""Streams joined from pieces, read by zlib (RFC 1951), which had no part in joining them."""

import unittest
import zlib

import deflate
from hypothesis import given
from hypothesis import strategies as st

from lighten.codecs.deflate_pieces import clear_final_block, joined

_TEXT = st.text("abc<>/ 0123", max_size=400).map(lambda text: (text * 7).encode())
_PIECES = st.lists(st.tuples(st.one_of(_TEXT, st.binary(max_size=300)), st.integers(0, 5)))


def packed(content: bytes, way: int) -> bytes:
    """Stored, with fixed codes, with codes of its own, by two packers."""
    if way < 3:
        return bytes(deflate.deflate_compress(content, (1, 6, 12)[way]))
    fixed = zlib.Z_FIXED if way == 3 else zlib.Z_DEFAULT_STRATEGY
    packer = zlib.compressobj(0 if way == 4 else 9, zlib.DEFLATED, -15, 9, fixed)
    return packer.compress(content) + packer.flush()


class Pieces(unittest.TestCase):
    @given(_PIECES)
    def test_pieces_unpack_to_all_that_was_packed(self, pieces: list[tuple[bytes, int]]) -> None:
        whole = b"".join(joined(packed(*piece) for piece in pieces))
        expected = b"".join(content for content, _ in pieces)
        self.assertEqual(zlib.decompress(whole, -15) if pieces else whole, expected)

    def test_pieces_weigh_four_or_five_bytes_more_each(self) -> None:
        piece = packed(b"walk the nets " * 4000, 1)
        self.assertIn(len(clear_final_block(piece)) - len(piece), (4, 5))

    def test_pieces_of_what_is_no_whole_stream_nothing_is_joined(self) -> None:
        piece = packed(bytes(range(256)) * 40, 2)
        for bad in (b"", piece[:-9], piece + b"\0", b"\xff" * 40):
            with self.subTest(length=len(bad)), self.assertRaises(ValueError):
                clear_final_block(bad)
