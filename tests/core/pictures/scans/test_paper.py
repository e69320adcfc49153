"""Paper and the ink on it."""

import unittest

import numpy as np

from lighten.pictures.pixels.planes import luma
from lighten.pictures.scans.fill import filled
from lighten.pictures.scans.find_ink import find_ink, noise_of, stroke_light
from lighten.pictures.scans.paper import bare_paper, paper_light
from tests.core.pictures.scans.pages import PPI, print_page, scanned


class Paper(unittest.TestCase):
    def test_paper_is_found_under_the_print_and_follows_a_shadow(self) -> None:
        clean = print_page()
        shade = np.linspace(1, 0.6, clean.shape[1])[None, :, None]
        page = (scanned(clean) * shade).astype(np.uint8)
        bare = (scanned(np.full_like(clean, 255)) * shade).astype(np.uint8)
        level = paper_light(luma(page), PPI)
        self.assertLess(float(np.abs(level - luma(bare)).mean()), 6)

    def test_paper_goes_on_under_what_covers_it(self) -> None:
        pixels = np.full((80, 80, 3), (200, 180, 160), np.uint8)
        covered = np.zeros((80, 80), np.bool_)
        covered[20:60, 20:60] = True
        pixels[covered] = 0
        paper = bare_paper(pixels, covered, (20, 20))
        self.assertEqual(paper.shape, (20, 20, 3))
        np.testing.assert_allclose(paper, np.broadcast_to((200, 180, 160), paper.shape), atol=1)

    def test_paper_that_is_all_covered_is_white(self) -> None:
        means = filled(np.zeros((3, 5, 1), np.float32), np.zeros((3, 5), np.float32))
        self.assertEqual(float(means.min()), 255)


class Ink(unittest.TestCase):
    def test_ink_is_as_wide_as_it_was_before_the_lens(self) -> None:
        clean = print_page()
        light = luma(scanned(clean))
        level = paper_light(light, PPI)
        ink = find_ink(light, stroke_light(light), level, noise_of(light, level))
        drawn = luma(clean) < 128
        self.assertLess(abs(float(ink.mean()) - float(drawn.mean())), 0.1 * float(drawn.mean()))
        self.assertGreater(float((ink & drawn).sum() / (ink | drawn).sum()), 0.8)

    def test_ink_is_not_seen_in_the_grain_of_bare_paper(self) -> None:
        bare = luma(scanned(np.full((600, 600, 3), 255, np.uint8)))
        level = paper_light(bare, PPI)
        self.assertFalse(find_ink(bare, stroke_light(bare), level, noise_of(bare, level)).any())
