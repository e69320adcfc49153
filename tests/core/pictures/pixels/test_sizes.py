"""The number of pixels for a resolution: the trade's own sums."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lighten.model.kinds import PictureClass
from lighten.model.weights import PictureFacts, Placement
from lighten.pictures.pixels.sizes import target_size


def facts(width_px: int, height_px: int, *shown_pt: tuple[float, float]) -> PictureFacts:
    placements = tuple(
        Placement(page=1, width_pt=width, height_pt=height, box=(0, 0, width, height))
        for width, height in shown_pt
    )
    return PictureFacts(
        width_px=width_px,
        height_px=height_px,
        coding="DCT",
        colour="DeviceRGB",
        bits=8,
        picture_class=PictureClass.PHOTO,
        placements=placements,
    )


class EffectiveResolution(unittest.TestCase):
    def test_effective_resolution_is_stored_pixels_by_displayed_inches(self) -> None:
        # 4 in wide at 300 ppi is 1200 px; common practice, no source.
        self.assertEqual(facts(1200, 900, (288, 216)).ppi, 300)
        self.assertEqual(facts(600, 450, (288, 216)).ppi, 150)

    def test_effective_resolution_counts_the_largest_display(self) -> None:
        self.assertEqual(facts(1200, 900, (72, 54), (288, 216)).ppi, 300)

    def test_effective_resolution_is_unknown_for_a_picture_no_page_shows(self) -> None:
        self.assertIsNone(facts(10, 10).ppi)


class TargetSize(unittest.TestCase):
    def test_four_inches_at_150_ppi_need_600_pixels(self) -> None:
        # Common practice, no source.
        self.assertEqual(target_size((288, 216), (1200, 900), 150), (600, 450))

    def test_little_more_than_asked_is_left(self) -> None:
        self.assertIsNone(target_size((288, 216), (640, 480), 150))

    def test_target_size_refuses_no_resolution(self) -> None:
        with self.assertRaises(ValueError):
            target_size((72, 72), (10, 10), 0)

    @given(
        st.tuples(st.floats(0.01, 5000), st.floats(0.01, 5000)),
        st.tuples(st.integers(1, 20000), st.integers(1, 20000)),
        st.floats(1, 2400),
    )
    def test_target_size_is_never_up_and_never_nothing(
        self, shown: tuple[float, float], stored: tuple[int, int], ppi: float
    ) -> None:
        target = target_size(shown, stored, ppi)
        if target is not None:
            self.assertTrue(all(1 <= new <= old for new, old in zip(target, stored, strict=True)))
            self.assertNotEqual(target, stored)
