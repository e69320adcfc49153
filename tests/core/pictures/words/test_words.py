"""Small print in pictures stays readable, whatever resolution was asked for."""

import io
import shutil
import subprocess
import zipfile
from pathlib import Path
from unittest import TestCase, skipUnless

import docx
import numpy as np
import reportlab
from docx.shared import Cm
from PIL import Image, ImageDraw, ImageFont
from skimage import data

from lighten import (
    Copy,
    Proof,
    Source,
    Verdict,
    make_proved_copy,
    plan,
    preset_named,
    weigh,
)
from lighten.pictures.pixels.planes import luma
from lighten.pictures.words.find_words import find_words
from lighten.pictures.words.legibility import lost_words
from tests.builders import FolderCase

# A free font that the registry package reportlab carries.
_FONT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
_LINES = (
    "reed warbler ringed at dawn net four",
    "wing and weight taken before release",
    "station hide closed while water stands",
    "harrier passed over sedge after rain",
)


def lettered(letters_px: int = 13, on: Image.Image | None = None) -> Image.Image:
    """Lines of dark words on a white ground with a little colour, or on a picture."""
    picture = on or Image.new("RGB", (420, 220), (252, 250, 244))
    pen = ImageDraw.Draw(picture)
    font = ImageFont.truetype(_FONT, letters_px)
    for number in range(10):
        pen.text((12, 10 + number * 20), _LINES[number % 4], font=font, fill=(30, 34, 60))
    return picture


def pale_photo() -> Image.Image:
    photo = Image.fromarray(data.chelsea()).resize((420, 220))
    return Image.blend(photo, Image.new("RGB", photo.size, "white"), 0.7)


def read_by_tesseract(picture: Image.Image) -> set[str]:
    """Words as an independent reader sees them, enlarged as it asks for."""
    file = io.BytesIO()
    picture.convert("L").resize((picture.width * 3, picture.height * 3)).save(file, "PNG")
    command = ["tesseract", "-", "-", "--psm", "6", "quiet"]
    ran = subprocess.run(command, input=file.getvalue(), capture_output=True, check=True)
    return set(ran.stdout.decode().split())


class InDocuments(FolderCase):
    def lighten(self, preset: str, *, coarse: bool = False) -> tuple[Copy, Proof]:
        file = io.BytesIO()
        lettered(on=pale_photo() if coarse else None).save(file, "BMP")
        document = docx.Document()
        document.add_picture(file, width=Cm(4))
        path = self.folder / "a.docx"
        document.save(str(path))
        source = Source(path=path)
        sheet = weigh(source)
        wanted = plan(sheet, preset_named(preset), may_blur_text=coarse)
        copy, proof = make_proved_copy(source, sheet, wanted, self.folder / "b.docx")
        assert proof is not None, copy.reasons
        return copy, proof

    def picture_of(self, copy: Copy) -> Image.Image:
        assert copy.path is not None
        with zipfile.ZipFile(copy.path) as package:
            name = next(one for one in package.namelist() if one.startswith("word/media/"))
            return Image.open(io.BytesIO(package.read(name))).convert("RGB")

    @skipUnless(shutil.which("tesseract"), "tesseract is not installed")
    def test_small_print_is_still_read_under_every_preset(self) -> None:
        wanted = {word for line in _LINES for word in line.split() if len(word) > 3}
        self.assertGreater(len(wanted & read_by_tesseract(lettered())), 0.9 * len(wanted))
        for preset in ("reading-desk", "post", "feather"):
            with self.subTest(preset):
                (self.folder / "b.docx").unlink(missing_ok=True)
                copy, proof = self.lighten(preset)
                self.assertIsNot(proof.verdict, Verdict.CHECK)
                read = read_by_tesseract(self.picture_of(copy))
                self.assertGreater(len(wanted & read), 0.85 * len(wanted))

    def test_a_smaller_readable_size_can_be_asked_for_and_its_cost_is_named(self) -> None:
        copy, proof = self.lighten("feather", coarse=True)
        self.assertLess(self.picture_of(copy).width, 200)
        picture = next(outcome for outcome in copy.outcomes if outcome.size_px)
        self.assertTrue(picture.may_lose_words)
        self.assertIn("can no longer be read", " ".join((*proof.reasons, *proof.remarks)))


class Words(TestCase):
    def test_words_are_not_seen_in_photos(self) -> None:
        """Open photos that the registry package scikit-image carries."""
        for photo in (data.astronaut(), data.chelsea(), data.coffee(), data.rocket()):
            self.assertEqual(find_words(luma(photo[..., :3])), [])

    def test_words_are_found_on_plain_ground_and_on_photos(self) -> None:
        for on in (None, pale_photo()):
            self.assertGreater(len(find_words(luma(np.asarray(lettered(on=on))))), 10)

    def test_words_are_lost_where_their_letters_have_three_pixels(self) -> None:
        picture = lettered()
        few = picture.resize((picture.width // 3, picture.height // 3), Image.Resampling.LANCZOS)
        lost, count = lost_words(luma(np.asarray(picture)), np.asarray(few))
        self.assertGreater(len(lost), 0.9 * count)

    def test_words_are_kept_where_every_pixel_is(self) -> None:
        picture = np.asarray(lettered())
        self.assertEqual(lost_words(luma(picture), picture.copy()), ([], 0))

    def test_a_single_word_can_be_lost(self) -> None:
        picture = Image.new("RGB", (420, 220), (252, 250, 244))
        font = ImageFont.truetype(_FONT, 13)
        ImageDraw.Draw(picture).text((40, 60), "Reference 40718", font=font, fill=(30, 34, 60))
        few = picture.resize((140, 73), Image.Resampling.LANCZOS)
        lost, count = lost_words(luma(np.asarray(picture)), np.asarray(few))
        self.assertTrue(lost)
        self.assertEqual(len(lost), count)
