"""Text held as picture: what can no longer be read is found, what can is let be."""

import io
import unittest

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from lighten.pictures.scores.held_text import blurred_tiles


def a_page(size_pt: float = 10) -> np.ndarray:
    """A page of small print at 100 ppi, a little yellowed: (1100, 850, 3) uint8."""
    page = Image.new("RGB", (850, 1100), (246, 240, 225))
    draw, font = ImageDraw.Draw(page), ImageFont.load_default(size=size_pt * 100 / 72)
    for line in range(40):
        draw.text(
            (60, 60 + line * 24),
            f"{line} reed warblers ringed at the fen, week 14",
            (40,) * 3,
            font,
        )
    return np.asarray(page)


def blurred_to(pixels: np.ndarray, ppi: float) -> np.ndarray:
    image = Image.fromarray(pixels)
    small = image.resize(
        (round(850 * ppi / 100), round(1100 * ppi / 100)), Image.Resampling.LANCZOS
    )
    return np.asarray(small.resize(image.size, Image.Resampling.BICUBIC))


class HeldText(unittest.TestCase):
    def share_lost(self, before: np.ndarray, after: np.ndarray) -> float:
        with_ink, lost = blurred_tiles(before, after)
        self.assertGreater(with_ink, 100)
        return float(lost.sum() / with_ink)

    def test_a_good_jpeg_is_read_as_before(self) -> None:
        page, coded = a_page(), io.BytesIO()
        Image.fromarray(page).save(coded, "JPEG", quality=60)
        self.assertLess(self.share_lost(page, np.asarray(Image.open(coded))), 0.01)

    def test_print_at_40_ppi_is_lost(self) -> None:
        # Below about 120 ppi small text cannot be read (common practice, no source).
        page = a_page()
        self.assertGreater(self.share_lost(page, blurred_to(page, 40)), 0.5)

    def test_faded_strokes_are_lost(self) -> None:
        page = a_page()
        faded = (page.astype(float) * 0.4 + 246 * 0.6).astype(np.uint8)
        self.assertGreater(self.share_lost(page, faded), 0.5)

    def test_a_wiped_line_is_found_where_it_was(self) -> None:
        page = a_page()
        wiped = page.copy()
        wiped[300:340] = (246, 240, 225)
        _, lost = blurred_tiles(page, wiped)
        rows = set(np.argwhere(lost)[:, 0].tolist())
        self.assertTrue(rows and rows <= {9, 10})

    def test_red_ink_turned_black_is_found(self) -> None:
        page = a_page()
        red = page.copy()
        red[(page < 120).all(axis=2)] = (200, 30, 30)
        self.assertGreater(self.share_lost(red, page), 0.05)
