"""TIFF pages through libtiff, against Pillow's own reading of them."""

import io
import unittest

import numpy as np
from PIL import Image

from lighten.codecs.tiff import decode_tiff

_GREY = np.indices((24, 31)).sum(axis=0).astype(np.uint8) * 4


def written(image: Image.Image, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, "TIFF", **options)
    return out.getvalue()


class Decoded(unittest.TestCase):
    def test_pixels_are_those_that_were_written_in_every_coding(self) -> None:
        colour = np.stack([_GREY, _GREY[::-1], 255 - _GREY], axis=-1)
        for coding in (None, "tiff_lzw", "tiff_adobe_deflate", "packbits"):
            for pixels in (_GREY, colour):
                with self.subTest(coding=coding, shape=pixels.shape):
                    coded = written(Image.fromarray(pixels), compression=coding)
                    np.testing.assert_array_equal(decode_tiff(coded), pixels)

    def test_bitonal_pages_decode_to_black_and_white(self) -> None:
        black = Image.fromarray(_GREY).convert("1")
        for coding in ("group3", "group4", None):
            read = decode_tiff(written(black, compression=coding))
            np.testing.assert_array_equal(read, np.asarray(black.convert("L")))

    def test_palettes_are_resolved(self) -> None:
        colour = np.stack([_GREY, _GREY[::-1], 255 - _GREY], axis=-1)
        few = Image.fromarray(colour).quantize(9)
        read = decode_tiff(written(few))
        np.testing.assert_array_equal(read, np.asarray(few.convert("RGB")))

    def test_16_bits_stay(self) -> None:
        deep = _GREY.astype(np.uint16) * 251
        np.testing.assert_array_equal(decode_tiff(written(Image.fromarray(deep))), deep)

    def test_damaged_and_non_light_pages_are_reported(self) -> None:
        whole = written(Image.fromarray(_GREY), compression="tiff_lzw")
        heights = written(Image.fromarray(_GREY.astype(np.float32)))
        for damaged in (b"", b"no picture", whole[: len(whole) // 2], heights):
            with self.assertRaises(ValueError):
                decode_tiff(damaged)
