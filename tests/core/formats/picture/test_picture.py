"""A picture by itself, from weighing to proof; what comes out is read by Pillow."""

import hashlib
import io
import re
import struct
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms, ImageOps, PngImagePlugin

from lighten import (
    Action,
    BitonalMethod,
    ColourChange,
    ExtraKind,
    Order,
    OrderResult,
    PartException,
    PartKind,
    PictureClass,
    PictureFacts,
    PictureTreatment,
    Preset,
    Source,
    Treatment,
    Verdict,
    make,
    make_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from lighten.model.errors import LimitExceededError, UnreadableFileError
from tests.builders import FolderCase, chart, landscape, logbook
from tests.core.formats.picture.samples import (
    DESCRIPTION,
    IPTC_MARK,
    camera_photo,
    heic,
    irb,
    photo_bytes,
    png_chunk,
    save,
    segment,
    xmp_packet,
)


class PictureCase(FolderCase):
    def make(
        self, source: Source, preset: str | Preset = "reading-desk", **order: object
    ) -> OrderResult:
        chosen = preset_named(preset) if isinstance(preset, str) else preset
        out = self.folder / "copy"
        out.unlink(missing_ok=True)
        made = make(source, weigh(source), Order(preset=chosen, **order), out)  # type: ignore[arg-type]
        if made.proof is not None:
            self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)
        return made

    def opened(self, made: OrderResult) -> Image.Image:
        assert made.copy.path is not None, made.copy.reasons
        image = Image.open(made.copy.path)
        image.load()
        self.addCleanup(image.close)
        return image

    def pixels(self, source: Source) -> np.ndarray:
        """As Pillow reads them, through no profile."""
        with Image.open(source.path) as image:
            return np.asarray(image.convert("RGB"))

    def facts(self, source: Source) -> PictureFacts:
        (facts,) = (part.picture for part in weigh(source).parts if part.picture)
        return facts

    def photo(self, kind: str, name: str = "photo", **options: object) -> Source:
        return save(self.folder / name, photo_bytes(kind, **options))  # type: ignore[arg-type]


class Weighing(PictureCase):
    def test_picture_profile_and_each_extra_are_weighed(self) -> None:
        sheet = weigh(camera_photo(self.folder / "a.jpg"))
        self.assertEqual(sheet.media_type, "image/jpeg")
        kinds = {part.extra for part in sheet.parts if part.extra}
        self.assertEqual(
            kinds,
            {
                ExtraKind.LEFTOVERS,
                ExtraKind.THUMBNAILS,
                ExtraKind.PRIVATE_DATA,
                ExtraKind.MAKERS_NOTES,
                ExtraKind.METADATA,
                ExtraKind.CAMERA_DATA,
                ExtraKind.LOCATION,
            },
        )
        self.assertIn(PartKind.PROFILE, sheet.bytes_by_kind())

    def test_weighing_takes_it_as_25_cm_long(self) -> None:
        pixels = landscape(2952, 1968, 1)
        facts = self.facts(self.photo("JPEG", pixels=pixels))
        # 25 cm are 9.84 in: 2,952 pixels there are 300 to the inch.
        self.assertAlmostEqual(facts.ppi or 0, 300, delta=0.5)
        self.assertTrue(facts.has_assumed_size)

    def test_the_presets_mean_the_pixels_that_are_said(self) -> None:
        sheet = weigh(self.photo("JPEG", pixels=landscape(2952, 1968, 1)))
        for name, longest in (("reading-desk", 1477), ("post", 1083), ("feather", 709)):
            target = plan(sheet, preset_named(name)).decisions[0].target_px
            assert target is not None
            self.assertAlmostEqual(max(target), longest, delta=1)

    def test_a_tag_that_says_less_counts(self) -> None:
        for kind in ("JPEG", "PNG"):
            small = self.facts(self.photo(kind, dpi=(300, 300)))
            self.assertAlmostEqual(small.ppi or 0, 300, delta=1)
            self.assertFalse(small.has_assumed_size)
            large = self.facts(self.photo(kind, dpi=(10, 10)))
            self.assertTrue(large.has_assumed_size)

    def test_a_person_may_say_how_long_it_is(self) -> None:
        sheet = weigh(self.photo("JPEG", pixels=landscape(2952, 1968, 1)))
        desk = preset_named("reading-desk")
        shorter = replace(desk, treatment=replace(desk.treatment, assumed_cm=12.5))
        target = plan(sheet, shorter).decisions[0].target_px
        assert target is not None
        self.assertAlmostEqual(max(target), 739, delta=1)

    def test_classes_are_found_without_a_page(self) -> None:
        cases = {
            PictureClass.PHOTO: photo_bytes("JPEG", landscape(900, 600, 2)),
            PictureClass.GRAPHIC: photo_bytes("PNG", chart(900, 600, 2)),
            PictureClass.PAGE_SCAN: photo_bytes("JPEG", logbook(1240, 1754, 2), quality=80),
            PictureClass.BITONAL: photo_bytes("PNG", logbook(1240, 1754, 2), mode="1"),
        }
        for picture_class, content in cases.items():
            with self.subTest(picture_class=picture_class):
                facts = self.facts(save(self.folder / "a", content))
                self.assertIs(facts.picture_class, picture_class)


