"""A page laid apart: what is written stays, and what layers cannot hold stays picture."""

import shutil
import subprocess
import unittest
from collections.abc import Callable
from dataclasses import replace
from tempfile import TemporaryDirectory

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from skimage import data

from lighten.codecs.jpeg import Chroma, encode_jpeg
from lighten.pictures.coding.coded import decode_coded
from lighten.pictures.coding.layered import LayeredPicture
from lighten.pictures.faults.fault import Fault
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.scans.compose import compose
from lighten.pictures.scans.failing_places import failing_places
from lighten.pictures.scans.split_page import PictureFineness, split_page
from tests.core.pictures.scans.pages import PPI, print_page, scanned

_FINENESS = PictureFineness(ppi=150, quality=75)
_MM = PPI / 25.4


def laid_apart(page: NDArray[np.uint8], ppi: float = PPI) -> LayeredPicture:
    layers = split_page(page, ppi, _FINENESS, may_be_jbig2=True)
    assert layers is not None
    return layers


def faults_of(page: NDArray[np.uint8], layers: LayeredPicture) -> list[Fault]:
    half = page.shape[1] // 2, page.shape[0] // 2
    one, other = (
        np.asarray(Image.fromarray(pixels).resize(half, Image.Resampling.BOX))
        for pixels in (page, compose(layers))
    )
    return [fault for fault in find_faults(one, other, ppi=PPI / 2) if fault.strength > 1.3]


