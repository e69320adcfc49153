"""Faults planted in copies are found and named; clean copies have none.

Pages are set in the free font that Pillow brings; a photographed page is scikit-image's. Which
share of faults is seen on how many pages stands in docs/proof.md.
"""

import io
import unittest
from collections.abc import Callable

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from skimage import data

from lighten.pictures.faults.fault import Fault, FaultKind
from lighten.pictures.faults.find_faults import find_faults
from tests.builders import Pixels

PPI = 150.0
LINES = (
    "reed warbler ringed at dawn, wing 67 mm",
    "weight 12.4 g, fat 3, nets 4; owls 8",
    "entry 3,365 checked 14 September 06:50",
)


def page(words: tuple[str, ...] = LINES, *, ppi: float = 300.0) -> Pixels:
    """A few lines in 10 point on paper with a little grain: (height, width, 3) uint8."""
    scale = ppi / 300
    image = Image.new("L", (round(1000 * scale), round(420 * scale)), 244)
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(size=10 * ppi / 72)
    for number, line in enumerate(words):
        draw.text((40 * scale, (40 + number * 100) * scale), line, 30, font)
    soft = np.asarray(image.filter(ImageFilter.GaussianBlur(0.8 * scale)), np.float32)
    grain = np.random.default_rng(3).normal(0, 2, (*soft.shape, 3))
    return np.clip(soft[..., None] + grain, 0, 255).astype(np.uint8)


def copied(pixels: Pixels, *, ppi: float = PPI, quality: int = 70) -> Pixels:
    """Fewer pixels, and JPEG by a coder that is not ours."""
    image = Image.fromarray(pixels)
    size = (round(image.width * ppi / 300), round(image.height * ppi / 300))
    coded = io.BytesIO()
    image.resize(size, Image.Resampling.LANCZOS).save(coded, "JPEG", quality=quality)
    return np.asarray(Image.open(coded))


def kinds(faults: tuple[Fault, ...]) -> set[FaultKind]:
    return {fault.kind for fault in faults}


def with_line(number: int, words: str) -> tuple[str, ...]:
    return (*LINES[:number], words, *LINES[number + 1 :])


class Ink(unittest.TestCase):
    def test_ink_of_clean_copies_has_no_fault(self) -> None:
        book = np.repeat(np.kron(data.page(), np.ones((2, 2), np.uint8))[..., None], 3, axis=2)
        for pixels in (page(), book):
            for quality in (57, 70, 85):
                with self.subTest(shape=pixels.shape, quality=quality):
                    faults = find_faults(pixels, copied(pixels, quality=quality), ppi=PPI)
                    self.assertEqual(faults, ())

    def test_a_digit_or_letter_in_the_place_of_another_is_seen(self) -> None:
        # Twins that are taken for one another most easily (common practice, no source).
        twins = {
            1: ("weight 12.4 g, fat 3, nets 4; owls 6", "weight 12.4 g, fat 8, nets 4; owls 8"),
            2: ("entry 3,365 checked 74 September 06:50", "entry 3,365 chccked 14 September 06:50"),
        }
        for number, lines in twins.items():
            for line in lines:
                with self.subTest(line=line):
                    faults = find_faults(page(), copied(page(with_line(number, line))), ppi=PPI)
                    self.assertTrue(kinds(faults) & {FaultKind.LOST_INK, FaultKind.ADDED_INK})

    def test_a_lost_comma_is_seen_where_it_was(self) -> None:
        faults = find_faults(
            page(), copied(page(with_line(2, "entry 3 365 checked 14 September 06:50"))), ppi=PPI
        )
        self.assertEqual(kinds(faults), {FaultKind.LOST_INK})
        (place,) = {fault.place for fault in faults}
        assert place is not None
        # The third line, after the first digit.
        self.assertTrue(110 < place[1] < 145 and 40 < place[0] < 100, place)

    def test_white_on_black_is_read_as_well(self) -> None:
        night, other = (
            255 - page(),
            255 - page(with_line(1, "weight 12.4 g, fat 3, nets 4; owls 6")),
        )
        self.assertEqual(find_faults(night, copied(night), ppi=PPI), ())
        self.assertTrue(find_faults(night, copied(other), ppi=PPI))

    def test_a_mark_that_was_not_there_is_added_ink(self) -> None:
        marked = page()
        marked[330:342, 800:812] = 40
        faults = find_faults(page(), copied(marked), ppi=PPI)
        self.assertIn(FaultKind.ADDED_INK, kinds(faults))

    def test_a_copy_that_lies_beside_by_half_a_pixel_is_clean(self) -> None:
        moved = np.roll(page(), 1, axis=1)
        self.assertEqual(find_faults(page(), copied(moved), ppi=PPI), ())

    @settings(max_examples=15, deadline=None)
    @given(st.integers(24, 90), st.integers(24, 90), st.integers(0, 2**32 - 1))
    def test_nothing_is_wrong_with_the_same(self, height: int, width: int, seed: int) -> None:
        pixels = np.random.default_rng(seed).integers(0, 256, (height, width, 3), np.uint8)
        self.assertEqual(find_faults(pixels, pixels, ppi=PPI), ())


class Looks(unittest.TestCase):
    def changed(self, change: Callable[[Image.Image], Image.Image]) -> tuple[Fault, ...]:
        copy = np.asarray(change(Image.fromarray(copied(page()))))
        return find_faults(page(), copy, ppi=PPI)

    def test_a_blur_is_soft(self) -> None:
        faults = self.changed(lambda image: image.filter(ImageFilter.GaussianBlur(1.0)))
        self.assertIn(FaultKind.SOFT, kinds(faults))

    def test_more_red_is_said_as_what_it_is(self) -> None:
        faults = self.changed(
            lambda image: Image.merge(
                "RGB",
                [
                    band.point(lambda level: max(0, level - 16)) if at else band
                    for at, band in enumerate(image.split())
                ],
            )
        )
        (tint,) = [fault for fault in faults if fault.kind is FaultKind.TINT]
        self.assertEqual(tint.words, "redder")

    def test_colour_is_let_be_where_it_was_to_go(self) -> None:
        pixels = np.asarray(data.astronaut())
        grey = np.asarray(Image.fromarray(pixels).convert("L").convert("RGB"))
        self.assertIn(FaultKind.TINT, kinds(find_faults(pixels, grey, ppi=PPI)))
        self.assertEqual(find_faults(pixels, grey, ppi=PPI, judges_colour=False), ())