class Lightening(PictureCase):
    def test_lightening_of_a_photo_keeps_what_was_not_chosen_to_go(self) -> None:
        source = camera_photo(self.folder / "a.jpg", pixels=landscape(2400, 1600, 1))
        made = self.make(source)
        image = self.opened(made)
        self.assertLess(made.copy.bytes_after, made.copy.bytes_before * 0.6)
        self.assertEqual(max(image.size), 1477)
        exif = image.getexif()
        self.assertEqual(exif[0x010E], "Nets at the north reed bed")
        self.assertTrue(exif.get_ifd(0x8825))
        self.assertEqual(image.info["comment"], b"counted twice")
        self.assertNotIn(0x927C, exif.get_ifd(0x8769))
        with Image.open(source.path) as original:
            self.assertEqual(image.info["icc_profile"], original.info["icc_profile"])

    def test_lightening_without_loss_keeps_every_coefficient(self) -> None:
        source = self.photo("JPEG", quality=90, optimize=False)
        made = self.make(source, "as-it-was")
        self.assertLess(made.copy.bytes_after, made.copy.bytes_before)
        after = self.opened(made)
        np.testing.assert_array_equal(self.pixels(source), np.asarray(after))
        with Image.open(source.path) as before:
            self.assertEqual(before.quantization, after.quantization)  # type: ignore[attr-defined]

    def test_turned_pictures_stay_turned(self) -> None:
        upright = landscape(1800, 1200, 4)
        for orientation in (3, 6, 8):
            source = camera_photo(self.folder / "a.jpg", pixels=upright, orientation=orientation)
            with Image.open(source.path) as original:
                wanted = ImageOps.exif_transpose(original).size
            image = self.opened(self.make(source, "post"))
            shown = ImageOps.exif_transpose(image).size
            self.assertAlmostEqual(wanted[0] / wanted[1], shown[0] / shown[1], delta=0.01)

    def test_lightening_see_through_pictures_stay_so(self) -> None:
        pixels = np.dstack([landscape(1800, 1200, 1), np.zeros((1200, 1800), np.uint8)])
        pixels[300:900, 400:1400, 3] = 255
        pixels[300:900, 350:400, 3] = 128
        source = self.photo("PNG", pixels=pixels)
        made = self.make(source, "post")
        image = self.opened(made)
        self.assertEqual(made.name, "photo-light.png")
        opacity = np.asarray(image.convert("RGBA"))[..., 3]
        self.assertEqual((opacity.min(), opacity.max()), (0, 255))
        self.assertAlmostEqual((opacity > 200).mean(), (pixels[..., 3] > 200).mean(), delta=0.01)

    def test_deep_pictures_keep_their_16_bits(self) -> None:
        deep = np.linspace(0, 65535, 1500 * 1000).astype(np.uint16).reshape(1000, 1500)
        source = self.photo("PNG", pixels=deep)
        for name in ("as-it-was", "post"):
            image = self.opened(self.make(source, name))
            self.assertEqual(image.mode, "I;16")
            self.assertGreater(len(np.unique(np.asarray(image))), 5000)

    def test_a_bitmap_becomes_another_kind_of_file(self) -> None:
        photo = self.make(self.photo("BMP", "a.bmp"))
        self.assertEqual((photo.name, self.opened(photo).format), ("a-light.jpg", "JPEG"))
        drawn = self.make(self.photo("BMP", "b.bmp", pixels=chart(900, 600, 1)))
        self.assertEqual((drawn.name, self.opened(drawn).format), ("b-light.png", "PNG"))

    def test_palettes_stay_exact(self) -> None:
        for kind in ("GIF", "PNG"):
            source = self.photo(kind, pixels=chart(700, 500, 1), mode="P")
            before = self.pixels(source)
            image = self.opened(self.make(source, "as-it-was"))
            np.testing.assert_array_equal(before, np.asarray(image.convert("RGB")))

    def test_inks_stay_inks_with_their_profile(self) -> None:
        # A profile of three inks would not do; littlecms makes none of four, so it has none.
        source = self.photo("JPEG", pixels=landscape(1800, 1200, 1), mode="CMYK", quality=95)
        image = self.opened(self.make(source, "post"))
        self.assertEqual(image.mode, "CMYK")
        near = np.asarray(image.resize((90, 60)), np.int16)
        with Image.open(source.path) as original:
            wanted = np.asarray(original.resize((90, 60)), np.int16)
        self.assertLess(np.abs(near - wanted).mean(), 4)

    def test_a_heavy_profile_goes_and_the_colours_stay(self) -> None:
        # A wide gamut: the same numbers mean other colours, so losing it would show.
        wide = wide_profile(200_000)
        source = self.photo("JPEG", pixels=landscape(1800, 1200, 1), icc_profile=wide)
        made = self.make(source)
        image = self.opened(made)
        self.assertNotIn("icc_profile", image.info)
        seen = ImageCms.profileToProfile(
            Image.fromarray(self.pixels(source)),
            ImageCms.ImageCmsProfile(io.BytesIO(wide)),
            ImageCms.createProfile("sRGB"),
            outputMode="RGB",
        )
        assert seen is not None
        before = np.asarray(seen.resize((60, 40)), np.int16)
        self.assertLess(np.abs(before - np.asarray(image.resize((60, 40)), np.int16)).mean(), 3)
        kept = self.opened(self.make(source, "as-it-was"))
        self.assertEqual(kept.info["icc_profile"], wide)

    def test_chosen_extras_are_removed_and_listed(self) -> None:
        source = camera_photo(self.folder / "a.jpg")
        chosen = {ExtraKind.LOCATION, ExtraKind.METADATA, ExtraKind.CAMERA_DATA}
        preset = Preset(
            name="bare",
            title="",
            description="",
            treatment=Treatment(dropped_extras=frozenset(chosen)),
        )
        warnings = plan(weigh(source), preset).warnings
        self.assertEqual(len(warnings), 3)
        image = self.opened(self.make(source, preset))
        exif = image.getexif()
        self.assertFalse(exif.get_ifd(0x8825))
        self.assertNotIn(0x010E, exif)
        self.assertNotIn("comment", image.info)

    def test_resolution_follows_the_pixels(self) -> None:
        source = self.photo("JPEG", pixels=landscape(1800, 1200, 1), dpi=(600, 600))
        image = self.opened(self.make(source, "post"))
        self.assertAlmostEqual(image.info["dpi"][0], 600 * image.width / 1800, delta=1)

    def test_bitonal_on_request_has_one_bit(self) -> None:
        source = self.photo("JPEG", pixels=logbook(1240, 1754, 1))
        own = PictureTreatment(
            colour=ColourChange.BITONAL, bitonal_method=BitonalMethod.SAUVOLA, quality=80
        )
        pictures = dict.fromkeys(PictureClass, own)
        preset = Preset(name="", title="", description="", treatment=Treatment(pictures=pictures))
        sheet, out = weigh(source), self.folder / "copy"
        make_copy(source, sheet, plan(sheet, preset), out)
        with Image.open(out) as image:
            self.assertEqual(len(image.getcolors() or ()), 2)
        # The byte after the width and height is how many bits a sample has (RFC 2083, 4.1.1).
        self.assertEqual(out.read_bytes()[24], 1)

    def test_webp_becomes_lighter_as_jpeg_or_stays(self) -> None:
        source = self.photo("WEBP", pixels=landscape(2400, 1600, 1), quality=95)
        made = self.make(source, "post")
        self.assertIn(self.opened(made).format, ("JPEG", "WEBP"))
        self.assertLess(made.copy.bytes_after, made.copy.bytes_before)

    def test_one_can_be_replaced_or_exempted(self) -> None:
        source = self.photo("JPEG", pixels=landscape(1800, 1200, 1))
        other = save(self.folder / "other.png", photo_bytes("PNG", landscape(900, 600, 9)))
        exceptions = {"picture": PartException(replacement=other.path)}
        made = self.make(source, exceptions=exceptions)
        self.assertIs(made.copy.outcomes[0].action, Action.REPLACE)
        kept = self.make(source, exceptions={"picture": PartException(is_exempt=True)})
        self.assertIs(kept.copy.outcomes[0].action, Action.KEEP)


