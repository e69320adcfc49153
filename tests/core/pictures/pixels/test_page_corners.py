"""Sheets in photos, laid there by `skimage.transform`, and read by tesseract once flattened."""

import shutil
import subprocess
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont
from skimage.transform import ProjectiveTransform, warp

from lighten.pictures.pixels.page_corners import (
    Corners,
    check_corners,
    find_page_corners,
    flattened_page,
)
from tests.builders import FolderCase, landscape

Pixels = NDArray[np.uint8]
_WORDS = "Reed bed log 4711: nine warblers ringed before eight, two moulted, one was retrapped"
_SQUARE: Corners = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))


def sheet(width: int = 620, height: int = 877) -> Pixels:
    """A page of print, A4."""
    image = Image.new("RGB", (width, height), (244, 242, 236))
    draw, font = ImageDraw.Draw(image), ImageFont.load_default(20)
    for line in range(12):
        draw.text((50, 60 + 60 * line), _WORDS[line:][:52], fill=(30, 30, 40), font=font)
    return np.asarray(image)


def desk(width: int, height: int) -> Pixels:
    """Brown wood, with some grain."""
    grain = np.random.default_rng(3).normal(0, 6, (height, width, 1))
    return np.clip(np.array([120, 84, 56]) + grain, 0, 255).astype(np.uint8)


def photo_of(page: Pixels, corners: Corners, size: tuple[int, int] = (1000, 1200)) -> Pixels:
    """The page with its corners at those shares of a photo of that width and height."""
    height, width = page.shape[:2]
    there = np.array(corners) * size
    here = np.array([(0, 0), (width, 0), (width, height), (0, height)])
    back = ProjectiveTransform.from_estimate(there, here)
    laid = warp(page, back, output_shape=size[::-1], order=1, cval=-1.0, preserve_range=True)
    is_page = laid[..., :1] >= 0
    return np.where(is_page, np.clip(laid, 0, 255), desk(*size)).astype(np.uint8)


def seen_by_a_camera(tilts: tuple[float, float], size: tuple[int, int]) -> Corners:
    """Corners of an A4 sheet, tilted by degrees about its two axes, by a pinhole camera."""
    across, down = (np.radians(tilt) for tilt in tilts)
    width, height, lens, far = 0.21, 0.297, 0.72 * max(size), 0.36
    sheet_corners = np.array([(-1, -1, 0), (1, -1, 0), (1, 1, 0), (-1, 1, 0)], np.float64)
    sheet_corners *= (width / 2, height / 2, 0)
    about_x = np.array(
        [(1, 0, 0), (0, np.cos(down), -np.sin(down)), (0, np.sin(down), np.cos(down))]
    )
    about_y = np.array(
        [(np.cos(across), 0, np.sin(across)), (0, 1, 0), (-np.sin(across), 0, np.cos(across))]
    )
    there = sheet_corners @ (about_x @ about_y).T + (0, 0, far)
    seen = there[:, :2] / there[:, 2:] * lens / size + 0.5
    return tuple(map(tuple, seen))  # type: ignore[return-value] # four of them


SLANTED: Corners = ((0.18, 0.12), (0.84, 0.08), (0.92, 0.86), (0.1, 0.93))
_SIZE = (750, 1000)


class Corners_(unittest.TestCase):  # noqa: N801 - the type has that name
    @settings(max_examples=12, deadline=None)
    @given(
        shifts=st.lists(st.floats(-0.06, 0.06), min_size=8, max_size=8),
        is_lying=st.booleans(),
    )
    def test_corners__they_are_found_to_a_hundredth_of_the_picture(
        self, shifts: list[float], is_lying: bool
    ) -> None:
        placed = np.array(SLANTED) + np.reshape(shifts, (4, 2))
        corners: Corners = tuple(map(tuple, placed))  # type: ignore[assignment] # four of them
        size = (600, 500) if is_lying else (500, 600)
        page = sheet(877, 620) if is_lying else sheet()
        found = find_page_corners(photo_of(page, corners, size))
        assert found is not None
        self.assertLess(np.abs(np.array(found) - placed).max(), 0.01)

    def test_a_picture_without_a_sheet_has_no_corners(self) -> None:
        views = {
            "a landscape": landscape(600, 400, 3),
            "a desk": desk(600, 400),
            "a page that fills its picture": sheet(),
            "nothing": np.full((300, 200, 3), 240, np.uint8),
            "one pixel": np.zeros((1, 1, 3), np.uint8),
        }
        for name, pixels in views.items():
            with self.subTest(name):
                self.assertIsNone(find_page_corners(pixels))

    def test_corners_that_make_no_sheet_are_refused(self) -> None:
        crossed: Corners = ((0.1, 0.1), (0.9, 0.9), (0.9, 0.1), (0.1, 0.9))
        outside: Corners = ((-0.1, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
        flat: Corners = ((0.1, 0.1), (0.9, 0.1), (0.9, 0.1), (0.1, 0.1))
        for corners in (crossed, outside, flat, _SQUARE[:3], ((float("nan"), 0.0), *_SQUARE[1:])):
            with self.subTest(corners), self.assertRaises(ValueError):
                check_corners(corners)  # type: ignore[arg-type] # on purpose


class Flattened(FolderCase):
    def test_flattened_is_the_page_that_was_photographed_in_its_shape(self) -> None:
        page = sheet()
        for tilts in ((0.0, 0.0), (18.0, 0.0), (0.0, -20.0), (15.0, 20.0), (-25.0, 10.0)):
            with self.subTest(tilts):
                corners = seen_by_a_camera(tilts, _SIZE)
                flat = flattened_page(photo_of(page, corners, _SIZE), corners)
                self.assertAlmostEqual(flat.shape[0] / flat.shape[1], 2**0.5, delta=0.01)
                back = np.asarray(Image.fromarray(flat).resize((620, 877)))
                alike = np.corrcoef(back[8:-8, 8:-8].ravel(), page[8:-8, 8:-8].ravel())[0, 1]
                self.assertGreater(alike, 0.85)

    def test_corners_of_the_picture_leave_every_pixel(self) -> None:
        pixels = landscape(64, 40, 3)
        for picture in (pixels, pixels[..., 0].copy()):
            np.testing.assert_array_equal(flattened_page(picture, _SQUARE), picture)

    @unittest.skipUnless(shutil.which("tesseract"), "no text recognition here")
    def test_flattened_its_print_is_read(self) -> None:
        page = np.asarray(Image.fromarray(sheet()).resize((1240, 1754), Image.Resampling.BICUBIC))
        corners = seen_by_a_camera((12.0, 18.0), (1500, 2000))
        flat = flattened_page(photo_of(page, corners, (1500, 2000)), corners)
        path = self.folder / "flat.png"
        Image.fromarray(flat).save(path)
        command = ["tesseract", path, "-", "--psm", "6"]
        told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
        self.assertGreaterEqual(told.count("warblers"), 10, told)
