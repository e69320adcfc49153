"""Directories of TIFF files, against Pillow's own reader of them."""

import io
import struct
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, TiffImagePlugin

from lighten.formats.tiff.directories import begins_like_tiff, read_directories
from lighten.model.errors import UnreadableFileError

_GREY = Image.fromarray(np.indices((12, 9)).sum(axis=0).astype(np.uint8))
_ARTIST, _WIDTH, _HEIGHT, _X_RESOLUTION = 315, 256, 257, 282


def written(*pages: Image.Image, big: bool = False, **options: object) -> bytes:
    out = io.BytesIO()
    pages[0].save(out, "TIFF", save_all=True, append_images=pages[1:], big_tiff=big, **options)
    return out.getvalue()


class Directories(unittest.TestCase):
    def test_directories_have_the_tags_that_pillow_finds(self) -> None:
        content = written(_GREY, _GREY.convert("RGB"), dpi=(300, 300))
        file = read_directories(content, "a.tif")
        with Image.open(io.BytesIO(content)) as image:
            assert isinstance(image, TiffImagePlugin.TiffImageFile)
            self.assertEqual(len(file.pages), image.n_frames)
            for number, page in enumerate(file.pages):
                image.seek(number)
                known = image.tag_v2
                self.assertEqual(set(page.entries), set(known))
                for tag in (_WIDTH, _HEIGHT):
                    self.assertEqual(file.number(page, tag, 0), known[tag])
                self.assertAlmostEqual(file.ratio(page, _X_RESOLUTION) or 0, 300)

    def test_big_ones_are_read_alike(self) -> None:
        """BigTIFF: links and counts of eight bytes (its design, as libtiff and Pillow write it)."""
        for big in (False, True):
            content = written(_GREY, _GREY, big=big)
            file = read_directories(content, "a.tif")
            self.assertEqual((file.is_big, len(file.pages)), (big, 2))
            self.assertTrue(begins_like_tiff(content[:8]))
            self.assertEqual(file.number(file.pages[1], _WIDTH, 0), 9)

    @settings(max_examples=40, deadline=None)
    @given(st.text(st.characters(codec="ascii", exclude_characters="\0"), max_size=300))
    def test_words_are_those_that_were_written(self, artist: str) -> None:
        tags = TiffImagePlugin.ImageFileDirectory_v2()
        tags[_ARTIST] = artist
        file = read_directories(written(_GREY, tiffinfo=tags), "a.tif")
        self.assertEqual(file.text(file.pages[0], _ARTIST), artist)

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=200))
    def test_any_bytes_after_the_header_are_read_or_refused(self, rest: bytes) -> None:
        for head in (b"II*\0\x08\0\0\0", b"MM\0*\0\0\0\x08", b"II+\0\x08\0\0\0"):
            try:
                file = read_directories(head + rest, "a.tif")
            except UnreadableFileError:
                continue
            for page in file.pages:
                for entry in page.entries.values():
                    self.assertEqual(len(file.raw(entry)), entry.end - entry.start)

    def test_pages_that_loop_are_found_once_and_reported(self) -> None:
        """TIFF 6.0, section 2: the last link is 0; here it leads to the first page again."""
        content = bytearray(written(_GREY, _GREY))
        file = read_directories(bytes(content), "a.tif")
        first, last = file.pages[0].start, file.pages[-1].end
        struct.pack_into("<I", content, last - 4, first)
        looped = read_directories(bytes(content), "a.tif")
        self.assertEqual(len(looped.pages), 2)
        self.assertIn("loops", looped.remarks[0])

    def test_offsets_past_the_end_are_damage(self) -> None:
        content = written(_GREY, dpi=(300, 300))
        entry = read_directories(content, "a.tif").pages[0].entries[_X_RESOLUTION]
        damaged = content.replace(struct.pack("<I", entry.start), struct.pack("<I", 2**31), 1)
        for wrong in (content[:6], damaged):
            with self.assertRaisesRegex(UnreadableFileError, "a.tif"):
                read_directories(wrong, "a.tif")
