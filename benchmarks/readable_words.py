"""Compare the words that tesseract reads in made pictures before and after a preset.

`python -m benchmarks.readable_words [--first N] [--pictures N] [--presets NAME...]` prints one line
a copy and the table of docs/proof.md. Each picture has words of one size (6 to 20 px) on plain,
dark or grey ground or on a photo, and stands in a text document at 6 to 10 cm. A copy that is
called same or close while fewer than nine of ten words read before are read again is a miss. Words
count that are read in the original both as it is and with noise of two levels, which nobody sees,
and pictures of whose words half are read so: of the smallest letters on photos, tesseract loses
half to such noise alone, which says nothing about copies.
"""

import argparse
import collections
import functools
import io
import os
import random
import re
import subprocess
import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import docx
import numpy as np
import reportlab
import skimage
from docx.shared import Cm
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from lighten import Source, Verdict, make_proved_copy, plan, preset_named, weigh

__all__ = ["Reading", "lettered_picture", "readings_of"]

_FONTS = Path(reportlab.__file__).parent / "fonts"
_FACES = ("Vera.ttf", "Vera.ttf", "VeraBd.ttf", "VeraIt.ttf")
_PHOTOS = Path(skimage.__file__).parent / "data"
_SHOWN_PHOTOS = ("rocket.jpg", "chelsea.png", "coffee.png", "astronaut.png")
_GROUNDS = ("plain", "plain", "dark", "grey", "photo")
_SIZES_PX = (6, 7, 8, 9, 10, 11, 12, 13, 14, 16, 18, 20)
_WIDTH, _HEIGHT = 760, 500
_WIDTHS_CM = (6, 8, 10)
_TEXT = Path(__file__).resolve().parent.parent / "docs" / "architecture.md"
# The share of the words read before that must be read again; and of the words drawn that must be
# read before, as nothing is judged otherwise.
_ENOUGH = 0.9
_READABLE = 0.5


@dataclass(frozen=True, slots=True)
class Reading:
    """Words of one picture read before and after, with the verdict of its copy.

    share: of the words read before, those read again; None where fewer than half were read before.
    """

    picture: str
    preset: str
    verdict: Verdict
    reason: str
    share: float | None

    @property
    def is_miss(self) -> bool:
        passed = self.verdict is not Verdict.CHECK
        return passed and self.share is not None and self.share < _ENOUGH


def lettered_picture(seed: int) -> tuple[str, Image.Image, int]:
    """Draw words of one size on one ground; return a name, the picture and the number of words."""
    chance = random.Random(seed)
    size, ground = chance.choice(_SIZES_PX), chance.choice(_GROUNDS)
    font = ImageFont.truetype(_FONTS / chance.choice(_FACES), size)
    picture, ink = _photo(chance) if ground == "photo" else _plain(chance, ground)
    drawing, drawn = ImageDraw.Draw(picture), 0
    step = int(size * 1.5) + 1
    for top in range(14, _HEIGHT - step - 8, step):
        left = 14.0
        while left + drawing.textlength(word := chance.choice(_words()), font) < _WIDTH - 14:
            drawing.text((left, top), word, ink, font)
            left += drawing.textlength(word, font) + size * 0.35 + 2
            drawn += 1
    return f"{seed}: {size} px, {ground}", picture, drawn


def readings_of(seed: int, presets: Iterable[str]) -> list[Reading]:
    """Make copies of a document with one lettered picture and read the picture in each."""
    name, picture, drawn = lettered_picture(seed)
    data = io.BytesIO()
    if seed % 3:
        picture.save(data, "PNG")
    else:
        picture.save(data, "JPEG", quality=92)
    true = _read(data.getvalue()) & _read(_with_noise(picture)) & _any_number_of_words()
    found = []
    with tempfile.TemporaryDirectory() as folder:
        source = Source(path=Path(folder) / "lettered.docx")
        document = docx.Document()
        data.seek(0)
        document.add_picture(data, width=Cm(random.Random(seed).choice(_WIDTHS_CM)))
        document.save(str(source.path))
        sheet = weigh(source)
        for preset in presets:
            path = Path(folder) / f"{preset}.docx"
            copy, proof = make_proved_copy(source, sheet, plan(sheet, preset_named(preset)), path)
            assert proof is not None
            reason = next((o.reason for o in copy.outcomes if "#" in o.part_id), "")
            again = _read(_picture_within(copy.path or source.path))
            count = sum(true.values())
            share = sum((true & again).values()) / count if count > _READABLE * drawn else None
            found.append(Reading(name, preset, proof.verdict, reason, share))
    return found


