"""Every coding, depth and colour space, against poppler's pdfimages, libtiff and littlecms."""

import base64
import io
import subprocess
import zlib
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from PIL import Image

from lighten import (
    ColourChange,
    Copy,
    PictureClass,
    PictureCoding,
    PictureTreatment,
    Preset,
    Source,
    Treatment,
    make_proved_copy,
    plan,
    weigh,
)
from lighten.codecs.bitonal import BitonalParameters, decode_bitonal, encode_group4
from lighten.formats.pdf.pictures.read_pictures import read_picture
from lighten.pictures.coding.decode import decode
from tests.builders import FolderCase, PdfBuilder, Show, as_jpeg, landscape, logbook, print_of

RGB = landscape(60, 40, 2)
GREY = np.ascontiguousarray(RGB[..., 1])
LINES = landscape(96, 64, 3)[..., 0] > 128
NAME = pikepdf.Name


def run_lengths(data: bytes) -> bytes:
    """As it is in runs of 128 literal bytes (ISO 32000-1, 7.4.5)."""
    pieces = [data[at : at + 128] for at in range(0, len(data), 128)]
    return b"".join(bytes([len(piece) - 1]) + piece for piece in pieces) + b"\x80"


def packed(levels: np.ndarray, bits: int) -> bytes:
    """Samples of 1, 2 or 4 bits, rows filled up to whole bytes."""
    flat = np.unpackbits(levels.astype(np.uint8)[..., None], axis=2)[..., -bits:]
    return np.packbits(flat.reshape(levels.shape[0], -1), axis=1).tobytes()


def as_poppler_sees(folder: Path) -> np.ndarray:
    command = ["pdfimages", "-png", "a.pdf", "p"]
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    return np.asarray(Image.open(folder / "p-000.png"))


