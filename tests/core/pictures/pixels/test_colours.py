"""Colours against littlecms and ITU-R BT.601."""

import unittest

import numpy as np
from PIL import Image, ImageCms

from demo.scenery import landscape
from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.pictures.pixels.colours import change_colours, is_srgb, through_profile, to_grey

PHOTO = landscape(120, 80, 7)


def changed(colour: ColourChange) -> np.ndarray:
    return change_colours(PHOTO, PictureTreatment(colour=colour))


class Profiles(unittest.TestCase):
    def test_srgb_profiles_are_recognised(self) -> None:
        srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        self.assertTrue(is_srgb(srgb))
        self.assertFalse(is_srgb(ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()))
        self.assertFalse(is_srgb(b"no profile"))


class Colours(unittest.TestCase):
    def test_grey_is_luma_of_bt_601(self) -> None:
        luma = PHOTO @ np.array([0.299, 0.587, 0.114])
        np.testing.assert_allclose(to_grey(PHOTO), luma, atol=1)

    def test_small_palettes_are_small(self) -> None:
        for colour, most in ((ColourChange.COLOURS_256, 256), (ColourChange.COLOURS_16, 16)):
            found = np.unique(changed(colour).reshape(-1, 3), axis=0)
            self.assertLessEqual(len(found), most)
        error = np.abs(changed(ColourChange.COLOURS_256).astype(int) - PHOTO).mean()
        self.assertLess(error, 6)

    def test_bitonal_is_black_and_white(self) -> None:
        self.assertEqual(set(np.unique(changed(ColourChange.BITONAL))), {0, 255})

    def test_keeping_keeps(self) -> None:
        np.testing.assert_array_equal(changed(ColourChange.KEEP), PHOTO)

    def test_a_profile_that_is_none_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            through_profile(np.zeros((4, 4, 4), np.uint8), b"no profile")

    def test_rgb_profiles_do_not_fit_inks(self) -> None:
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        with self.assertRaises(ValueError):
            through_profile(np.asarray(Image.new("CMYK", (4, 4))), profile)
