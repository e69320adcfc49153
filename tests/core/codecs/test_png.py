"""PNG files written here, read by Pillow, and Pillow's read here (RFC 2083)."""

import io
import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image

from lighten.codecs.png import decode_png, encode_png, glimpse_png, repack_png

_SHAPES = st.sampled_from([(7, 9), (7, 9, 3), (1, 1), (3, 1, 3)])
_PIXELS = _SHAPES.flatmap(lambda shape: arrays(np.uint8, shape))


def by_pillow(coded: bytes) -> np.ndarray:
    with Image.open(io.BytesIO(coded)) as image:
        return np.asarray(image.convert("RGBA"))


def written(image: Image.Image, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG", **options)
    return out.getvalue()


class Encoded(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(_PIXELS, st.booleans(), st.booleans())
    def test_every_pixel_is_read_back_by_another(
        self, pixels: np.ndarray, is_brief: bool, is_draft: bool
    ) -> None:
        coded = encode_png(pixels, is_brief=is_brief, is_draft=is_draft)
        colours = np.stack([pixels] * 3, axis=-1) if pixels.ndim == 2 else pixels
        np.testing.assert_array_equal(by_pillow(coded)[..., :3], colours)

    @settings(max_examples=20, deadline=None)
    @given(arrays(np.uint8, (5, 6, 3)), arrays(np.uint8, (5, 6)))
    def test_colours_that_are_see_through_stay(
        self, pixels: np.ndarray, opacity: np.ndarray
    ) -> None:
        """An editor could bring them back."""
        coded = encode_png(pixels, opacity)
        shown = by_pillow(coded)
        np.testing.assert_array_equal(shown[..., :3], pixels)
        np.testing.assert_array_equal(shown[..., 3], opacity)

    @settings(max_examples=20, deadline=None)
    @given(arrays(np.uint16, (5, 6)))
    @example(np.full((5, 6), 65535, np.uint16))
    def test_16_bits_stay(self, pixels: np.ndarray) -> None:
        """Multiples of 257 may be stored in 8 bits, as the same level (RFC 2083, 9.1)."""
        with Image.open(io.BytesIO(encode_png(pixels))) as image:
            is_deep = image.mode.startswith("I")
            levels = np.asarray(image if is_deep else image.convert("L")).astype(int)
        self.assertEqual((levels if is_deep else levels * 257).tolist(), pixels.tolist())

    def test_few_colours_and_few_greys_take_few_bits(self) -> None:
        """RFC 2083, 4.1.1: depth 1 has eight pixels a byte; colour type 3 is a palette."""
        stripes = np.zeros((64, 64, 3), np.uint8)
        stripes[::2] = (200, 30, 40)
        black = np.where(np.indices((64, 64)).sum(axis=0) % 3 == 0, 0, 255).astype(np.uint8)
        for pixels, kind in ((stripes, 3), (black, 0)):
            head = encode_png(pixels)[24:26]
            self.assertEqual((head[0], head[1]), (1, kind))


class Decoded(unittest.TestCase):
    def test_palettes_few_bits_and_opacity_are_spread(self) -> None:
        photo = Image.fromarray((np.indices((20, 30)).sum(axis=0) * 5).astype(np.uint8))
        seen = Image.merge("RGBA", [photo, photo, photo, photo])
        for image in (
            *(photo, photo.convert("RGB"), photo.convert("1"), photo.convert("LA"), seen),
            photo.convert("RGB").quantize(7),
        ):
            with self.subTest(mode=image.mode):
                colours, opacity = decode_png(written(image))
                known = np.asarray(image.convert("RGBA"))
                grey = colours if colours.ndim == 2 else colours[..., 0]
                np.testing.assert_array_equal(grey, known[..., 0])
                if opacity is not None:
                    np.testing.assert_array_equal(opacity, known[..., 3])

    def test_a_glimpse_is_a_band_of_it(self) -> None:
        pixels = np.random.default_rng(1).integers(0, 255, (900, 40, 3), dtype=np.uint8)
        band = glimpse_png(encode_png(pixels, is_draft=True))
        self.assertLess(len(band), len(pixels))
        np.testing.assert_array_equal(band, pixels[300 : 300 + len(band)])

    def test_a_damaged_png_is_reported(self) -> None:
        whole = encode_png(np.random.default_rng(2).integers(0, 255, (40, 40), dtype=np.uint8))
        for damaged in (b"", b"no picture", whole[:200]):
            with self.assertRaises(ValueError):
                decode_png(damaged)
        with self.assertRaises(ValueError):
            repack_png(whole[:100], pixels=1600)


class Repacked(unittest.TestCase):
    def test_repacked_is_never_another_picture_and_leaves_out_what_is_none(self) -> None:
        image = Image.fromarray(np.random.default_rng(3).integers(0, 9, (50, 50), dtype=np.uint8))
        heavy = written(image, compress_level=0, dpi=(300, 300))
        light = repack_png(heavy, pixels=2500)
        self.assertLess(len(light), len(heavy) / 2)
        np.testing.assert_array_equal(by_pillow(light), by_pillow(heavy))
        self.assertNotIn(b"pHYs", light)
