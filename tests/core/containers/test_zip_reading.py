"""The visible part of a picture in a frame, against ramps and scikit-image's photo and measure."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from skimage import data
from skimage.metrics import structural_similarity

from lighten.containers.zip_reading import crop_to

_edges = st.floats(0.02, 0.3)


class Crops(TestCase):
    def test_crops_of_all_of_it_are_the_picture_itself(self) -> None:
        pixels = np.zeros((4, 6, 3), np.uint8)
        self.assertIs(crop_to(pixels, (0.0, 0.0, 1.0, 1.0)), pixels)

    def test_crops_at_whole_pixels_are_those_pixels(self) -> None:
        pixels = data.astronaut()
        seen = crop_to(pixels, (0.25, 0.5, 0.75, 1.0))
        np.testing.assert_array_equal(seen, pixels[256:, 128:384])

    def test_crops_have_a_pixel_each_way_at_least(self) -> None:
        pixels = np.zeros((5, 7, 3), np.uint8)
        for sight in ((1.0, 1.0, 1.0, 1.0), (0.5, 0.5, 0.5, 0.5), (0.0, 0.0, 1e-6, 1e-6)):
            self.assertGreaterEqual(min(crop_to(pixels, sight).shape), 1)

    @settings(max_examples=50)
    @given(_edges, _edges)
    def test_crops_begin_between_pixels_where_their_edge_does(
        self, left: float, right: float
    ) -> None:
        """On a ramp that rises by one a pixel each value says where it was taken."""
        ramp = np.broadcast_to(np.arange(200, dtype=np.uint8)[None, :, None], (8, 200, 3))
        seen = crop_to(np.ascontiguousarray(ramp), (left, 0.0, 1 - right, 1.0))[4, 4:-4, 0]
        step = 200 * (1 - right - left) / (len(seen) + 8)
        expected = 200 * left + (np.arange(4, 4 + len(seen)) + 0.5) * step - 0.5
        np.testing.assert_allclose(seen, expected, atol=0.6)

    @settings(max_examples=20)
    @given(_edges, _edges)
    def test_crops_of_a_copy_that_was_cut_lie_where_the_originals_do(
        self, left: float, top: float
    ) -> None:
        """Cut outside of what is seen and brought to half, as treatments do it."""
        original = data.astronaut()
        from_x, from_y = int(512 * left) - 6, int(512 * top) - 6
        whole = Image.fromarray(original[from_y:, from_x:])
        size = (whole.width // 2, whole.height // 2)
        copy = np.asarray(whole.resize(size, Image.Resampling.LANCZOS))
        seen = crop_to(
            copy,
            ((512 * left - from_x) / whole.width, (512 * top - from_y) / whole.height, 1.0, 1.0),
        )
        before = Image.fromarray(crop_to(original, (left, top, 1.0, 1.0)))
        expected = np.asarray(
            before.resize((seen.shape[1], seen.shape[0]), Image.Resampling.LANCZOS)
        )
        alike = structural_similarity(expected, seen, channel_axis=2)
        self.assertGreater(alike, 0.97)
