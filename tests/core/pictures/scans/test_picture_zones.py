"""Zones of a scanned page with pictures: photos and halftones, not text."""

import unittest

import numpy as np
from PIL import Image
from scipy import ndimage
from skimage import data

from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light
from lighten.pictures.scans.paper import paper_light
from lighten.pictures.scans.picture_zones import ZONE_MM, picture_zones

_PPI = 300.0
_SIDE = round(ZONE_MM / 25.4 * _PPI)
_PAPER = 238.0
_PHOTO = (slice(500, 1000), slice(150, 750))


def text_page() -> np.ndarray:
    """Rows of strokes as wide and as far from one another as letters of 10 points have them."""
    light = np.full((1100, 900), _PAPER, np.float32)
    for top in range(80, 440, 50):
        for left in range(100, 800, 22):
            light[top : top + 26, left : left + 5] = 30
            light[top + 11 : top + 15, left : left + 14] = 30
    return ndimage.gaussian_filter(light, 0.8).astype(np.float32)


def zones(light: np.ndarray) -> np.ndarray:
    paper = paper_light(light, _PPI)
    ink = find_ink(light, stroke_light(light), paper, noise_of(light, paper))
    return picture_zones(light, paper, ink, (_SIDE, 1), _PPI)


def share(marks: np.ndarray, place: tuple[slice, slice]) -> float:
    """Return the marked share of a box, in pixels."""
    rows, columns = (
        slice(round(part.start / _SIDE) + 1, round(part.stop / _SIDE) - 1) for part in place
    )
    return float(marks[rows, columns].mean())


class Zones(unittest.TestCase):
    def test_zones_there_are_none_on_a_page_of_text(self) -> None:
        self.assertLess(zones(text_page()).mean(), 0.01)

    def test_a_photo_is_one_and_the_text_above_it_is_not(self) -> None:
        light = text_page()
        photo = Image.fromarray(data.camera()).resize((600, 500))
        light[_PHOTO] = np.asarray(photo, np.float32) * 0.85
        marks = zones(light)
        self.assertGreater(share(marks, _PHOTO), 0.95)
        self.assertLess(share(marks, (slice(60, 440), slice(80, 820))), 0.05)

    def test_a_halftone_photo_is_a_picture_zone(self) -> None:
        """A screen of 85 lines an inch, as newspapers have it (common practice, no source)."""
        light = text_page()
        tone = np.asarray(Image.fromarray(data.camera()).resize((600, 500)), np.float32) / 255
        rows, columns = np.indices(tone.shape)
        pitch = _PPI / 85
        screen = (np.sin(2 * np.pi * rows / pitch) * np.sin(2 * np.pi * columns / pitch) + 1) / 2
        light[_PHOTO] = np.where(tone > screen, _PAPER, 40)
        light = ndimage.gaussian_filter(light, 0.8).astype(np.float32)
        self.assertGreater(share(zones(light), _PHOTO), 0.9)

    def test_a_stamp_smaller_than_a_picture_is_none(self) -> None:
        light = text_page()
        light[600:660, 200:260] = np.random.default_rng(2).uniform(90, 170, (60, 60))
        self.assertLess(zones(light).mean(), 0.02)