class Texts(PictureCase):
    """Texts of people stay in the copy, whatever kind of file it becomes."""

    def descriptions(self, made: OrderResult) -> list[str]:
        with self.opened(made) as image:
            if image.format == "JPEG":
                return [text.decode() for name, text in image.applist if name == "COM"]
            return [f"{keyword}: {text}" for keyword, text in image.text.items()]

    def test_texts_of_a_png_become_comments_of_a_jpeg(self) -> None:
        texts = PngImagePlugin.PngInfo()
        texts.add_text("Title", "Nets at dawn")
        texts.add_itxt("Author", "A. W\u00e4rden")
        texts.add_text("Comment", "in the north reed bed", zip=True)
        texts.add_text("Raw profile type iptc", "\niptc\n 2\n1c02")
        path = self.folder / "a.png"
        Image.fromarray(landscape(900, 600, 3)).save(path, pnginfo=texts)
        made = self.make(Source(path=path))
        expected = ["Title: Nets at dawn", "Author: A. W\u00e4rden", "in the north reed bed"]
        self.assertEqual(self.descriptions(made), expected)

    def test_texts_of_a_gif_become_those_of_a_png(self) -> None:
        path = self.folder / "a.gif"
        image = Image.fromarray(chart(600, 400, 3)).quantize(32)
        image.save(path, comment="Harrow F\u00e9n".encode())
        made = self.make(Source(path=path))
        self.assertEqual(self.descriptions(made), ["Comment: Harrow F\u00e9n"])

    def test_texts_go_by_choice_and_only_then(self) -> None:
        path = self.folder / "a.png"
        texts = PngImagePlugin.PngInfo()
        texts.add_text("Title", "Nets at dawn")
        Image.fromarray(landscape(900, 600, 3)).save(path, pnginfo=texts)
        desk = preset_named("reading-desk")
        treatment = replace(desk.treatment, dropped_extras=frozenset({ExtraKind.METADATA}))
        made = self.make(Source(path=path), replace(desk, treatment=treatment))
        self.assertEqual(self.descriptions(made), [])


