"""Packed rows against Pillow's PNG reader and writer, and against zlib."""

import io
import struct
import unittest
import zlib

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from PIL import Image
from skimage import data

from lighten.codecs.flate import inflate, pack, pack_rows, pack_samples, unpack_rows, unpack_samples


def idat_of(png: bytes) -> bytes:
    """The image data of a PNG (RFC 2083, clause 3.2)."""
    position, found = 8, b""
    while position < len(png):
        (length,) = struct.unpack(">I", png[position : position + 4])
        if png[position + 4 : position + 8] == b"IDAT":
            found += png[position + 8 : position + 8 + length]
        position += 12 + length
    return found


class Rows(unittest.TestCase):
    def test_written_by_pillow_are_read(self) -> None:
        for pixels in (data.camera()[:64, :50], data.astronaut()[:64, :50]):
            png = io.BytesIO()
            Image.fromarray(pixels).save(png, "PNG")
            colours = 1 if pixels.ndim == 2 else 3
            rows = unpack_rows(
                idat_of(png.getvalue()), width=50, height=64, bits=8, colours=colours, predictor=15
            )
            np.testing.assert_array_equal(rows.reshape(pixels.shape), pixels)

    def test_rows_of_photos_are_filtered_and_smaller_for_it(self) -> None:
        rows = data.astronaut().reshape(512, -1)
        packed = pack_rows(rows, pixel_bytes=3)
        self.assertEqual(packed.predictor, 15)
        self.assertLess(len(packed.data), len(zlib.compress(rows.tobytes(), 9)))

    def test_cut_short_leave_the_rest_empty(self) -> None:
        whole = np.full((40, 30), 7, np.uint8)
        cut = zlib.compress(whole[:10].tobytes())
        rows = unpack_rows(cut, width=30, height=40, bits=8, colours=1, predictor=1)
        np.testing.assert_array_equal(rows[:10], whole[:10])
        self.assertFalse(rows[10:].any())

    @given(
        hnp.arrays(np.uint8, st.tuples(st.integers(1, 20), st.integers(1, 20), st.just(3))),
    )
    def test_rows_come_back_as_they_were(self, pixels: np.ndarray) -> None:
        height, width = pixels.shape[:2]
        packed = pack_rows(pixels.reshape(height, -1), pixel_bytes=3)
        rows = unpack_rows(
            packed.data,
            width=width,
            height=height,
            bits=8,
            colours=3,
            predictor=packed.predictor,
        )
        np.testing.assert_array_equal(rows.reshape(pixels.shape), pixels)


class Samples(unittest.TestCase):
    @given(st.sampled_from([1, 2, 4, 8]), st.integers(1, 40), st.integers(1, 9), st.randoms())
    def test_samples_of_any_depth_come_back(
        self, bits: int, width: int, height: int, random
    ) -> None:  # type: ignore[no-untyped-def]
        levels = np.array(
            [[random.randrange(1 << bits) for _ in range(width)] for _ in range(height)], np.uint8
        )
        rows = pack_samples(levels, bits)
        np.testing.assert_array_equal(unpack_samples(rows, width=width, bits=bits), levels)


class Packing(unittest.TestCase):
    def test_packing_is_read_by_zlib(self) -> None:
        for content in (b"", b"a" * 100_000, bytes(data.camera())):
            self.assertEqual(zlib.decompress(pack(content)), content)

    def test_a_bomb_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            inflate(zlib.compress(b"\0" * 1_000_000), most_bytes=1000)
