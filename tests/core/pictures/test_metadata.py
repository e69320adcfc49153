"""Metadata of pictures, by readers that are not ours: Pillow and ExifRead."""

import io
import unittest

import exifread
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from lighten.model.kinds import ExtraKind
from lighten.pictures.metadata.exif import (
    ExifChange,
    exif_dots,
    exif_weights,
    rewrite_exif,
)
from lighten.pictures.metadata.exif_directories import read_exif
from lighten.pictures.metadata.image_resources import resource_weights, rewrite_resources
from lighten.pictures.metadata.xmp import (
    join_packets,
    rewrite_xmp,
    split_packet,
    xmp_weights,
)
from tests.builders import landscape
from tests.core.formats.picture.samples import (
    ARTIST,
    DESCRIPTION,
    EXIF,
    GPS,
    MAKERS_NOTE,
    ORIENTATION,
    camera_exif,
    irb,
    photo_bytes,
    segment,
    xmp_packet,
)

ORDERS = ("<", ">")


def tags(content: bytes) -> dict[str, str]:
    """As ExifRead, an independent reader, tells them of a JPEG that has them."""
    plain = photo_bytes("JPEG", landscape(32, 24, 1))
    file = plain[:2] + segment(0xE1, b"Exif\0\0" + content) + plain[2:]
    found = exifread.process_file(io.BytesIO(file), details=True)
    return {name: str(value) for name, value in found.items()}


def pillow(content: bytes) -> Image.Exif:
    exif = Image.Exif()
    exif.load(b"Exif\0\0" + content)
    return exif


class Exif(unittest.TestCase):
    def each(self) -> list[bytes]:
        return [camera_exif(order=order, orientation=6) for order in ORDERS]

    def test_exif_weighs_what_it_is_made_of(self) -> None:
        for content in self.each():
            weights = exif_weights(content)
            self.assertEqual(sum(weights.values()), len(content))
            self.assertGreater(weights[ExtraKind.THUMBNAILS], 1000)
            self.assertEqual(weights[ExtraKind.MAKERS_NOTES], 200 + 12)
            self.assertGreater(weights[ExtraKind.LOCATION], 100)

    def test_exif_without_a_change_is_the_same_to_the_byte(self) -> None:
        for content in self.each():
            self.assertEqual(rewrite_exif(content, ExifChange()), content)

    def test_exif_without_its_place_keeps_all_else(self) -> None:
        for content in self.each():
            left = pillow(rewrite_exif(content, ExifChange(dropped={ExtraKind.LOCATION})))
            whole = pillow(content)
            self.assertEqual(dict(left.get_ifd(GPS)), {})
            self.assertEqual(left.get_ifd(EXIF), whole.get_ifd(EXIF))
            for tag in (DESCRIPTION, ARTIST, ORIENTATION, 0x0110):
                self.assertEqual(left[tag], whole[tag])

    def test_a_makers_note_that_stays_keeps_its_place(self) -> None:
        # It points into itself from the beginning of the whole (Exif 2.32, 4.6.5, MakerNote).
        for content in self.each():
            note = read_exif(content).value(EXIF)
            left = rewrite_exif(content, ExifChange(dropped={ExtraKind.LOCATION}))
            moved = read_exif(left).value(EXIF)
            assert note and moved and note.directory and moved.directory
            before, after = note.directory.value(MAKERS_NOTE), moved.directory.value(MAKERS_NOTE)
            assert before and after
            self.assertEqual((before.offset, before.value), (after.offset, after.value))

    def test_exif_without_safe_extras_gets_light_and_stays_readable(self) -> None:
        safe = {ExtraKind.THUMBNAILS, ExtraKind.MAKERS_NOTES}
        for content in self.each():
            left = rewrite_exif(content, ExifChange(dropped=safe))
            self.assertLess(len(left), 600)
            told = tags(left)
            self.assertEqual(told["Image ImageDescription"], "Nets at the north reed bed")
            self.assertEqual(told["EXIF ExposureTime"], "1/250")
            self.assertEqual(told["GPS GPSLatitudeRef"], "N")
            self.assertNotIn("MakerNote", " ".join(told))

    def test_orientation_outlives_the_removal_of_exif(self) -> None:
        for content in self.each():
            left = rewrite_exif(content, ExifChange(dropped=set(ExtraKind)))
            self.assertEqual(pillow(left)[ORIENTATION], 6)
            self.assertNotIn(DESCRIPTION, pillow(left))
            self.assertEqual(pillow(left).get_ifd(EXIF), {})

    def test_exif_holds_the_new_size_of_the_picture(self) -> None:
        for content in self.each():
            left = pillow(rewrite_exif(content, ExifChange(size_px=(450, 300), share=0.5)))
            self.assertEqual((left.get_ifd(EXIF)[0xA002], left.get_ifd(EXIF)[0xA003]), (450, 300))
            self.assertEqual(float(left[0x011A]), 36)

    def test_exif_resolution_matches_pillows(self) -> None:
        for content in self.each():
            self.assertEqual(exif_dots(content), (72, 72))
        self.assertIsNone(exif_dots(b""))

    def test_exif_that_loops_or_lies_is_let_be_or_goes_whole(self) -> None:
        loop = bytearray(camera_exif())
        # The directory of the camera leads back to the first.
        at = bytes(loop).index((0x8769).to_bytes(2, "little"))
        loop[at + 8 : at + 12] = (8).to_bytes(4, "little")
        lie = b"II*\0" + (4_000_000_000).to_bytes(4, "little")
        for bad in (bytes(loop), lie, b"MM", b"nonsense" * 9):
            self.assertEqual(exif_weights(bad), {ExtraKind.CAMERA_DATA: len(bad)})
            kept = rewrite_exif(bad, ExifChange(dropped={ExtraKind.THUMBNAILS}))
            self.assertEqual(kept, bad)
            # Nobody can say that no place is in it.
            self.assertEqual(rewrite_exif(bad, ExifChange(dropped={ExtraKind.LOCATION})), b"")

    @given(st.binary(max_size=200), st.integers(0, 400), st.sampled_from(ORDERS))
    @settings(max_examples=60, deadline=None)
    def test_any_exif_weights_add_up_and_nothing_is_raised(
        self, noise: bytes, at: int, order: str
    ) -> None:
        whole = camera_exif(order=order, note=b"n" * 9)
        content = whole[:at] + noise + whole[at + len(noise) :]
        self.assertEqual(sum(exif_weights(content).values()), len(content))
        rewrite_exif(content, ExifChange(dropped={ExtraKind.THUMBNAILS}))


