"""JPEG against Pillow's reader, and what PDF asks of it."""

import io
import unittest

import numpy as np
from PIL import Image
from skimage import data

from lighten.codecs.jpeg import (
    Chroma,
    decode_jpeg,
    decode_jpeg_luma,
    encode_jpeg,
    glimpse_jpeg,
    repack_jpeg,
)
from lighten.codecs.jpeg2000 import decode_jpeg2000
from tests.builders import as_jpeg


class Encoding(unittest.TestCase):
    def test_encoding_is_read_by_pillow_and_near_the_source(self) -> None:
        inks = np.dstack([data.astronaut(), data.astronaut()[..., 0] // 2])
        for name, pixels in (("grey", data.camera()), ("colour", data.coffee()), ("inks", inks)):
            with self.subTest(name=name):
                coded = encode_jpeg(pixels, quality=90, chroma=Chroma.FULL)
                again = decode_jpeg(coded)
                self.assertEqual(again.shape, pixels.shape)
                self.assertLess(np.abs(again.astype(np.int16) - pixels).mean(), 3)

    def test_encoding_is_progressive_and_carries_nothing_else(self) -> None:
        with Image.open(
            io.BytesIO(encode_jpeg(data.coffee(), quality=80, chroma=Chroma.HALVED))
        ) as image:
            self.assertTrue(image.info.get("progressive"))
            self.assertNotIn("exif", image.info)
            self.assertNotIn("icc_profile", image.info)

    def test_encoding_is_heavier_for_more_quality(self) -> None:
        sizes = [
            len(encode_jpeg(data.coffee(), quality=quality, chroma=Chroma.HALVED))
            for quality in (30, 50, 70, 90)
        ]
        self.assertEqual(sizes, sorted(sizes))

    def test_encoding_gives_the_same_bytes_every_time(self) -> None:
        one, other = (
            encode_jpeg(data.coffee(), quality=75, chroma=Chroma.HALVED) for _ in range(2)
        )
        self.assertEqual(one, other)


class Decoding(unittest.TestCase):
    def test_decoding_at_a_reduced_size_is_never_smaller_than_asked(self) -> None:
        coded = as_jpeg(data.astronaut())
        for wanted in (60, 100, 200, 500):
            height, width = decode_jpeg(coded, at_least=(wanted, wanted)).shape[:2]
            self.assertGreaterEqual(min(height, width), wanted)
        self.assertLess(decode_jpeg(coded, at_least=(60, 60)).shape[0], 200)

    def test_decoding_of_luma_alone_is_that_of_the_whole(self) -> None:
        coded = as_jpeg(data.astronaut())
        with Image.open(io.BytesIO(coded)) as image:
            wanted = np.asarray(image.convert("L"), np.int16)
        self.assertLess(np.abs(decode_jpeg_luma(coded) - wanted).mean(), 1.5)

    def test_decoding_of_inks_that_do_not_say_which_way_round_is_refused(self) -> None:
        coded = io.BytesIO()
        Image.new("CMYK", (16, 16), (10, 20, 30, 40)).save(coded, "JPEG")
        unmarked = coded.getvalue().replace(b"Adobe", b"Other")
        with self.assertRaisesRegex(ValueError, "which way round"):
            decode_jpeg(unmarked)

    def test_decoding_of_a_cut_file_is_an_error(self) -> None:
        with self.assertRaises(OSError):
            decode_jpeg(as_jpeg(data.coffee())[:5000])

    def test_a_glimpse_is_a_band_of_the_picture(self) -> None:
        band = glimpse_jpeg(as_jpeg(data.astronaut()), longest_px=512)
        self.assertLess(band.shape[0], band.shape[1])
        self.assertEqual(band.shape[2], 3)
        with self.assertRaises(OSError):
            glimpse_jpeg(b"not a picture", longest_px=100)


class Jpeg2000(unittest.TestCase):
    def coded(self, pixels: np.ndarray) -> bytes:
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, "JPEG2000", irreversible=False)
        return out.getvalue()

    def test_jpeg2000_is_decoded_exactly_where_it_was_coded_so(self) -> None:
        for pixels in (data.camera(), data.coffee()):
            np.testing.assert_array_equal(decode_jpeg2000(self.coded(pixels)), pixels)

    def test_jpeg2000_can_be_halved_while_decoding(self) -> None:
        small = decode_jpeg2000(self.coded(data.camera()), halvings=2)
        self.assertEqual(small.shape, (128, 128))

    def test_opacity_comes_as_one_more_channel(self) -> None:
        opacity = np.full((64, 64), 9, np.uint8)
        for colours in (data.astronaut()[:64, :64], data.camera()[:64, :64]):
            pixels = decode_jpeg2000(self.coded(np.dstack([colours, opacity])))
            np.testing.assert_array_equal(pixels[..., -1], opacity)
            np.testing.assert_array_equal(np.squeeze(pixels[..., :-1]), colours)


class Repacking(unittest.TestCase):
    def test_repacking_keeps_every_sample(self) -> None:
        coded = as_jpeg(data.coffee())
        packed = repack_jpeg(coded)
        self.assertLess(len(packed), len(coded))
        np.testing.assert_array_equal(decode_jpeg(packed), decode_jpeg(coded))

    def test_repacking_outlives_what_ends_the_library(self) -> None:
        """A difference of 15 bits, of which the standard has 11 at most (ITU-T T.81, F.1.2.1)."""
        coded = bytearray(as_jpeg(data.camera()))
        symbols = coded.index(b"\xff\xc4") + 2 + 2 + 1 + 16
        coded[symbols + 3] = 15
        for _ in range(2):
            with self.assertRaisesRegex(OSError, "a damaged JPEG"):
                repack_jpeg(bytes(coded))
        self.assertTrue(repack_jpeg(as_jpeg(data.camera())))