class LongMetadata(PictureCase):
    """A segment of a JPEG holds 65,533 bytes (T.81, B.1.1.4); what is longer goes on or is said."""

    def test_image_resources_go_on_in_further_segments(self) -> None:
        resources = irb() + b"8BIM" + struct.pack(">HHI", 0x0BB7, 0, 110_000) + bytes(110_000)
        plain = photo_bytes("JPEG", quality=95)
        pieces = [
            segment(0xED, IPTC_MARK + resources[at : at + 60_000])
            for at in range(0, len(resources), 60_000)
        ]
        source = save(self.folder / "a.jpg", plain[:2] + b"".join(pieces) + plain[2:])
        made = self.make(source, preset="as-it-was")
        with self.opened(made) as image:
            kept = [text for name, text in image.applist if name == "APP13"]
        self.assertEqual(b"".join(text[len(IPTC_MARK) :] for text in kept), resources)

    def test_xmp_of_a_png_is_in_two_in_a_jpeg(self) -> None:
        words = "".join(f"<dc:k{number}>{'word ' * 30}</dc:k{number}>" for number in range(600))
        path = self.folder / "a.png"
        plain = photo_bytes("PNG", landscape(900, 600, 3))
        chunk = png_chunk(b"iTXt", b"XML:com.adobe.xmp\0\0\0\0\0" + xmp_packet(extra=words))
        path.write_bytes(plain[:33] + chunk + plain[33:])
        made = self.make(Source(path=path))
        with self.opened(made) as image:
            self.assertEqual(image.format, "JPEG")
            blocks = [text for name, text in image.applist if name == "APP1"]
        first = next(text for text in blocks if text.startswith(b"http://ns.adobe.com/xap/1.0/"))
        more = [text[35:] for text in blocks if b"/xmp/extension/" in text[:40]]
        content = b"".join(text[40:] for text in more)
        digest = hashlib.md5(content, usedforsecurity=False).hexdigest().upper().encode()
        self.assertIn(digest, first)
        self.assertTrue(all(text[:32] == digest for text in more))
        self.assertIn(b"Morning round", first)
        self.assertEqual(len(re.findall(rb"<dc:k\d+>", first + content)), 600)

    def test_exif_that_no_jpeg_can_hold_is_said_and_loses_nothing(self) -> None:
        exif = Image.Exif()
        exif[DESCRIPTION] = "x" * 90_000
        path = self.folder / "a.png"
        Image.fromarray(landscape(900, 600, 3)).save(path, exif=exif)
        before = path.read_bytes()
        with self.assertRaisesRegex(LimitExceededError, "a.png: its Exif data"):
            self.make(Source(path=path))
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual([path], list(self.folder.iterdir()))