def _plain(chance: random.Random, ground: str) -> tuple[Image.Image, tuple[int, ...]]:
    if ground == "dark":
        paper, ink = chance.randint(10, 50), chance.randint(180, 255)
    else:
        paper = 255 if ground == "plain" else chance.randint(190, 235)
        ink = chance.randint(0, 90)
    return Image.new("RGB", (_WIDTH, _HEIGHT), (paper,) * 3), (ink,) * 3


def _photo(chance: random.Random) -> tuple[Image.Image, tuple[int, ...]]:
    """A photo, sharp or blurred, under a panel or not; words in black or white on it."""
    photo = Image.open(_PHOTOS / chance.choice(_SHOWN_PHOTOS)).convert("RGB")
    photo = photo.resize((_WIDTH, _HEIGHT)).filter(ImageFilter.GaussianBlur(chance.choice((0, 2))))
    is_dark = float(np.asarray(photo.convert("L")).mean()) < 110
    if chance.random() < 0.5:
        panel = Image.new("RGB", photo.size, (20, 20, 30) if is_dark else (250, 250, 250))
        photo = Image.blend(photo, panel, 0.7)
    return photo, (255,) * 3 if is_dark else (0,) * 3


@functools.cache
def _words() -> tuple[str, ...]:
    words = re.findall(r"(?<![\w`/.])[A-Za-z]{3,10}(?![\w`/.])", _TEXT.read_text())
    return tuple(dict.fromkeys(words))


def _any_number_of_words() -> collections.Counter[str]:
    return collections.Counter(dict.fromkeys(_words(), 1_000))


def _with_noise(picture: Image.Image) -> bytes:
    pixels = np.asarray(picture).astype(np.int16)
    pixels += np.random.default_rng(0).integers(-2, 3, pixels.shape, np.int16)
    data = io.BytesIO()
    Image.fromarray(pixels.clip(0, 255).astype(np.uint8)).save(data, "PNG")
    return data.getvalue()


def _read(picture: bytes) -> collections.Counter[str]:
    """Read a picture's words by tesseract, as one block of text."""
    # Tesseract reads files, not all kinds of pictures; no resolution in it changes the reading.
    pixels = io.BytesIO()
    Image.open(io.BytesIO(picture)).convert("RGB").save(pixels, "PNG")
    command = ["tesseract", "-", "-", "--psm", "6", "quiet"]
    limits = {**os.environ, "OMP_THREAD_LIMIT": "1"}
    ran = subprocess.run(
        command, input=pixels.getvalue(), capture_output=True, check=True, env=limits
    )
    return collections.Counter(re.findall(r"[A-Za-z]{3,}", ran.stdout.decode(errors="replace")))


def _picture_within(path: Path) -> bytes:
    with zipfile.ZipFile(path) as package:
        return package.read(next(name for name in package.namelist() if "media" in name))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--pictures", type=int, default=200)
    parser.add_argument("--presets", nargs="+", default=["reading-desk", "post", "feather"])
    options = parser.parse_args()
    seeds = range(options.first, options.first + options.pictures)
    with ProcessPoolExecutor() as workers:
        read = functools.partial(readings_of, presets=options.presets)
        found = list(_printed(workers.map(read, seeds)))
    for preset in options.presets:
        of_preset = [reading for reading in found if reading.preset == preset]
        judged = [reading for reading in of_preset if reading.share is not None]
        passed = [reading for reading in judged if reading.verdict is not Verdict.CHECK]
        misses = sum(reading.is_miss for reading in judged)
        print(f"{preset}: {len(judged)} judged, {len(passed)} same or close, {misses} missed")


def _printed(several: Iterable[list[Reading]]) -> Iterator[Reading]:
    for readings in several:
        for reading in readings:
            share = "-" if reading.share is None else f"{reading.share:.2f}"
            flag = "MISS" if reading.is_miss else ""
            words = (reading.picture, reading.preset, reading.verdict, share, flag, reading.reason)
            print(*words, sep="  ", flush=True)
            yield reading


if __name__ == "__main__":
    main()