class Codings(FolderCase):
    def picture(self, data: bytes, size: tuple[int, int], bits: int = 8, **entries: Any) -> Any:
        builder = PdfBuilder().stream("A", data, size=size, bits=bits, **entries)
        builder.page(Show("A", (72, 0, 0, 48, 72, 400)))
        path = builder.save(self.folder / "a.pdf", compress_streams=False)
        pdf = pikepdf.open(path)
        self.addCleanup(pdf.close)
        return pdf.pages[0].obj.Resources.XObject["/A"]

    def as_poppler_sees_it(self) -> np.ndarray:
        return as_poppler_sees(self.folder)

    def test_codings_of_plain_samples_are_read_as_poppler_reads_them(self) -> None:
        raw = RGB.tobytes()
        cases: dict[str, tuple[bytes, Any]] = {
            "none": (raw, None),
            "Flate": (zlib.compress(raw), NAME.FlateDecode),
            "RunLength": (run_lengths(raw), NAME.RunLengthDecode),
            "ASCIIHex": (raw.hex().encode() + b">", NAME.ASCIIHexDecode),
            "ASCII85": (base64.a85encode(raw) + b"~>", NAME.ASCII85Decode),
            "a chain": (
                base64.a85encode(zlib.compress(raw)) + b"~>",
                [NAME.ASCII85Decode, NAME.FlateDecode],
            ),
            "ASCII85 over DCT": (
                base64.a85encode(as_jpeg(RGB)) + b"~>",
                [NAME.ASCII85Decode, NAME.DCTDecode],
            ),
        }
        for name, (data, filters) in cases.items():
            with self.subTest(coding=name):
                entries = {"ColorSpace": NAME.DeviceRGB}
                if filters is not None:
                    entries["Filter"] = filters
                picture = self.picture(data, (60, 40), **entries)
                ours = decode(read_picture(picture)).astype(int)
                # JPEG decoders may differ by a rounding.
                self.assertLessEqual(np.abs(ours - self.as_poppler_sees_it()).max(), 4)

    def test_lzw_of_libtiff_is_read(self) -> None:
        file = io.BytesIO()
        Image.fromarray(RGB).save(file, "TIFF", compression="tiff_lzw", tiffinfo={278: 40, 317: 1})
        with Image.open(io.BytesIO(file.getvalue())) as tiff:
            (start,), (size,) = tiff.tag_v2[273], tiff.tag_v2[279]
        data = file.getvalue()[start : start + size]
        picture = self.picture(data, (60, 40), Filter=NAME.LZWDecode, ColorSpace=NAME.DeviceRGB)
        np.testing.assert_array_equal(decode(read_picture(picture)), RGB)

    def test_few_bits_are_spread_over_the_range(self) -> None:
        for bits in (1, 2, 4):
            with self.subTest(bits=bits):
                levels = GREY >> (8 - bits)
                picture = self.picture(
                    packed(levels, bits), (60, 40), bits, ColorSpace=NAME.DeviceGray
                )
                ours = decode(read_picture(picture))
                np.testing.assert_array_equal(ours, levels * (255 // ((1 << bits) - 1)))
                theirs = self.as_poppler_sees_it()
                theirs = theirs if theirs.dtype != bool else theirs * np.uint8(255)
                np.testing.assert_array_equal(ours, theirs)

    def test_sixteen_bits_keep_their_upper_eight(self) -> None:
        deep = (RGB.astype(np.uint16) << 8 | 37).astype(">u2").tobytes()
        picture = self.picture(deep, (60, 40), 16, ColorSpace=NAME.DeviceRGB)
        np.testing.assert_array_equal(decode(read_picture(picture)), RGB)

    def test_palettes_over_any_base(self) -> None:
        levels = GREY >> 4
        for base, width in ((NAME.DeviceGray, 1), (NAME.DeviceRGB, 3), (NAME.DeviceCMYK, 4)):
            with self.subTest(base=str(base)):
                table = bytes(range(16 * width))
                space = [NAME.Indexed, base, 15, pikepdf.String(table)]
                picture = self.picture(levels.tobytes(), (60, 40), ColorSpace=space)
                entries = np.frombuffer(table, np.uint8).reshape(16, width)
                ours = decode(read_picture(picture))
                np.testing.assert_array_equal(ours.reshape(40, 60, width), entries[levels])

    def test_groups_3_and_4_of_libtiff_are_read(self) -> None:
        for compression, k in (("group3", 0), ("group4", -1)):
            with self.subTest(compression=compression):
                file = io.BytesIO()
                Image.fromarray(LINES).save(
                    file, "TIFF", compression=compression, tiffinfo={278: 64}
                )
                with Image.open(io.BytesIO(file.getvalue())) as tiff:
                    (start,), (size,) = tiff.tag_v2[273], tiff.tag_v2[279]
                    is_black_one = tiff.tag_v2[262] == 0
                data = file.getvalue()[start : start + size]
                picture = self.picture(
                    data,
                    (96, 64),
                    1,
                    Filter=NAME.CCITTFaxDecode,
                    ColorSpace=NAME.DeviceGray,
                    DecodeParms=pikepdf.Dictionary(K=k, Columns=96, Rows=64),
                )
                ours = decode(read_picture(picture)) > 0
                np.testing.assert_array_equal(ours, LINES if is_black_one else ~LINES)
                np.testing.assert_array_equal(ours, self.as_poppler_sees_it() > 0)

    def test_our_group_4_is_read_by_poppler_and_pdfium(self) -> None:
        """ITU-T T.6; 0 is black in what comes out (ISO 32000-1, table 11)."""
        data = encode_group4(~LINES)
        told = BitonalParameters(dictionary=b"/K -1 /Columns 96 /Rows 64")
        ours = decode_bitonal(data, "CCITTFaxDecode", told, width_px=96, height_px=64)
        np.testing.assert_array_equal(ours > 0, LINES)
        self.picture(
            data,
            (96, 64),
            1,
            Filter=NAME.CCITTFaxDecode,
            ColorSpace=NAME.DeviceGray,
            DecodeParms=pikepdf.Dictionary(K=-1, Columns=96, Rows=64),
        )
        np.testing.assert_array_equal(self.as_poppler_sees_it() > 0, LINES)

    def test_an_undecodable_picture_is_reported(self) -> None:
        told = BitonalParameters(dictionary=b"/K -1 /Columns 96 /Rows 64")
        with self.assertRaises(ValueError):
            decode_bitonal(b"", "JBIG2Decode", told, width_px=96, height_px=64)


class Treated(FolderCase):
    def lighten(
        self, data: bytes, size: tuple[int, int], wanted: PictureTreatment, **entries: Any
    ) -> tuple[Copy, Any]:
        bits = entries.pop("bits", 8)
        builder = PdfBuilder().stream("A", data, size=size, bits=bits, **entries)
        builder.page(Show("A", (216, 0, 0, 144, 72, 400)))
        source = Source(path=builder.save(self.folder / "a.pdf", compress_streams=False))
        sheet = weigh(source)
        treatment = Treatment(pictures=dict.fromkeys(PictureClass, wanted))
        preset = Preset(name="own", title="Own", description="", treatment=treatment)
        (self.folder / "b.pdf").unlink(missing_ok=True)
        copy, proof = make_proved_copy(source, sheet, plan(sheet, preset), self.folder / "b.pdf")
        assert copy.path is not None and proof is not None, copy.reasons
        self.assertNotEqual(proof.verdict, "check", proof.reasons)
        pdf = pikepdf.open(copy.path)
        self.addCleanup(pdf.close)
        return copy, pdf.pages[0].obj.Resources.XObject["/A"]

    def test_bitonal_on_request_is_group_4(self) -> None:
        page = logbook(640, 440, 3)
        _, picture = self.lighten(
            page.tobytes(),
            (640, 440),
            PictureTreatment(coding=PictureCoding.GROUP_4, quality=80),
            ColorSpace=NAME.DeviceRGB,
        )
        self.assertEqual((picture.Filter, picture.BitsPerComponent), ("/CCITTFaxDecode", 1))

    def test_bitonal_pictures_become_jbig2_by_default(self) -> None:
        black = print_of("Lapwing 8 ringed at 08:36")
        height, width = black.shape
        entries = {
            "Filter": NAME.CCITTFaxDecode,
            "ColorSpace": NAME.DeviceGray,
            "DecodeParms": pikepdf.Dictionary(K=-1, Columns=width, Rows=height),
            "bits": 1,
        }
        data = encode_group4(black)
        _, picture = self.lighten(data, (width, height), PictureTreatment(), **entries)
        self.assertEqual(picture.Filter, "/JBIG2Decode")
        np.testing.assert_array_equal(decode(read_picture(picture)) == 0, black)
        (self.folder / "b.pdf").replace(self.folder / "a.pdf")
        np.testing.assert_array_equal(as_poppler_sees(self.folder) == 0, black)

    def test_jpeg_2000_on_request(self) -> None:
        photo = landscape(450, 300, 4)
        _, picture = self.lighten(
            photo.tobytes(),
            (450, 300),
            PictureTreatment(coding=PictureCoding.JPEG_2000, quality=75),
            ColorSpace=NAME.DeviceRGB,
        )
        self.assertEqual(picture.Filter, "/JPXDecode")
        again = np.asarray(Image.open(io.BytesIO(picture.read_raw_bytes())))
        self.assertLess(np.abs(again.astype(int) - photo).mean(), 8)

    def test_grey_on_request(self) -> None:
        photo = landscape(450, 300, 4)
        copy, picture = self.lighten(
            as_jpeg(photo, 95),
            (450, 300),
            PictureTreatment(colour=ColourChange.GREY, quality=80),
            Filter=NAME.DCTDecode,
            ColorSpace=NAME.DeviceRGB,
        )
        self.assertEqual(picture.ColorSpace, "/DeviceGray")
        self.assertTrue(any("to grey" in one.reason for one in copy.outcomes))

    def test_inks_stay_inks_unless_asked(self) -> None:
        inks = np.dstack([255 - landscape(450, 300, 4), GREY_PLANE])
        for colour, space in (
            (ColourChange.KEEP, "/DeviceCMYK"),
            (ColourChange.RGB, "/DeviceRGB"),
        ):
            with self.subTest(colour=colour):
                _, picture = self.lighten(
                    inks.tobytes(),
                    (450, 300),
                    PictureTreatment(colour=colour, quality=80),
                    ColorSpace=NAME.DeviceCMYK,
                )
                self.assertEqual(str(picture.ColorSpace), space)

    def test_a_picture_that_loses_its_palette_loses_its_decode_array(self) -> None:
        """Decode of [0 255] is usual for places only (ISO 32000-1, table 90); poppler looks."""
        random = np.random.default_rng(3)
        entries = random.integers(0, 256, (200, 4), np.uint8)
        # Neighbours are near in the palette, and places jump: predictors win on the colours.
        entries = entries[np.lexsort(entries.T)] // 4
        _, picture = self.lighten(
            (np.add.outer(np.arange(144), np.arange(216)) * 7 % 200).astype(np.uint8).tobytes(),
            (216, 144),
            PictureTreatment(finest_ppi=36, quality=90, coding=PictureCoding.JPEG),
            ColorSpace=[NAME.Indexed, NAME.DeviceCMYK, 199, pikepdf.String(entries.tobytes())],
            Decode=[0, 255],
        )
        self.assertEqual(picture.ColorSpace, "/DeviceCMYK")
        self.assertNotIn("/Decode", picture)

    def test_spot_inks_keep_their_space(self) -> None:
        tint = pikepdf.Dictionary(
            FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[0, 1, 1, 0], N=1
        )
        space = [NAME.Separation, NAME("/Spot"), NAME.DeviceCMYK, tint]
        plane = np.ascontiguousarray(landscape(450, 300, 4)[..., 0])
        _, picture = self.lighten(
            plane.tobytes(),
            (450, 300),
            PictureTreatment(finest_ppi=100, quality=80),
            ColorSpace=space,
        )
        self.assertEqual((picture.ColorSpace[0], picture.Width), ("/Separation", 300))

    def test_a_see_through_colour_becomes_a_mask(self) -> None:
        """Colour-key masks: ISO 32000-1, 8.9.6.4."""
        pixels = landscape(450, 300, 4).copy()
        pixels[100:200, 100:300] = (255, 0, 255)
        copy, picture = self.lighten(
            pixels.tobytes(),
            (450, 300),
            PictureTreatment(finest_ppi=100, quality=80),
            ColorSpace=NAME.DeviceRGB,
            Mask=[255, 255, 0, 0, 255, 255],
        )
        self.assertNotIn("/Mask", picture)
        self.assertEqual((picture.SMask.Width, picture.SMask.Height), (300, 200))
        self.assertTrue(any("see-through" in one.reason for one in copy.outcomes))

    def test_masks_stay_masks(self) -> None:
        lines = logbook(640, 440, 3)[..., 0] > 128
        copy, picture = self.lighten(
            np.packbits(lines, axis=1).tobytes(),
            (640, 440),
            PictureTreatment(),
            bits=1,
            ImageMask=True,
        )
        self.assertTrue(picture.ImageMask)
        self.assertNotIn("/ColorSpace", picture)
        self.assertLess(copy.bytes_after, copy.bytes_before)

    def test_never_heavier(self) -> None:
        """A part that does not get smaller stays as it was (DESIGN, 2.3)."""
        small = as_jpeg(landscape(90, 60, 1), 20)
        builder = PdfBuilder().jpeg("B", landscape(900, 600, 1), 95)
        builder.stream("A", small, size=(90, 60), Filter=NAME.DCTDecode, ColorSpace=NAME.DeviceRGB)
        builder.page(Show("A", (216, 0, 0, 144, 72, 400)), Show("B", (216, 0, 0, 144, 72, 200)))
        source = Source(path=builder.save(self.folder / "a.pdf"))
        sheet = weigh(source)
        wanted = PictureTreatment(quality=95, finest_ppi=150)
        treatment = Treatment(pictures=dict.fromkeys(PictureClass, wanted))
        preset = Preset(name="own", title="Own", description="", treatment=treatment)
        copy, _ = make_proved_copy(source, sheet, plan(sheet, preset), self.folder / "b.pdf")
        for outcome in copy.outcomes:
            self.assertLessEqual(outcome.bytes_after, outcome.bytes_before)
        (small_one,) = [one for one in copy.outcomes if one.bytes_before < 9_000 and one.likeness]
        self.assertIn("every pixel kept", small_one.reason)


GREY_PLANE = np.full((300, 450, 1), 20, np.uint8)