class Xmp(unittest.TestCase):
    def test_xmp_weighs_what_it_is_made_of(self) -> None:
        content = xmp_packet()
        weights = xmp_weights(content)
        self.assertEqual(sum(weights.values()), len(content))
        self.assertEqual(weights[ExtraKind.LEFTOVERS], 2000)
        self.assertGreater(weights[ExtraKind.PRIVATE_DATA], 600)

    def test_history_and_room_go_and_the_title_stays(self) -> None:
        dropped = {ExtraKind.PRIVATE_DATA, ExtraKind.LEFTOVERS}
        left = rewrite_xmp(xmp_packet(), dropped)
        self.assertLess(len(left), 700)
        self.assertIn(b"Morning round", left)
        self.assertIn(b"Harrow Fen", left)
        self.assertNotIn(b"History", left)

    def test_a_place_goes_alone(self) -> None:
        left = rewrite_xmp(xmp_packet(), {ExtraKind.LOCATION})
        self.assertNotIn(b"Harrow Fen", left)
        self.assertIn(b"Morning round", left)

    def test_data_as_long_as_a_picture_are_a_programs_own(self) -> None:
        data = f"<x:Depth xmlns:x='urn:invented'>{'A' * 30_000}</x:Depth>"
        self.assertGreater(xmp_weights(xmp_packet(data))[ExtraKind.PRIVATE_DATA], 30_000)
        self.assertLess(len(rewrite_xmp(xmp_packet(data), {ExtraKind.PRIVATE_DATA})), 3000)

    def test_xmp_in_two_and_joined_again_says_the_same(self) -> None:
        words = "".join(f"<dc:k{number}>{'word ' * 20}</dc:k{number}>" for number in range(300))
        packet = xmp_packet(extra=words)
        first, more = split_packet(packet, 12_000)
        self.assertLessEqual(len(first), 12_000)
        self.assertLess(len(first) + len(more), 1.1 * len(packet))
        joined = join_packets(first, more)
        self.assertNotIn(b"HasExtendedXMP", joined)
        for name in (*(b"dc:k%d>" % number for number in range(300)), b"dc:title>"):
            self.assertEqual(joined.count(b"<" + name), 1, name)

    def test_xmp_that_is_none_stays_whole(self) -> None:
        self.assertEqual(split_packet(b"no packet", 4), (b"no packet", b""))
        self.assertEqual(join_packets(b"no packet", b"more"), b"no packet")

    def test_entities_are_neither_fetched_nor_unfolded(self) -> None:
        bomb = (
            b'<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">'
            b'<!ENTITY c SYSTEM "file:///etc/hostname">]><x>&b;&c;</x>'
        )
        self.assertEqual(xmp_weights(bomb), {ExtraKind.METADATA: len(bomb)})
        self.assertEqual(rewrite_xmp(bomb, {ExtraKind.PRIVATE_DATA}), bomb)
        self.assertEqual(rewrite_xmp(bomb, {ExtraKind.METADATA}), b"")


class Resources(unittest.TestCase):
    def test_resources_weigh_what_they_are_made_of(self) -> None:
        weights = resource_weights(irb())
        self.assertEqual(sum(weights.values()), len(irb()))
        self.assertGreater(weights[ExtraKind.THUMBNAILS], 900)
        self.assertEqual(weights[ExtraKind.LOCATION], 5 + len("Harrow Fen"))

    def test_captions_outlive_the_rest_as_pillow_reads_them(self) -> None:
        safe = {ExtraKind.THUMBNAILS, ExtraKind.PRIVATE_DATA}
        left = rewrite_resources(irb(), safe)
        self.assertIn(b"Reed warbler, adult", left)
        self.assertLess(len(left), 70)
        without_place = rewrite_resources(irb(), {ExtraKind.LOCATION})
        self.assertNotIn(b"Harrow Fen", without_place)
        self.assertIn(b"Reed warbler, adult", without_place)

    def test_cut_short_nothing_is_lost(self) -> None:
        for end in range(0, len(irb()), 37):
            self.assertEqual(sum(resource_weights(irb()[:end]).values()), end)
