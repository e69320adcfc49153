"""Pictures that are members of packages: the kinds that need more than the engine knows."""

import io
import struct
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image

from lighten.containers.pictures import build_member_picture, member_picture
from lighten.containers.pictures.member_file import natural_size_pt
from lighten.containers.pictures.metafiles import is_metafile, wrapped_bitmap
from lighten.containers.pictures.pixels import read_pixels
from lighten.pictures.coding.coded import Holder
from lighten.pictures.coding.encode import encode_as_jpeg
from lighten.pictures.files import obstacle_of
from tests.builders import as_jpeg, chart, landscape
from tests.core.formats.picture.samples import ARTIST, ORIENTATION, camera_photo

_COPY = 0x00CC0020
SIZE = (60, 40)


def bitmap_of_device() -> tuple[bytes, bytes]:
    """Head and pixels of a bitmap, as metafiles hold them: a BMP file without its first 14."""
    file = io.BytesIO()
    Image.fromarray(chart(*SIZE, seed=3)).save(file, "BMP")
    content = file.getvalue()
    return content[14:54], content[54:]


def record(kind: int, body: bytes) -> bytes:
    return struct.pack("<2I", kind, 8 + len(body)) + body


def emf(*, more: bytes = b"", operation: int = _COPY) -> bytes:
    """[MS-EMF]: a head, one bitmap stretched over all of it ([MS-EMF] 2.3.1.7), an end."""
    width, height = SIZE
    head, pixels = bitmap_of_device()
    bounds = struct.pack("<4i", 0, 0, width - 1, height - 1)
    frame = struct.pack("<4i", 0, 0, 2540, 1693)  # hundredths of a millimetre: an inch wide
    rest = struct.pack("<4s5I", b" EMF", 0x10000, 0, 4, 1, 0) + bytes(24)
    stretched = bounds + struct.pack(
        "<6i6I2i",
        *(0, 0, 0, 0, width, height),
        *(80, len(head), 80 + len(head), len(pixels), 0, operation),
        *(width, height),
    )
    return (
        record(1, bounds + frame + rest)
        + more
        + record(81, stretched + head + pixels)
        + record(14, bytes(12))
    )


def wmf() -> bytes:
    """[MS-WMF]: the placeable head, a window as large as the bitmap, the bitmap, an end."""
    width, height = SIZE
    head, pixels = bitmap_of_device()

    def entry(function: int, body: bytes) -> bytes:
        body += b"\0" * (len(body) % 2)
        return struct.pack("<IH", 3 + len(body) // 2, function) + body

    placeable = struct.pack("<I H 4h H I H", 0x9AC6CDD7, 0, 0, 0, width, height, 60, 0, 0)
    told = struct.pack("<IH8h", _COPY, 0, height, width, 0, 0, height, width, 0, 0)
    return (
        placeable
        + struct.pack("<HHHIHIH", 1, 9, 0x300, 0, 0, 0, 0)
        + entry(0x020C, struct.pack("<2h", height, width))
        + entry(0x0F43, told + head + pixels)
        + entry(0, b"")
    )


class Metafiles(unittest.TestCase):
    def test_metafiles_that_only_wrap_a_bitmap_are_that_bitmap(self) -> None:
        for content in (emf(), wmf()):
            with self.subTest(start=content[:4]):
                self.assertTrue(is_metafile(content))
                bitmap = wrapped_bitmap(content)
                assert bitmap is not None
                pixels = np.asarray(Image.open(io.BytesIO(bitmap)).convert("RGB"))
                np.testing.assert_array_equal(pixels, chart(*SIZE, seed=3))
                file = member_picture(content)
                assert file is not None
                self.assertEqual((file.kind, file.width_px, obstacle_of(file)), ("bmp", 60, ""))
                np.testing.assert_array_equal(read_pixels(content, "it"), pixels)

    def test_metafiles_are_as_large_as_they_say(self) -> None:
        for content in (emf(), wmf()):
            file = member_picture(content)
            assert file is not None
            self.assertAlmostEqual(natural_size_pt(file)[0], 72, delta=0.01)

    def test_metafiles_that_draw_anything_else_stay_as_they_are(self) -> None:
        line = record(54, struct.pack("<2i", 5, 5))
        other = record(70, struct.pack("<I", 4) + b"EMF+")
        for content in (emf(more=line), emf(more=other), emf(operation=0x00EE0086)):
            file = member_picture(content)
            assert file is not None
            self.assertIsNone(wrapped_bitmap(content))
            self.assertIn("drawn by commands", obstacle_of(file))

    def test_cut_short_are_left_alone(self) -> None:
        whole = emf()
        for length in range(44, len(whole), 97):
            self.assertIsNone(wrapped_bitmap(whole[:length]))


class Kinds(unittest.TestCase):
    def test_kinds_of_tiff_are_read_by_the_picture_library(self) -> None:
        file = io.BytesIO()
        Image.fromarray(landscape(*SIZE, 3)).save(file, "TIFF", dpi=(300, 300))
        picture = member_picture(file.getvalue())
        assert picture is not None
        self.assertEqual((picture.kind, picture.width_px, picture.dots), ("tiff", 60, (300, 300)))
        self.assertEqual(obstacle_of(picture), "")

    def test_kinds_of_vector_drawings_are_known_and_left(self) -> None:
        picture = member_picture(b'<?xml version="1.0"?><svg xmlns="x"/>')
        assert picture is not None
        self.assertIn("drawn by commands", obstacle_of(picture))
        self.assertIsNone(member_picture(b"VCLMTF nothing that is known"))

    def built(self, path: Path, *, keeps_metadata: bool) -> bytes:
        file = member_picture(camera_photo(path, orientation=6).path.read_bytes())
        assert file is not None
        coded = encode_as_jpeg(landscape(450, 300, 3), quality=80, floor=0.5, holder=Holder.FILE)
        return build_member_picture(
            file,
            coded,
            shown_px=(900, 600),
            keeps_profile=True,
            keeps_metadata=keeps_metadata,
            needs_dots=False,
        ).content

    def test_camera_and_owner_data_stay_or_go_as_a_whole(self) -> None:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "photo.jpg"
            kept, bare = (self.built(path, keeps_metadata=keeps) for keeps in (True, False))
        whole = Image.open(io.BytesIO(kept))
        self.assertIn(ARTIST, whole.getexif())
        left = Image.open(io.BytesIO(bare)).getexif()
        self.assertEqual((left[ORIENTATION], ARTIST in left), (6, False))
        for words in (b"Morning round", b"Harrow Fen", b"counted twice", b"maker"):
            self.assertIn(words, kept)
            self.assertNotIn(words, bare)

    def test_a_new_picture_keeps_the_printed_size_of_the_one_it_replaces(self) -> None:
        file = member_picture(as_jpeg(landscape(900, 600, 3), dpi=(300, 300)))
        assert file is not None
        coded = encode_as_jpeg(landscape(225, 300, 3), quality=80, floor=0.5, holder=Holder.FILE)
        built = build_member_picture(
            file,
            coded,
            shown_px=(450, 600),
            keeps_profile=True,
            keeps_metadata=False,
            needs_dots=False,
        )
        picture = Image.open(io.BytesIO(built.content))
        self.assertEqual(picture.info["dpi"], (150, 150))
        self.assertEqual((built.suffix, built.media_type), ("jpeg", "image/jpeg"))
