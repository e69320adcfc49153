"""Pages of PWG raster, coded by a writer of the tests' own (PWG 5102.4, 4.3 and 4.4)."""

import io
import struct
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from printers.pwg_raster import BadRasterError, read_pwg_raster

_HEAD_BYTES = 1796
_SIZES = st.tuples(st.integers(1, 20), st.integers(1, 150))


def head(width: int, height: int, *, bits: int = 8, space: int = 18, ppi: int = 300) -> bytes:
    """Of a page, with the fields that matter at their places; the rest is zero."""
    content = bytearray(_HEAD_BYTES)
    content[:9] = b"PwgRaster"
    pixel_bits = bits * (3 if space in (1, 19, 20) else 1)
    struct.pack_into(">II", content, 276, ppi, ppi)
    struct.pack_into(">II", content, 372, width, height)
    struct.pack_into(">III", content, 384, bits, pixel_bits, -(-width * pixel_bits // 8))
    struct.pack_into(">I", content, 400, space)
    return bytes(content)


def line_of(units: np.ndarray, *, in_runs: bool) -> bytes:
    """One line: runs of like units, up to 128 of them; or 2 to 128 unlike ones as they are."""
    out, at = bytearray(), 0
    while at < len(units):
        same = 1
        while at + same < len(units) and same < 128 and (units[at + same] == units[at]).all():
            same += 1
        left = min(128, len(units) - at)
        if in_runs or same > 1 or left < 2:
            out += bytes([same - 1]) + units[at].tobytes()
            at += same
        else:
            out += bytes([257 - left]) + units[at : at + left].tobytes()
            at += left
    return bytes(out)


def coded(pixels: np.ndarray, *, in_runs: bool = True, space: int = 18) -> bytes:
    units = pixels[..., None] if pixels.ndim == 2 else pixels
    lines = b"".join(b"\0" + line_of(line, in_runs=in_runs) for line in units)
    return head(pixels.shape[1], pixels.shape[0], space=space) + lines


def pages(content: bytes) -> list[np.ndarray]:
    return [page.pixels for page in read_pwg_raster(io.BytesIO(b"RaS2" + content))]


class Pages(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(_SIZES.flatmap(lambda size: arrays(np.uint8, size)), st.booleans())
    def test_pages_of_grey_are_those_that_were_sent(
        self, pixels: np.ndarray, in_runs: bool
    ) -> None:
        (read,) = pages(coded(pixels, in_runs=in_runs))
        np.testing.assert_array_equal(read, pixels)

    @settings(max_examples=20, deadline=None)
    @given(arrays(np.uint8, (6, 11, 3)), st.booleans())
    def test_pages_of_colour_too(self, pixels: np.ndarray, in_runs: bool) -> None:
        (read,) = pages(coded(pixels, in_runs=in_runs, space=19))
        np.testing.assert_array_equal(read, pixels)

    def test_pages_come_one_after_the_other(self) -> None:
        first, second = np.full((3, 4), 10, np.uint8), np.full((5, 2), 99, np.uint8)
        self.assertEqual(
            [page.shape for page in pages(coded(first) + coded(second))], [(3, 4), (5, 2)]
        )

    def test_lines_may_stand_for_many(self) -> None:
        (read,) = pages(head(4, 200) + b"\xc7" + b"\x03\x55")
        self.assertTrue((read == 0x55).all())

    def test_pages_in_black_ink_is_dark(self) -> None:
        """Table 12: of colour space 3, one means ink."""
        (read,) = pages(head(8, 1, bits=1, space=3) + b"\0\0\xf0")
        np.testing.assert_array_equal(read, [[0] * 4 + [255] * 4])

    def test_the_rest_of_a_line_may_be_left_out(self) -> None:
        (read,) = pages(head(6, 1) + b"\0" + b"\x01\x07" + b"\x80")
        np.testing.assert_array_equal(read, [[7, 7, 255, 255, 255, 255]])

    def test_damaged_pages_are_reported(self) -> None:
        whole = coded(np.zeros((4, 4), np.uint8))
        for content in (
            whole[:-1],
            whole[:700],
            head(0, 4),
            head(2**20, 2**20),
            head(4, 1) + b"\0\x07\x01",
            head(4, 1) + b"\x09\x03\x01",
            head(4, 1, bits=16),
        ):
            with self.subTest(content=len(content)), self.assertRaises(BadRasterError):
                pages(content)
        with self.assertRaises(BadRasterError):
            list(read_pwg_raster(io.BytesIO(b"%PDF-1.7")))