class ToldSizes(PictureCase):
    def test_recorded_sizes_count_unless_they_are_those_of_a_stamp(self) -> None:
        pixels = landscape(2000, 1200, 5)
        for dots, cm in ((300, 2000 / 300 * 2.54), (72, 25), (1547, 25)):
            with self.subTest(dots=dots):
                facts = self.facts(self.photo("JPEG", pixels=pixels, dpi=(dots, dots)))
                shown = facts.placements[0].width_pt / 72 * 2.54
                self.assertAlmostEqual(shown, cm, delta=0.1)
                self.assertEqual(facts.has_assumed_size, cm == 25)


class LeftAlone(PictureCase):
    def test_moving_pictures_are_kept_with_a_reason(self) -> None:
        frames = [Image.fromarray(landscape(300, 200, seed)) for seed in range(3)]
        for kind in ("GIF", "WEBP", "PNG"):
            with self.subTest(kind=kind):
                out = self.folder / "moving"
                frames[0].save(out, kind, save_all=True, append_images=frames[1:])
                facts = self.facts(Source(path=out))
                self.assertIn("it moves", facts.untouchable)
                made = self.make(Source(path=out))
                self.assertIn("it moves", made.copy.reasons[0])
                if made.copy.path is not None:
                    self.assertEqual(getattr(self.opened(made), "n_frames", 1), 3)

    def test_inks_that_do_not_say_which_way_round_they_are(self) -> None:
        content = photo_bytes("JPEG", mode="CMYK")
        at = content.index(b"\xff\xee")
        length = int.from_bytes(content[at + 2 : at + 4], "big")
        source = save(self.folder / "a", content[:at] + content[at + 2 + length :])
        made = self.make(source)
        # Nobody decodes it; its coefficients can be packed tighter all the same.
        self.assertIn("every pixel kept", made.copy.outcomes[0].reason)


