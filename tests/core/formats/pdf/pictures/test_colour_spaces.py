"""Colour spaces as PDFs name them; what they may hold is ISO 32000-1, 8.6."""

import unittest

import pikepdf

from lighten.formats.pdf.pictures.colour_spaces import palette_entries, profile_of, read_colour


def space(text: bytes) -> pikepdf.Object:
    return pikepdf.Object.parse(text)


class ColourSpaces(unittest.TestCase):
    def test_colour_spaces_name_their_colours(self) -> None:
        for text, colours in (
            (b"/DeviceGray", 1),
            (b"/DeviceCMYK", 4),
            (b"[/CalRGB <</WhitePoint [.9505 1 1.089]>>]", 3),
            (b"[/DeviceN [/Cyan /Spot] /DeviceCMYK <<>>]", 2),
        ):
            with self.subTest(text=text):
                self.assertEqual(read_colour(space(text)).colours, colours)

    def test_a_palette_is_over_its_base(self) -> None:
        read = read_colour(space(b"[/Indexed /DeviceRGB 1 <000000ffffff>]"))
        entries = palette_entries(read)
        assert entries is not None
        self.assertEqual((read.colours, entries[:6], len(entries)), (3, b"\0\0\0\xff\xff\xff", 768))

    def test_a_profile_is_read(self) -> None:
        pdf = pikepdf.new()
        profile = pdf.make_stream(b"profile", N=3)
        read = read_colour(pikepdf.Array([pikepdf.Name.ICCBased, profile]))
        self.assertEqual((read.colours, profile_of(read)), (3, b"profile"))

    def test_damaged_colour_spaces_are_not_understood_and_stop_nothing(self) -> None:
        for text in (
            b"/ICCBased",
            b"[/ICCBased]",
            b"[/ICCBased 7]",
            b"[/DeviceN 7 /DeviceCMYK <<>>]",
            b"[/Indexed /DeviceRGB 1 1000000000000]",
            b"[/Indexed [/Indexed [/Indexed [/Indexed [/Indexed 1]]]]]",
            b"/#93\x93ray",
            b"[]",
            b"null",
        ):
            with self.subTest(text=text):
                read = read_colour(space(text))
                palette_entries(read)
                self.assertEqual(profile_of(read), b"")
