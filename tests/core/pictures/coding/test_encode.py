"""The choice of coding, read back by Pillow and judged by scikit-image."""

import io
import unittest

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from skimage import data

from benchmarks.looks import ssimulacra2
from lighten.codecs.flate import unpack_rows, unpack_samples
from lighten.codecs.jpeg import Chroma, encode_jpeg
from lighten.model.kinds import PictureClass
from lighten.pictures.coding.encode import CodedPicture, Coding, encode
from lighten.pictures.coding.encode_exactly import encode_exactly
from lighten.pictures.pixels.classify import classify, is_without_colour
from tests.builders import as_jpeg, chart, landscape, logbook


def read_exact(coded: CodedPicture) -> NDArray[np.uint8]:
    """The pixels of an exact coding, palette resolved."""
    samples = 1 if coded.palette is not None else coded.colours
    rows = unpack_rows(
        coded.data,
        width=coded.width_px,
        height=coded.height_px,
        bits=coded.bits,
        colours=samples,
        predictor=coded.predictor,
    )
    if coded.palette is None:
        shape = (coded.height_px, coded.width_px, coded.colours)
        return rows.reshape(shape) if coded.colours == 3 else rows
    levels = unpack_samples(rows, width=coded.width_px, bits=coded.bits)
    entries = np.frombuffer(coded.palette, np.uint8).reshape(-1, coded.colours)[levels]
    return entries if coded.colours == 3 else entries[..., 0]


class Exact(unittest.TestCase):
    def test_exact_keeps_every_pixel(self) -> None:
        grey_steps = np.tile(np.arange(12, dtype=np.uint8) * 20, (30, 4))
        cases = {
            "chart": chart(200, 120, 1),
            "photo": data.astronaut()[:100, :90],
            "grey photo": data.camera()[:101, :77],
            "few greys": grey_steps,
            "one colour": np.full((5, 7, 3), 9, np.uint8),
        }
        for name, pixels in cases.items():
            with self.subTest(name=name):
                np.testing.assert_array_equal(read_exact(encode_exactly(pixels)), pixels)

    def test_few_colours_become_a_palette_of_few_bits(self) -> None:
        coded = encode_exactly(chart(400, 300, 2))
        self.assertEqual((coded.bits, coded.colours), (4, 3))
        self.assertLessEqual(len(coded.palette or b""), 16 * 3)


class Choice(unittest.TestCase):
    def encode(self, pixels: NDArray[np.uint8], quality: int = 79) -> CodedPicture:
        return encode(pixels, quality=quality, floor=0.8)

    def test_photos_become_jpeg(self) -> None:
        self.assertIs(self.encode(data.astronaut()).coding, Coding.JPEG)

    def test_charts_stay_exact(self) -> None:
        self.assertIs(self.encode(chart(800, 500, 3)).coding, Coding.FLATE)

    def test_paper_is_not_taken_for_a_drawing(self) -> None:
        grain = np.random.default_rng(1).integers(0, 3, (500, 400), np.uint8)
        page = np.full((500, 400), 238, np.uint8) + grain
        page[::14, 30:370] -= 150
        self.assertIs(classify(page, is_page=False), PictureClass.GRAPHIC)
        as_scan = encode(page, quality=79, floor=0.8, is_page_scan=True)
        alone = encode_jpeg(page, quality=79, chroma=Chroma.HALVED)
        self.assertEqual(as_scan.data, alone)

    def test_a_floor_is_kept_by_more_quality_or_exactly(self) -> None:
        pixels = np.random.default_rng(1).integers(0, 256, (96, 96), np.uint8)
        coded = encode(pixels, quality=10, floor=0.999)
        self.assertGreaterEqual(coded.likeness, 0.999)

    def test_the_same_pixels_give_the_same_bytes(self) -> None:
        pixels = landscape(300, 200, 5)
        self.assertEqual(self.encode(pixels).data, self.encode(pixels).data)


class JpegQuality(unittest.TestCase):
    def test_jpeg_quality_is_lighter_than_the_plain_coder_at_no_worse_looks(self) -> None:
        # SSIMULACRA2 as a library that is not ours computes it, on scikit-image's sample photos.
        ours, theirs, our_bytes, their_bytes = [], [], 0, 0
        for pixels in (data.astronaut(), data.coffee(), data.chelsea(), data.rocket()):
            mine = encode_jpeg(pixels, quality=80, chroma=Chroma.HALVED)
            plain = as_jpeg(pixels, 75)
            for coded, scores in ((mine, ours), (plain, theirs)):
                with Image.open(io.BytesIO(coded)) as image:
                    scores.append(ssimulacra2(Image.fromarray(pixels), image))
            our_bytes += len(mine)
            their_bytes += len(plain)
        self.assertLess(our_bytes, their_bytes)
        self.assertGreater(np.mean(ours), np.mean(theirs))


class Classes(unittest.TestCase):
    def test_classes_are_found_from_pixels(self) -> None:
        cases = [
            (data.astronaut(), False, PictureClass.PHOTO),
            (data.coffee(), False, PictureClass.PHOTO),
            (data.camera(), False, PictureClass.PHOTO),
            (chart(900, 600, 1), False, PictureClass.GRAPHIC),
            (data.text(), True, PictureClass.PAGE_SCAN),
            (logbook(400, 560, 1), True, PictureClass.PAGE_SCAN),
            (data.astronaut(), True, PictureClass.PHOTO),
        ]
        for number, (pixels, is_page, expected) in enumerate(cases):
            with self.subTest(case=number):
                self.assertIs(classify(pixels, is_page=is_page), expected)

    def test_classes_being_without_colour_is_exact(self) -> None:
        pixels = np.stack([data.camera()] * 3, axis=2)
        self.assertTrue(is_without_colour(pixels))
        pixels[10, 10, 2] ^= 1
        self.assertFalse(is_without_colour(pixels))
