"""Copies of PDFs: lighter, the same to read, the same every time; the original untouched."""

import hashlib
import io
import subprocess
import zlib
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdf
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from lighten import (
    PRESETS,
    Action,
    Copy,
    LightenError,
    Proof,
    Source,
    Verdict,
    make_copy,
    make_proved_copy,
    plan,
    preset_named,
    weigh,
)
from lighten.model.errors import SignedFileError, WrongDecisionError
from tests.builders import FolderCase, PdfBuilder, Show, as_jpeg, chart, landscape
from tests.core.formats.pdf.samples import PHOTO, report, signed

DESK = preset_named("Reading desk")


class CopyCase(FolderCase):
    def lighten(self, source: Source, preset: str = "reading-desk") -> tuple[Copy, Proof | None]:
        sheet = weigh(source)
        out = self.folder / f"{source.path.stem}-{preset}-light.pdf"
        return make_proved_copy(source, sheet, plan(sheet, preset_named(preset)), out)

    def pictures(self, path: Path) -> list[pikepdf.Object]:
        pdf = pikepdf.open(path)
        self.addCleanup(pdf.close)
        return [
            picture
            for page in pdf.pages
            for picture in page.obj.Resources.get("/XObject", {}).values()
        ]


class TheCopy(CopyCase):
    def test_the_copy_is_lighter_and_its_pictures_are_at_150_ppi(self) -> None:
        copy, proof = self.lighten(report(self.folder / "a.pdf"))
        assert copy.path is not None and proof is not None
        self.assertLess(copy.path.stat().st_size, copy.bytes_before * 0.5)
        self.assertIn(proof.verdict, (Verdict.SAME, Verdict.CLOSE))
        with pikepdf.open(copy.path) as pdf:
            # 216 pt are 3 in: 450 px at 150 ppi.
            self.assertEqual(pdf.pages[0].obj.Resources.XObject["/Photo"].Width, 450)
            soft = pdf.pages[1].obj.Resources.XObject["/Soft"]
            self.assertEqual((soft.Width, soft.SMask.Width), (450, 450))

    def test_the_copy_reads_the_same_in_poppler_and_another_reader(self) -> None:
        source = report(self.folder / "a.pdf")
        copy, _ = self.lighten(source)
        assert copy.path is not None
        texts = [
            subprocess.run(["pdftotext", path, "-"], capture_output=True, check=True).stdout
            for path in (source.path, copy.path)
        ]
        self.assertEqual(*texts)
        self.assertIn(b"forty reed warblers", texts[0])
        reader = pypdf.PdfReader(copy.path)
        self.assertEqual(len(reader.pages), 2)
        self.assertEqual(reader.outline[0].title, "Second")
        self.assertEqual(reader.metadata.title if reader.metadata else "", "Season report")
        link = reader.pages[0]["/Annots"][0].get_object()
        self.assertEqual(link["/A"]["/URI"], "https://records.example/")

    def test_the_copy_is_sound_to_a_second_tool(self) -> None:
        for preset in PRESETS:
            copy, _ = self.lighten(report(self.folder / "a.pdf"), preset.name)
            command = ["qpdf", "--check", str(copy.path)]
            ran = subprocess.run(command, capture_output=True, text=True, check=False)
            self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)

    def test_the_copy_is_the_same_every_time(self) -> None:
        source = report(self.folder / "a.pdf")
        sheet = weigh(source)
        chosen = plan(sheet, DESK)
        copies = [make_copy(source, sheet, chosen, self.folder / f"{n}.pdf").path for n in range(2)]
        self.assertEqual(*(path.read_bytes() for path in copies if path))

    def test_the_copy_leaves_the_original_as_it_was(self) -> None:
        source = report(self.folder / "a.pdf")
        before = hashlib.sha256(source.path.read_bytes()).hexdigest()
        stamp = source.path.stat().st_mtime_ns
        source.path.chmod(0o444)
        self.lighten(source)
        self.assertEqual(hashlib.sha256(source.path.read_bytes()).hexdigest(), before)
        self.assertEqual(source.path.stat().st_mtime_ns, stamp)

    def test_the_copy_leaves_nothing_else_behind(self) -> None:
        self.lighten(report(self.folder / "a.pdf"))
        self.assertEqual(len(list(self.folder.iterdir())), 2)

    def test_never_takes_the_place_of_a_file(self) -> None:
        source = report(self.folder / "a.pdf")
        sheet = weigh(source)
        with self.assertRaises(FileExistsError):
            make_proved_copy(source, sheet, plan(sheet, DESK), source.path)

    def test_the_copy_without_loss_has_the_same_pixels(self) -> None:
        source = report(self.folder / "a.pdf")
        copy, proof = self.lighten(source, "as-it-was")
        assert copy.path is not None and proof is not None
        self.assertIs(proof.verdict, Verdict.SAME)
        for before, after in zip(self.pictures(source.path), self.pictures(copy.path), strict=True):
            one, other = (
                np.asarray(pikepdf.PdfImage(p).as_pil_image().convert("RGB"))
                for p in (before, after)
            )
            np.testing.assert_array_equal(one, other)

    def test_the_copy_of_a_lighter_copy_is_not_made(self) -> None:
        copy, _ = self.lighten(report(self.folder / "a.pdf"), "as-it-was")
        assert copy.path is not None
        again, proof = self.lighten(Source(path=copy.path), "as-it-was")
        self.assertIsNone(again.path)
        self.assertIsNone(proof)
        self.assertIn("not be lighter", again.reasons[-1])

    def test_the_copy_keeps_its_password(self) -> None:
        lock = pikepdf.Encryption(owner="owner", user="reed", R=6)
        source = replace(report(self.folder / "a.pdf", encryption=lock), password="reed")
        copy, _ = self.lighten(source)
        assert copy.path is not None
        with self.assertRaises(pikepdf.PasswordError):
            pikepdf.open(copy.path)
        self.assertEqual(len(pikepdf.open(copy.path, password="reed").pages), 2)

    @settings(max_examples=10, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(
        st.lists(
            st.tuples(
                st.integers(8, 500),
                st.integers(8, 500),
                st.sampled_from(["jpeg", "flate", "chart"]),
            ),
            min_size=1,
            max_size=4,
        ),
        st.sampled_from([preset.name for preset in PRESETS]),
    )
    def test_the_copy_is_never_heavier_in_any_part(
        self, shapes: list[tuple[int, int, str]], preset: str
    ) -> None:
        builder = PdfBuilder()
        for number, (width, height, kind) in enumerate(shapes):
            pixels = (chart if kind == "chart" else landscape)(width, height, number)
            (builder.jpeg if kind == "jpeg" else builder.flate)(f"P{number}", pixels)
            builder.page(Show(f"P{number}", (90, 0, 0, 90, 50, 50)))
        path = self.folder / "any.pdf"
        source = Source(path=builder.save(path))
        before = path.read_bytes()
        for old in self.folder.glob("*-light.pdf"):
            old.unlink()
        copy, proof = self.lighten(source, preset)
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual(copy.path is None, proof is None)
        self.assertLessEqual(copy.bytes_after, copy.bytes_before)
        for outcome in copy.outcomes:
            if outcome.part_id.startswith("picture"):
                self.assertLessEqual(outcome.bytes_after, outcome.bytes_before)


class Pictures(CopyCase):
    def one(self, **stream: object) -> tuple[Copy, pikepdf.Object]:
        """A copy of a page with one picture, and that picture."""
        builder = PdfBuilder()
        builder.stream("A", **stream)  # type: ignore[arg-type]
        builder.page(Show("A", (144, 0, 0, 96, 72, 72)))
        copy, _ = self.lighten(Source(path=builder.save(self.folder / "one.pdf")))
        return copy, self.pictures(copy.path or self.folder / "one.pdf")[0]

    def test_pictures_in_jpeg_2000_become_jpeg_where_that_is_lighter(self) -> None:
        coded = io.BytesIO()
        Image.fromarray(PHOTO).save(coded, "JPEG2000", irreversible=False)
        _, picture = self.one(data=coded.getvalue(), size=(900, 600), Filter=pikepdf.Name.JPXDecode)
        self.assertEqual((picture.Filter, picture.ColorSpace), ("/DCTDecode", "/DeviceRGB"))

    def test_pictures_with_opacity_inside_jpeg_2000_get_it_as_a_mask(self) -> None:
        """Its edge is where the picture's coding has it.

        Half-opaque pixels go back to the original: readers disagree on them (pdfium applies the
        opacity twice, poppler not at all), so that no copy looks the same everywhere.
        """
        opacity = np.where(np.hypot(*np.mgrid[-300:300, -450:450]) < 280, 255, 0).astype(np.uint8)
        coded = io.BytesIO()
        whole = np.dstack([PHOTO, opacity])
        Image.fromarray(whole).save(coded, "JPEG2000", irreversible=True, quality_layers=[8])
        _, picture = self.one(
            data=coded.getvalue(), size=(900, 600), Filter=pikepdf.Name.JPXDecode, SMaskInData=1
        )
        self.assertNotIn("/SMaskInData", picture)
        mask = pikepdf.PdfImage(picture.SMask).as_pil_image()
        expected = Image.fromarray(opacity).resize(mask.size, Image.Resampling.LANCZOS)
        difference = np.abs(np.asarray(mask, int) - np.asarray(expected, int))
        self.assertLess(difference.mean(), 1)

    def test_pictures_keep_their_profile(self) -> None:
        builder = PdfBuilder()
        profile = builder.pdf.make_stream(b"a profile, as far as this test goes", N=3)
        space = pikepdf.Array([pikepdf.Name.ICCBased, profile])
        builder.stream(
            "A", as_jpeg(PHOTO), size=(900, 600), Filter=pikepdf.Name.DCTDecode, ColorSpace=space
        )
        builder.page(Show("A", (144, 0, 0, 96, 72, 72)))
        copy, _ = self.lighten(Source(path=builder.save(self.folder / "a.pdf")))
        assert copy.path is not None
        with pikepdf.open(copy.path) as pdf:
            kept = pdf.pages[0].obj.Resources.XObject["/A"].ColorSpace
            self.assertEqual(kept[0], "/ICCBased")
            self.assertEqual(kept[1].read_bytes(), b"a profile, as far as this test goes")

    def test_pictures_of_few_colours_keep_them_exactly(self) -> None:
        pixels = chart(600, 400, 2)
        data = zlib.compress(pixels.tobytes(), 1)
        _, picture = self.one(
            data=data,
            size=(600, 400),
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.DeviceRGB,
        )
        self.assertEqual(picture.ColorSpace[0], "/Indexed")
        again = np.asarray(pikepdf.PdfImage(picture).as_pil_image().convert("RGB"))
        np.testing.assert_array_equal(again, pixels)

    def test_pictures_without_colour_become_grey_and_say_so(self) -> None:
        grey = np.stack([landscape(900, 600, 8)[..., 0]] * 3, axis=2)
        copy, picture = self.one(
            data=zlib.compress(grey.tobytes()),
            size=(900, 600),
            Filter=pikepdf.Name.FlateDecode,
            ColorSpace=pikepdf.Name.DeviceRGB,
        )
        self.assertEqual(picture.ColorSpace, "/DeviceGray")
        self.assertTrue(any("no colour in it" in outcome.reason for outcome in copy.outcomes))

    def test_pictures_that_are_not_understood_stay_with_their_reason(self) -> None:
        cases = {
            "Pattern": {"ColorSpace": pikepdf.Name.Pattern},
            "blended": {
                "ColorSpace": pikepdf.Name.DeviceRGB,
                "SMaskInData": 2,
                "Filter": pikepdf.Name.JPXDecode,
            },
            "5 bits": {"ColorSpace": pikepdf.Name.DeviceRGB, "bits": 5},
        }
        data = zlib.compress(np.random.default_rng(0).bytes(600 * 600 * 4))
        for word, entries in cases.items():
            with self.subTest(word=word):
                builder = PdfBuilder().jpeg("B", PHOTO)
                whole = {"Filter": pikepdf.Name.FlateDecode, **entries}
                builder.stream("A", data, size=(600, 600), **whole)
                builder.page(Show("A", (72, 0, 0, 72, 0, 0)), Show("B", (72, 0, 0, 72, 200, 200)))
                source = Source(path=builder.save(self.folder / f"{word}.pdf"))
                copy, _ = self.lighten(source)
                assert copy.path is not None
                with pikepdf.open(copy.path) as pdf:
                    kept = pdf.pages[0].obj.Resources.XObject["/A"]
                    self.assertEqual(kept.read_raw_bytes(), data)
                kept = [o for o in copy.outcomes if o.action is Action.KEEP]
                self.assertTrue(any(word in outcome.reason for outcome in kept))

    def test_cut_short_stay_and_the_others_are_done(self) -> None:
        builder = PdfBuilder().jpeg("B", PHOTO)
        cut = as_jpeg(PHOTO)[:20_000]
        builder.stream(
            "A",
            cut,
            size=(900, 600),
            Filter=pikepdf.Name.DCTDecode,
            ColorSpace=pikepdf.Name.DeviceRGB,
        )
        builder.page(Show("A", (144, 0, 0, 96, 0, 0)), Show("B", (144, 0, 0, 96, 0, 300)))
        copy, _ = self.lighten(Source(path=builder.save(self.folder / "a.pdf")))
        assert copy.path is not None
        actions = sorted(o.action for o in copy.outcomes if o.part_id.startswith("picture"))
        self.assertEqual(actions, [Action.KEEP, Action.RESAMPLE])
        with pikepdf.open(copy.path) as pdf:
            self.assertEqual(pdf.pages[0].obj.Resources.XObject["/A"].read_raw_bytes(), cut)


class OtherColours(CopyCase):
    def drawn_by_poppler(self, path: Path) -> NDArray[np.float32]:
        """The first page at 72 dpi, as poppler shows it."""
        command = ["pdftoppm", "-r", "72", "-f", "1", "-l", "1", str(path)]
        ppm = subprocess.run(command, capture_output=True, check=True).stdout
        with Image.open(io.BytesIO(ppm)) as image:
            return np.asarray(image.convert("RGB"), np.float32)

    def check(self, coding: str, pixels: NDArray[np.uint8], **entries: Any) -> pikepdf.Object:
        """Lighten a page with that picture; it must look the same to poppler."""
        data = zlib.compress(pixels.tobytes())
        if coding == "DCTDecode":
            inks = Image.frombytes("CMYK", (900, 600), pixels.tobytes())
            coded = io.BytesIO()
            inks.save(coded, "JPEG", quality=95)
            data = coded.getvalue()
        builder = PdfBuilder().stream(
            "A", data, size=(900, 600), Filter=pikepdf.Name(f"/{coding}"), **entries
        )
        builder.page(Show("A", (216, 0, 0, 144, 72, 400)))
        source = Source(path=builder.save(self.folder / f"{coding}.pdf"))
        copy, proof = self.lighten(source)
        assert copy.path is not None and proof is not None
        self.assertIsNot(proof.verdict, Verdict.CHECK, proof.reasons)
        one, other = (self.drawn_by_poppler(path) for path in (source.path, copy.path))
        self.assertLess(np.abs(one - other).mean(), 1.5)
        self.assertEqual(self.pictures(copy.path)[0].Width, 450)
        return self.pictures(copy.path)[0]

    def test_inks_stay_inks_and_look_the_same_in_poppler(self) -> None:
        inks = np.dstack([PHOTO, PHOTO[..., 0] // 3])
        for coding in ("FlateDecode", "DCTDecode"):
            with self.subTest(coding=coding):
                picture = self.check(coding, inks, ColorSpace=pikepdf.Name.DeviceCMYK)
                self.assertEqual(picture.ColorSpace, "/DeviceCMYK")

    def test_turned_round_inks_stay_turned_round(self) -> None:
        inks = np.dstack([PHOTO, PHOTO[..., 0] // 3])
        turned = [1, 0, 1, 0, 1, 0, 1, 0]
        picture = self.check("DCTDecode", inks, ColorSpace=pikepdf.Name.DeviceCMYK, Decode=turned)
        self.assertEqual([int(end) for end in picture.Decode], turned)

    def test_a_decode_array_goes_on_counting(self) -> None:
        grey = np.ascontiguousarray(PHOTO[..., 0])
        space = pikepdf.Name.DeviceGray
        picture = self.check("FlateDecode", grey, ColorSpace=space, Decode=[0.9, 0.1])
        self.assertEqual([float(end) for end in picture.Decode], [0.9, 0.1])

    def test_sixteen_bits_become_eight_where_loss_is_allowed(self) -> None:
        deep = np.ascontiguousarray(PHOTO.astype(">u2") * 257).view(np.uint8)
        picture = self.check("FlateDecode", deep, ColorSpace=pikepdf.Name.DeviceRGB, bits=16)
        self.assertEqual(picture.BitsPerComponent, 8)


class Refusals(CopyCase):
    def test_refusals_of_signed_files_unless_allowed(self) -> None:
        source = signed(self.folder / "a.pdf")
        with self.assertRaisesRegex(SignedFileError, "a.pdf: it is signed"):
            self.lighten(source)
        self.assertEqual(len(list(self.folder.iterdir())), 1)
        sheet = weigh(source)
        allowed = plan(sheet, DESK, may_end_signature=True)
        copy, _ = make_proved_copy(source, sheet, allowed, self.folder / "b.pdf")
        self.assertIsNotNone(copy.path)

    def test_refusals_of_a_plan_for_another_file(self) -> None:
        source, other = report(self.folder / "a.pdf"), signed(self.folder / "b.pdf")
        sheet = weigh(source)
        with self.assertRaises(WrongDecisionError):
            make_copy(other, sheet, plan(sheet, DESK), self.folder / "c.pdf")

    def test_refusals_are_all_of_one_family(self) -> None:
        self.assertTrue(issubclass(SignedFileError, LightenError))
