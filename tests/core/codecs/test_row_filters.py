"""The filters of PNG, undone by Pillow."""

import io
import struct
import unittest
import zlib

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from lighten.codecs.row_filters import filtered_rows


class Rows(unittest.TestCase):
    @given(st.integers(1, 12), st.integers(1, 12), st.sampled_from([1, 3]), st.integers(0, 2**31))
    def test_rows_are_read_as_they_were(
        self, height: int, width: int, colours: int, seed: int
    ) -> None:
        """RFC 2083: a file of these rows shows the same pixels."""
        random = np.random.default_rng(seed)
        levels = random.integers(0, 256, (height, width, colours), np.uint8) // random.integers(
            1, 90
        )
        rows = filtered_rows(levels.astype(np.uint8).reshape(height, -1), colours)
        head = struct.pack(">IIBBBBB", width, height, 8, 0 if colours == 1 else 2, 0, 0, 0)
        png = b"\x89PNG\r\n\x1a\n" + b"".join(
            struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
            for name, body in (
                (b"IHDR", head),
                (b"IDAT", zlib.compress(rows.tobytes())),
                (b"IEND", b""),
            )
        )
        read = np.asarray(Image.open(io.BytesIO(png))).reshape(height, width, colours)
        np.testing.assert_array_equal(read, levels)

    def test_a_gradient_becomes_a_constant(self) -> None:
        slope = np.tile(np.arange(0, 200, 2, dtype=np.uint8), (6, 1))
        rows = filtered_rows(slope, 1)
        self.assertLessEqual(set(rows[:, 0].tolist()), {1, 2, 4})
        self.assertLessEqual(len(np.unique(rows[:, 2:])), 2)
