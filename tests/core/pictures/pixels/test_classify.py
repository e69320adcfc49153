"""Classes of the open pictures that scikit-image carries (skimage.data)."""

import unittest

import numpy as np
from skimage import data

from lighten.model.kinds import PictureClass
from lighten.pictures.pixels.classify import classify, classify_alone, is_without_colour
from tests.builders import chart, landscape, logbook


class Classes(unittest.TestCase):
    def test_classes_of_open_pictures_are_what_they_show(self) -> None:
        for name in ("astronaut", "chelsea", "coffee", "coins", "grass", "gravel", "rocket"):
            with self.subTest(name=name):
                pixels = getattr(data, name)()
                self.assertIs(classify_alone(pixels), PictureClass.PHOTO)

    def test_a_page_by_itself_is_a_page(self) -> None:
        # A photographed page of a book, in uneven light; a page of a log, made up here.
        for pixels in (data.page(), logbook(900, 1270, 3)):
            self.assertIs(classify_alone(pixels), PictureClass.PAGE_SCAN)

    def test_classes_reeds_before_a_pale_sky_are_no_page(self) -> None:
        for width in (800, 1400):
            pixels = landscape(width, width * 3 // 4, seed=71)
            self.assertIs(classify_alone(pixels), PictureClass.PHOTO)

    def test_a_drawn_picture_is_a_graphic_unless_it_is_the_page(self) -> None:
        pixels = chart(800, 600, seed=2)
        self.assertIs(classify(pixels, is_page=False), PictureClass.GRAPHIC)
        self.assertIs(classify(pixels, is_page=True), PictureClass.PAGE_SCAN)

    def test_pictures_of_one_pixel_and_one_row_have_a_class(self) -> None:
        for shape in ((1, 1), (1, 40, 3), (40, 1)):
            self.assertIn(classify_alone(np.zeros(shape, np.uint8)), PictureClass)


class Colour(unittest.TestCase):
    def test_colour_is_missing_only_where_all_three_are_equal(self) -> None:
        grey = np.repeat(data.camera()[::4, ::4, None], 3, axis=2)
        self.assertTrue(is_without_colour(grey))
        grey[5, 5, 2] ^= 1
        self.assertFalse(is_without_colour(grey))
        self.assertFalse(is_without_colour(np.zeros((2, 2, 4), np.uint8)))


class DarkPages(unittest.TestCase):
    """Old paper: a photographed page of a book, and one made up here, ever darker to one side."""

    def test_dark_pages_are_pages_still(self) -> None:
        for pixels in (data.page(), logbook(900, 1270, 3)):
            shade = np.linspace(0.4, 0.85, pixels.shape[1])
            shade = shade if pixels.ndim == 2 else shade[:, None]
            dark = (pixels * shade).astype(np.uint8)
            self.assertIs(classify(dark, is_page=True), PictureClass.PAGE_SCAN)

    def test_photos_that_fill_a_page_are_none(self) -> None:
        for name in ("astronaut", "chelsea", "coffee", "camera", "gravel", "rocket", "coins"):
            with self.subTest(name=name):
                pixels = getattr(data, name)()
                self.assertIs(classify(pixels, is_page=True), PictureClass.PHOTO)
