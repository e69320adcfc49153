"""Rate of right picture classes: `python -m benchmarks.picture_classes`.

`[--pages FILE...] [--photos FILE...] [--drawings FILE...]` adds pictures of your own. Prints the
tables of docs/picture-classes.md: of pictures that cover their page, and of the same by themselves.
Made here: pages set in a free font and scanned by code, plain, darkened unevenly, and yellowed;
charts; screens with small text; scenes; and the photos that scikit-image carries.
"""

import argparse
import collections
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from skimage import data

from benchmarks.planted_faults import FONTS, scanned, set_page
from demo.scenery import chart, landscape
from lighten.model.kinds import PictureClass
from lighten.pictures.pixels.classify import classify, classify_alone

_PAGES, _CHARTS, _SCREENS, _SCENES = 12, 10, 10, 10
_PHOTOS = (
    "astronaut",
    "coffee",
    "chelsea",
    "rocket",
    "hubble_deep_field",
    "retina",
    "brick",
    "grass",
    "gravel",
    "immunohistochemistry",
    "camera",
)
_CLASSES = (PictureClass.PAGE_SCAN, PictureClass.PHOTO, PictureClass.GRAPHIC)
# As much as weighing looks at.
_LONGEST_PX = 1400

Labelled = tuple[PictureClass, str, np.ndarray]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    for name in ("pages", "photos", "drawings"):
        parser.add_argument(f"--{name}", type=Path, nargs="*", default=[])
    options = parser.parse_args()
    labelled = [
        *made_pages(),
        *made_drawings(),
        *made_photos(),
        *_read(options.pages, PictureClass.PAGE_SCAN),
        *_read(options.photos, PictureClass.PHOTO),
        *_read(options.drawings, PictureClass.GRAPHIC),
    ]
    print(f"{len(labelled)} pictures\n")
    _print_table("covering their page", labelled, is_page=True)
    _print_table("by themselves", labelled, is_page=False)


def made_pages() -> Iterator[Labelled]:
    for seed in range(_PAGES):
        page = scanned(set_page(seed)[0], seed).pixels
        height, width = page.shape[:2]
        shade = np.linspace(0.45, 0.95, width)[None, :, None]
        shade = shade * np.linspace(1, 0.75, height)[:, None, None]
        yellow = np.array([0.92, 0.84, 0.62])
        yield PictureClass.PAGE_SCAN, f"page {seed}", page
        yield PictureClass.PAGE_SCAN, f"dark page {seed}", (page * shade).astype(np.uint8)
        yield PictureClass.PAGE_SCAN, f"yellow page {seed}", (page * yellow).astype(np.uint8)


def made_drawings() -> Iterator[Labelled]:
    for seed in range(_CHARTS):
        yield PictureClass.GRAPHIC, f"chart {seed}", chart(900, 600, seed)
    font = ImageFont.truetype(FONTS / "Vera.ttf", 12)
    for seed in range(_SCREENS):
        rng = np.random.default_rng(seed)
        ground, bar, side = (
            tuple(rng.integers(low, high, 3).tolist())
            for low, high in ((225, 255), (20, 140), (180, 225))
        )
        screen = Image.new("RGB", (900, 600), ground)
        pen = ImageDraw.Draw(screen)
        pen.rectangle((0, 0, 900, 32), fill=bar)
        pen.rectangle((0, 32, 180, 600), fill=side)
        for line in range(24):
            words = f"Ring {rng.integers(9999)}  hide {line}"
            pen.text((200, 44 + 22 * line), words, "black", font)
        yield PictureClass.GRAPHIC, f"screen {seed}", np.asarray(screen)


def made_photos() -> Iterator[Labelled]:
    for seed in range(_SCENES):
        yield PictureClass.PHOTO, f"scene {seed}", landscape(900, 600, seed)
    for name in _PHOTOS:
        yield PictureClass.PHOTO, name, getattr(data, name)()


def _read(paths: list[Path], label: PictureClass) -> Iterator[Labelled]:
    for path in paths:
        with Image.open(path) as image:
            if image.mode == "1":
                continue
            plain = image.convert("RGB")
            plain.thumbnail((_LONGEST_PX, _LONGEST_PX), Image.Resampling.BOX)
            yield label, path.name, np.asarray(plain)


def _print_table(title: str, labelled: list[Labelled], *, is_page: bool) -> None:
    counts: collections.Counter[tuple[PictureClass, PictureClass]] = collections.Counter()
    wrong = []
    for label, name, pixels in labelled:
        found = classify(pixels, is_page=True) if is_page else classify_alone(pixels)
        counts[label, found] += 1
        if found is not label:
            wrong.append(f"{name}: {found}")
    print(f"| {title}, taken for | {' | '.join(_CLASSES)} |")
    print("|---" * 4 + "|")
    for label in _CLASSES:
        print(f"| {label} | {' | '.join(str(counts[label, found]) for found in _CLASSES)} |")
    print(f"\nwrong: {'; '.join(wrong) or 'none'}\n")


if __name__ == "__main__":
    main()