class BadInput(PictureCase):
    def test_bad_input_is_said_and_loses_nothing(self) -> None:
        jpeg, png = photo_bytes("JPEG"), photo_bytes("PNG")
        cases = {
            "cut.jpg": jpeg[: len(jpeg) // 2],
            "cut.png": png[: len(png) // 2],
            "cut.webp": photo_bytes("WEBP")[:500],
            "cut.gif": photo_bytes("GIF")[:500],
            "cut.bmp": photo_bytes("BMP")[:500],
            "head.jpg": jpeg[:4],
            "mark.png": png[:8],
        }
        for name, content in cases.items():
            with self.subTest(name=name):
                source = save(self.folder / name, content)
                with self.assertRaisesRegex(UnreadableFileError, name):
                    weigh(source)
                self.assertEqual(source.path.read_bytes(), content)

    def test_more_pixels_than_can_be_worked_on_are_refused_unread(self) -> None:
        header = (60_000).to_bytes(4, "big") * 2 + bytes((8, 2, 0, 0, 0))
        bomb = (
            b"\x89PNG\r\n\x1a\n"
            + png_chunk(b"IHDR", header)
            + png_chunk(b"IDAT", b"x")
            + png_chunk(b"IEND", b"")
        )
        with self.assertRaisesRegex(LimitExceededError, "60,000 x 60,000"):
            weigh(save(self.folder / "bomb.png", bomb))

    def test_a_wrong_ending_changes_nothing_but_the_name(self) -> None:
        made = self.make(save(self.folder / "photo.pdf", photo_bytes("JPEG", quality=95)))
        self.assertEqual(made.name, "photo-light.jpg")
        self.assertEqual(Path(made.name).suffix, ".jpg")


def wide_profile(size_bytes: int) -> bytes:
    """An RGB profile of wide primaries (as of Adobe RGB 1998), made heavy by a text tag."""
    from tests.core.formats.picture.profiles import rgb_profile

    return rgb_profile(padding=size_bytes)


class Heic(PictureCase):
    """ISO/IEC 23008-12, written by libheif's encoder, which the product has not."""

    def test_heic_becomes_a_jpeg_with_the_same_orientation_and_metadata(self) -> None:
        photo = Image.fromarray(landscape(600, 400, 3))
        source = heic(self.folder / "a.heic", photo, orientation=6)
        self.assertEqual(self.facts(source).coding, "HEIC")
        made = self.make(source)
        image = self.opened(made)
        self.assertEqual(image.format, "JPEG")
        self.assertEqual(made.copy.media_type, "image/jpeg")
        shown = ImageOps.exif_transpose(image)
        self.assertGreater(shown.height, shown.width)
        self.assertEqual(image.getexif().get_ifd(0x8769).get(0x9003), "2026:05:04 05:12:00")
        self.assertEqual(image.getexif()[DESCRIPTION], "Nets at the north reed bed")

    def test_truncated_and_damaged_heic_is_reported(self) -> None:
        source = heic(self.folder / "a.heic", Image.fromarray(landscape(300, 200, 3)))
        whole = source.path.read_bytes()
        for content in (whole[:100], whole[: len(whole) // 2], whole[:40] + bytes(600)):
            with self.subTest(len(content)), self.assertRaises(UnreadableFileError):
                weigh(save(self.folder / "hurt.heic", content))


class SeveralPictures(PictureCase):
    """Files that hold more than one picture keep them all, or stay as they are."""

    def test_the_second_picture_of_a_jpeg_stays_to_the_byte(self) -> None:
        """Written by Pillow, by CIPA DC-007."""
        first, second = (Image.fromarray(landscape(900, 600, seed)) for seed in (1, 2))
        path = self.folder / "two.jpg"
        first.save(path, "MPO", save_all=True, append_images=[second], quality=92)
        made = self.make(Source(path=path))
        assert made.copy.path is not None
        with Image.open(path) as before, Image.open(made.copy.path) as after:
            self.assertEqual((after.format, after.n_frames), ("MPO", 2))  # type: ignore[attr-defined]
            self.assertLess(made.copy.bytes_after, made.copy.bytes_before)
            for image in (before, after):
                image.seek(1)
            self.assertTrue(np.array_equal(np.asarray(before), np.asarray(after)))

    def test_a_lost_second_picture_is_seen(self) -> None:
        first, second = (Image.fromarray(landscape(900, 600, seed)) for seed in (1, 2))
        source = Source(path=self.folder / "two.jpg")
        first.save(source.path, "MPO", save_all=True, append_images=[second], quality=92)
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.jpg")
        assert copy.path is not None
        with Image.open(copy.path) as image:
            image.save(self.folder / "one.jpg", "JPEG", quality=92)
        proof = prove(source, Source(path=self.folder / "one.jpg"), sheet, copy.outcomes)
        self.assertIs(proof.verdict, Verdict.CHECK)
        self.assertIn("further pictures", proof.reasons[0])

    def test_heic_with_several_pictures_stays_as_it_is_and_says_so(self) -> None:
        import pillow_heif

        pictures = [Image.fromarray(landscape(300, 200, seed)) for seed in (1, 2)]
        burst = pillow_heif.from_pillow(pictures[0])
        burst.add_from_pillow(pictures[1])
        path = self.folder / "burst.heic"
        burst.save(str(path))
        made = self.make(Source(path=path))
        self.assertIsNone(made.copy.path)
        self.assertIn("it holds 2 pictures", " ".join(made.copy.reasons))

    def test_inks_become_grey_by_what_they_look_like(self) -> None:
        """A JPEG of inks stores them turned round, as its APP14 mark says."""
        photo = Image.fromarray(landscape(600, 400, 3))
        path = self.folder / "inks.jpg"
        photo.convert("CMYK").save(path, "JPEG", quality=92)
        preset = Preset(
            name="grey",
            title="Grey",
            description="",
            treatment=Treatment(
                pictures={
                    one: PictureTreatment(quality=85, colour=ColourChange.GREY)
                    for one in PictureClass
                }
            ),
        )
        made = self.make(Source(path=path), preset)
        grey = np.asarray(self.opened(made).convert("L"), np.float64)
        self.assertLess(abs(grey.mean() - np.asarray(photo.convert("L")).mean()), 12)
