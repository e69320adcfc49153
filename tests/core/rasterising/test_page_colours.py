"""Drawn pages in fewer colours, decoded by Pillow and judged by scikit-image."""

import unittest

import numpy as np
from PIL import Image
from skimage import color, data

from lighten.model.treatments import PageColours, RasterTreatment
from lighten.pictures.coding.coded import CodedPicture, decode_coded
from lighten.rasterising.page_colours import reduce_colours

_PPI = 100.0


def page() -> np.ndarray:
    """White paper with black lines, as text has them."""
    pixels = np.full((500, 400, 3), 255, np.uint8)
    pixels[40:460:14, 50:350] = 0
    return pixels


def with_photo() -> np.ndarray:
    pixels = page()
    photo = np.asarray(Image.fromarray(data.astronaut()).resize((300, 300)))
    pixels[120:420, 50:350] = photo
    return pixels


def reduced(pixels: np.ndarray, colours: PageColours, **more: object):  # type: ignore[no-untyped-def] # as it comes
    return reduce_colours(pixels, _PPI, RasterTreatment(colours=colours, **more))  # type: ignore[arg-type]


def shown(coded: CodedPicture) -> np.ndarray:
    return decode_coded(coded)


class Fewest(unittest.TestCase):
    def test_fewest_are_as_few_as_the_page_has_and_every_pixel_stays(self) -> None:
        coloured = page()
        coloured[100:120, 60:200] = (180, 40, 30)
        for pixels, kind in (
            (page(), "black and white"),
            (coloured, "3 colours"),
            (with_photo(), "all colours"),
        ):
            with self.subTest(kind=kind):
                found = reduced(pixels, PageColours.FEWEST)
                self.assertEqual((found.kind, found.remark, found.worst), (kind, "", None))
                grey = np.array_equal(pixels[..., 0], pixels[..., 1])
                known = pixels[..., 0] if grey and found.pixels.ndim == 2 else pixels
                np.testing.assert_array_equal(found.pixels, known)


class Grey(unittest.TestCase):
    def test_grey_is_the_luma_that_scikit_image_has(self) -> None:
        """BT.601 here, BT.709 there: greys agree to the level, colours within a tenth."""
        found = reduced(page(), PageColours.GREY)
        np.testing.assert_array_equal(found.pixels, page()[..., 0])
        photo = reduced(with_photo(), PageColours.GREY).pixels.astype(float)
        theirs = color.rgb2gray(with_photo()) * 255
        self.assertLess(np.abs(photo - theirs).mean(), 25)


class Bitonal(unittest.TestCase):
    def test_bitonal_are_only_black_and_white_and_lines_stay_where_they_lay(self) -> None:
        found = reduced(page(), PageColours.BITONAL)
        self.assertEqual(set(np.unique(found.pixels)), {0, 255})
        np.testing.assert_array_equal(found.pixels, page()[..., 0])
        self.assertEqual(found.remark, "")

    def test_a_photo_stays_grey_with_a_remark(self) -> None:
        found = reduced(with_photo(), PageColours.BITONAL)
        self.assertEqual(found.kind, "greys")
        self.assertIn("photo", found.remark)

    def test_bitonal_unless_somebody_wants_it_so(self) -> None:
        found = reduced(with_photo(), PageColours.BITONAL, keeps_photos_grey=False)
        self.assertEqual(found.kind, "black and white")
        self.assertIn("loses its shades", found.remark)
        self.assertIsNotNone(found.worst)


class SmallPictures(unittest.TestCase):
    """On a page of A4, 827 x 1169 pixels at 100 ppi, with lines of text."""

    def page_with(self, picture: np.ndarray, left: int = 100, top: int = 100) -> np.ndarray:
        pixels = np.full((1169, 827, 3), 255, np.uint8)
        pixels[400:1100:14, 80:750] = 0
        height, width = picture.shape[:2]
        pixels[top : top + height, left : left + width] = picture
        return pixels

    def test_a_logo_with_a_gradient_is_dithered_and_its_page_is_bitonal(self) -> None:
        ramp = np.linspace(50, 205, 170).astype(np.uint8)
        logo = np.repeat(np.tile(ramp, (120, 1))[:, :, np.newaxis], 3, axis=2)  # 2 % of the page
        found = reduced(self.page_with(logo), PageColours.BITONAL)
        self.assertEqual(found.kind, "black and white")
        self.assertIn("dithered", found.remark)
        dark, light = (found.pixels[110:210, side : side + 30].mean() for side in (105, 235))
        # Shades are kept as shares of black, by the inverse of the page's own tones.
        self.assertAlmostEqual(dark, logo[:, 5:35].mean(), delta=20)
        self.assertAlmostEqual(light, logo[:, 135:165].mean(), delta=20)
        self.assertTrue((found.pixels[400:1100:14, 80:750] == 0).all())

    def test_a_stamp_sized_photo_is_dithered(self) -> None:
        small = np.asarray(Image.fromarray(data.astronaut()).resize((70, 80)))
        found = reduced(self.page_with(small), PageColours.BITONAL)
        self.assertEqual(found.kind, "black and white")
        self.assertIn("dithered", found.remark)

    def test_a_passport_photo_keeps_its_page_grey(self) -> None:
        photo = np.asarray(Image.fromarray(data.astronaut()).resize((138, 177)))
        found = reduced(self.page_with(photo), PageColours.BITONAL)
        self.assertEqual(found.kind, "greys")

    def test_a_page_full_of_shades_stays_grey(self) -> None:
        ramp = (130 + 70 * np.sin(np.arange(1169) / 25)).astype(np.uint8)
        page = np.repeat(ramp[:, np.newaxis], 827, axis=1)
        found = reduced(np.repeat(page[..., np.newaxis], 3, axis=2), PageColours.BITONAL)
        self.assertEqual(found.kind, "greys")

    def test_text_on_a_flat_tint_is_no_picture(self) -> None:
        tint = np.full((120, 400, 3), 190, np.uint8)
        tint[10:110:14] = 0
        found = reduced(self.page_with(tint), PageColours.BITONAL)
        self.assertNotIn("dithered", found.remark)


class Palettes(unittest.TestCase):
    def test_palettes_have_no_more_colours_than_were_asked_for(self) -> None:
        for colours, most in ((PageColours.COLOURS_256, 256), (PageColours.COLOURS_16, 16)):
            found = reduced(with_photo(), colours)
            self.assertLessEqual(len(np.unique(found.pixels.reshape(-1, 3), axis=0)), most)

    def test_a_palette_of_16_colours_reports_how_far_it_moves_a_photo(self) -> None:
        """CIEDE2000 of means over 5 mm, here by scikit-image."""
        found = reduced(with_photo(), PageColours.COLOURS_16)
        left, top, width, height = found.worst or (0, 0, 1, 1)
        place = (slice(top, top + height), slice(left, left + width))
        means = [pixels[place].mean(axis=(0, 1)) / 255 for pixels in (with_photo(), found.pixels)]
        labs = [color.rgb2lab(mean[None, None]) for mean in means]
        moved = float(color.deltaE_ciede2000(*labs)[0, 0])
        if found.remark:
            self.assertIn(f"{moved:.0f}", found.remark)
        else:
            self.assertLess(moved, 3.5)

    def test_palettes_are_exact_where_the_page_has_no_more(self) -> None:
        found = reduced(page(), PageColours.COLOURS_16)
        self.assertEqual((found.worst, found.remark), (None, ""))
        np.testing.assert_array_equal(
            shown(found.coded).reshape(500, 400, -1)[..., 0], page()[..., 0]
        )