class Print(unittest.TestCase):
    def test_print_becomes_paper_and_strokes_a_tenth_as_heavy_as_a_plain_save(self) -> None:
        # FINDINGS, "Scans": 15 to 28 times lighter on clean pages.
        page = scanned(print_page())
        layers = laid_apart(page)
        plain = len(encode_jpeg(page, quality=85, chroma=Chroma.HALVED))
        self.assertLess(layers.weight, plain / 10)
        self.assertIsNotNone(layers.ink)
        self.assertTrue(0.7 < layers.likeness < 1)
        self.assertIsNone(layers.pictures)
        self.assertEqual(faults_of(page, layers), [])

    @unittest.skipUnless(shutil.which("tesseract"), "no text recognition here")
    def test_print_is_recognised_as_well_as_before(self) -> None:
        page = scanned(print_page())
        texts = []
        with TemporaryDirectory() as folder:
            for name, pixels in (("a", page), ("b", compose(laid_apart(page)))):
                path = f"{folder}/{name}.png"
                Image.fromarray(pixels).save(path, dpi=(PPI, PPI))
                command = ["tesseract", path, "-", "--psm", "6"]
                texts.append(subprocess.run(command, capture_output=True, check=True).stdout)
        self.assertIn(b"7318", texts[0])
        self.assertEqual(texts[0], texts[1])

    def test_print_of_two_inks_keeps_both_where_they_cross(self) -> None:
        image = Image.fromarray(print_page())
        pen = ImageDraw.Draw(image)
        pen.line((10 * _MM, 8 * _MM, 70 * _MM, 9 * _MM), fill=(200, 30, 35), width=6)
        page = scanned(np.asarray(image))
        shown = compose(laid_apart(page)).astype(int)
        row = round(8.9 * _MM)
        band = shown[row - 30 : row + 30, round(60 * _MM) : round(68 * _MM)]
        redness = (band[..., 0] - band[..., 1]).max(axis=0)
        self.assertGreater(float(np.percentile(redness, 10)), 90)
        self.assertLess(int(shown.max(axis=2).min()), 60)  # black is black still

    def test_print_of_a_coarse_scan_gets_finer_strokes(self) -> None:
        page = scanned(print_page())
        coarse = np.asarray(Image.fromarray(page).resize((page.shape[1] // 2, page.shape[0] // 2)))
        layers = laid_apart(coarse, PPI / 2)
        self.assertEqual(
            (layers.width_px, layers.height_px), (page.shape[1] // 2 * 2, page.shape[0] // 2 * 2)
        )

    def test_print_below_ninety_ppi_stays_one_picture(self) -> None:
        small = np.asarray(Image.fromarray(scanned(print_page())).resize((266, 177)))
        self.assertIsNone(split_page(small, 75, _FINENESS, may_be_jbig2=True))


class Pictures(unittest.TestCase):
    def test_pictures_on_a_page_stay_pictures(self) -> None:
        page = scanned(print_page(120, 90)).copy()
        photo = np.asarray(Image.fromarray(data.astronaut()).resize((500, 500)))
        page[400:900, 700:1200] = photo
        layers = laid_apart(page)
        assert layers.pictures is not None
        places = decode_coded(layers.pictures.places) == 0
        self.assertTrue(places[420:880, 720:1180].all())
        self.assertFalse(places[:, :500].any())
        self.assertEqual(faults_of(page, layers), [])

    def test_pictures_that_are_the_page_are_not_laid_apart(self) -> None:
        photo = np.asarray(Image.fromarray(data.astronaut()).resize((1000, 1000)))
        self.assertIsNone(split_page(photo, PPI, _FINENESS, may_be_jbig2=True))


class Marks(unittest.TestCase):
    """Marks on pages that are easily lost: common practice, no source; drawn by code."""

    def held(
        self, draw: Callable[[ImageDraw.ImageDraw], object]
    ) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        image = Image.fromarray(print_page())
        draw(ImageDraw.Draw(image))
        page = scanned(np.asarray(image))
        layers = laid_apart(page)
        self.assertEqual(faults_of(page, layers), [])
        return page, compose(layers)

    def test_faint_pencil_stays(self) -> None:
        place = slice(round(45 * _MM), round(48 * _MM)), slice(round(20 * _MM), round(60 * _MM))
        page, shown = self.held(
            lambda pen: pen.line((20 * _MM, 46 * _MM, 60 * _MM, 47 * _MM), fill=(185,) * 3, width=4)
        )
        before, after = (255 - pixels[place].astype(int).mean() for pixels in (page, shown))
        paper = 255 - page[: round(4 * _MM)].mean()
        self.assertGreater(after - paper, 0.7 * (before - paper))

    def test_highlighter_stays_under_the_words(self) -> None:
        image = np.array(print_page())
        band = slice(round(5 * _MM), round(11 * _MM))
        image[band, round(10 * _MM) : round(60 * _MM)] = (
            image[band, round(10 * _MM) : round(60 * _MM)] * np.array([1, 0.95, 0.4])
        ).astype(np.uint8)
        page = scanned(image)
        shown = compose(laid_apart(page))
        place = slice(round(6 * _MM), round(10 * _MM)), slice(round(20 * _MM), round(50 * _MM))
        before, after = (pixels[place].astype(int).mean(axis=(0, 1)) for pixels in (page, shown))
        np.testing.assert_allclose(before, after, atol=4)

    def test_form_lines_one_pixel_wide_stay(self) -> None:
        self.held(
            lambda pen: [
                pen.line((5 * _MM, y * _MM, 85 * _MM, y * _MM), fill=(70,) * 3, width=1)
                for y in (4, 24, 44, 54)
            ]
        )


class Failing(unittest.TestCase):
    def test_places_are_those_where_a_letter_went(self) -> None:
        page = scanned(print_page())
        shown = compose(laid_apart(page)).copy()
        self.assertFalse(failing_places(page, shown, PPI, 59).any())
        top, left = round(12 * _MM), round(30 * _MM)
        shown[top : top + 60, left : left + 60] = shown[5, 5]
        failing = failing_places(page, shown, PPI, 59)
        self.assertTrue(failing[2:4, 5:8].any())
        self.assertLess(failing.mean(), 0.1)

    def test_places_go_back_to_pictures_and_are_counted(self) -> None:
        # A small mosaic, too fine for paper and with too many colours for strokes.
        page = scanned(print_page(120, 60)).copy()
        tones = np.random.default_rng(3).integers(0, 256, (16, 16, 3), np.uint8)
        page[300:396, 1200:1296] = tones.repeat(6, axis=0).repeat(6, axis=1)
        layers = laid_apart(page)
        self.assertGreater(layers.undone, 0)
        self.assertEqual(faults_of(page, layers), [])


class AnyPage(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(
        st.integers(60, 190),
        st.integers(60, 190),
        st.sampled_from([100.0, 150.0, 300.0]),
        st.booleans(),
        st.integers(0, 2**32 - 1),
    )
    def test_page_of_any_size_comes_back_as_large_or_stays(
        self, height: int, width: int, ppi: float, is_grey: bool, seed: int
    ) -> None:
        random = np.random.default_rng(seed)
        pixels = random.integers(200, 256, (height, width, 3), np.uint8)
        pixels[height // 3 : height // 2, 5:-5] = random.integers(0, 90)
        page = np.ascontiguousarray(pixels[..., 0] if is_grey else pixels)
        layers = split_page(page, ppi, _FINENESS, may_be_jbig2=False)
        if layers is not None:
            shown = compose(layers)
            scale = shown.shape[0] // height
            self.assertEqual(shown.shape[:2], (height * scale, width * scale))
            self.assertEqual(shown.ndim, page.ndim)
            self.assertGreater(layers.weight, replace(layers, pictures=None, ink=None).weight - 1)
