"""Plant faults in copies of pages, count those that the proof reports, and pass clean copies.

`python -m benchmarks.planted_faults [--pages N] [PICTURE...]` prints the tables of docs/proof.md.
Pages are set here at 300 ppi in a free font that a library carries, and scanned by code: paper,
grain and a little blur; or are the pictures named. A fault is planted in a page before the copy
of it is made and coded, by the settings of a preset.
"""

import argparse
import collections
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import reportlab
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from scipy import ndimage

from lighten.codecs.jpeg import Chroma, decode_jpeg, encode_jpeg
from lighten.pictures.faults.fault import FaultKind
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.pixels.resample import resample

PPI = 300
FONTS = Path(reportlab.__file__).parent / "fonts"
_FACES = ("Vera.ttf", "VeraBd.ttf", "VeraIt.ttf")
_SIZE = (1240, 1240)
_TEXT = (
    "reed warbler ringed at dawn net four wing 67 mm weight 12.4 g fat 3 moult none recaught "
    "station hide water level 1,268 fen path closed, sedge cut; owls 8 harriers 6 total 1,719 "
    "entry 3,365 checked by the warden on 14 September at 06:50. Temperature 9.6 degrees, wind "
    "west 3; cloud 7/8. Bearded tits 31, of which 17 young: see sheet 208. Returned 5.80 for nets"
)
_WORDS = _TEXT.split()
_TWINS = ("86", "17", "38", "56", "ec", "rn", "il", "71", "68", "ce", "09", "35")
_SETTINGS = ((150, 81), (150, 70), (150, 57), (110, 70))

Pixels = np.ndarray


@dataclass(frozen=True, slots=True)
class Page:
    """ink: where strokes are, to plant faults in. font: that it was set in."""

    pixels: Pixels
    ink: np.ndarray
    paper: tuple[int, ...]
    seed: int


def set_page(seed: int) -> tuple[Image.Image, np.random.Generator, ImageFont.FreeTypeFont]:
    """Lines of words and numbers, ruled lines and a table; black on white."""
    rng = np.random.default_rng(seed)
    points = float(rng.uniform(7.5, 12))
    font = ImageFont.truetype(FONTS / _FACES[seed % 3], round(points / 72 * PPI))
    page = Image.new("L", _SIZE, 255)
    pen = ImageDraw.Draw(page)
    top, ink = 60, int(rng.integers(0, 70))
    while top < _SIZE[1] - 100:
        line = " ".join(rng.choice(_WORDS, 9))
        pen.text((60, top), line[:44], font=font, fill=ink)
        top += round(font.size * 1.5)
    return page, rng, font


def scanned(page: Image.Image, seed: int) -> Page:
    """The page as a scanner gives it: paper of a colour, grain, a little blur."""
    rng = np.random.default_rng(seed + 1)
    ink = np.asarray(page) < 128
    soft = page.filter(ImageFilter.GaussianBlur(float(rng.uniform(0.5, 1.3))))
    paper = np.array([rng.integers(225, 255)] * 3) - np.array([0, rng.integers(0, 6), 0])
    paper[2] -= rng.integers(0, 25)
    cover = np.asarray(soft, np.float32)[..., None] / 255
    colours = cover * paper + (1 - cover) * np.array([20, 18, 25])
    shade = np.linspace(0, float(rng.uniform(0, 14)), _SIZE[0])[None, :, None]
    noisy = colours - shade + rng.normal(0, float(rng.uniform(0.8, 4)), colours.shape)
    return Page(np.clip(noisy, 0, 255).astype(np.uint8), ink, tuple(int(p) for p in paper), seed)


def read_page(path: Path, seed: int) -> Page:
    """A page of a file; its middle, where it is large."""
    with Image.open(path) as image:
        pixels = np.asarray(image.convert("RGB"))
    height, width = pixels.shape[:2]
    rng = np.random.default_rng(seed)
    top = int(rng.integers(0, max(1, height - _SIZE[1])))
    left = int(rng.integers(0, max(1, width - _SIZE[0])))
    pixels = np.ascontiguousarray(pixels[top : top + _SIZE[1], left : left + _SIZE[0]])
    grey = np.asarray(Image.fromarray(pixels).convert("L"))
    paper = np.median(pixels.reshape(-1, 3), axis=0)
    ink = grey < np.median(grey) - 70
    return Page(pixels, ink, tuple(int(level) for level in paper), seed)


# --- Faults: each takes a page and returns the page with the fault, or None where none fits.


def _letters(page: Page, least_mm: float, most_mm: float) -> list[tuple[slice, slice]]:
    labels, _ = ndimage.label(page.ink)
    least, most = least_mm / 25.4 * PPI, most_mm / 25.4 * PPI
    return [
        place
        for place in ndimage.find_objects(labels)
        if place is not None
        and least <= place[0].stop - place[0].start <= most
        and least / 3 <= place[1].stop - place[1].start <= most
        and place[0].start > 20
        and place[0].stop < page.ink.shape[0] - 20
        and place[1].start > 20
        and place[1].stop < page.ink.shape[1] - 20
    ]


def _grown(place: tuple[slice, slice], by: int) -> tuple[slice, slice]:
    rows, columns = place
    return slice(rows.start - by, rows.stop + by), slice(columns.start - by, columns.stop + by)


def _painted_out(page: Page, place: tuple[slice, slice]) -> Pixels:
    """The place in the colour of the paper around it, with its grain."""
    pixels = page.pixels.copy()
    around = _grown(place, 12)
    bare = pixels[around][~ndimage.binary_dilation(page.ink[around], iterations=3)]
    colour = np.median(bare, axis=0) if len(bare) else np.array(page.paper)
    rng = np.random.default_rng(page.seed)
    grain = rng.normal(0, bare.std() if len(bare) else 2, pixels[place].shape)
    pixels[place] = np.clip(colour + grain * 0.5, 0, 255).astype(np.uint8)
    return pixels


def wiped(page: Page, rng: np.random.Generator) -> Pixels | None:
    letters = _letters(page, 1.2, 6)
    return _painted_out(page, _grown(letters[rng.integers(len(letters))], 4)) if letters else None


def cut_stroke(page: Page, rng: np.random.Generator) -> Pixels | None:
    letters = _letters(page, 1.2, 6)
    if not letters:
        return None
    rows, columns = letters[rng.integers(len(letters))]
    height = rows.stop - rows.start
    top = rows.start + int(height * rng.uniform(0.15, 0.55))
    cut = (slice(top, top + max(5, height // 3)), slice(columns.start - 3, columns.stop + 3))
    if page.ink[cut].sum() < 30:
        return None
    return _painted_out(page, cut)


def comma(page: Page, rng: np.random.Generator) -> Pixels | None:
    marks = [
        place
        for place in _letters(page, 0.34, 1.1)
        if page.ink[place].mean() > 0.4 and place[1].stop - place[1].start <= 0.8 / 25.4 * PPI
    ]
    return _painted_out(page, _grown(marks[rng.integers(len(marks))], 3)) if marks else None


def replaced(page: Page, rng: np.random.Generator) -> Pixels | None:
    """A letter by another of the page that covers less than three quarters of the same."""
    letters = _letters(page, 1.2, 6)
    for _ in range(30):
        if len(letters) < 2:
            return None
        one, other = (letters[at] for at in rng.integers(0, len(letters), 2))
        shapes = [page.ink[place] for place in (one, other)]
        rows = min(shape.shape[0] for shape in shapes)
        columns = min(shape.shape[1] for shape in shapes)
        first, second = (shape[:rows, :columns] for shape in shapes)
        common = (first & second).sum() / max(1, (first | second).sum())
        near = abs(shapes[0].shape[0] - shapes[1].shape[0]) <= 6
        if common < 0.75 and near:
            pixels = _painted_out(page, _grown(one, 4))
            height, width = (side.stop - side.start for side in other)
            top, left = one[0].stop - height, one[1].start
            pixels[top : top + height, left : left + width] = page.pixels[other]
            return pixels
    return None


def _bare_place(page: Page, side: int, rng: np.random.Generator) -> tuple[int, int] | None:
    near_ink = ndimage.maximum_filter(page.ink, side)
    rows, columns = np.nonzero(~near_ink[side:-side, side:-side])
    if not len(rows):
        return None
    at = rng.integers(len(rows))
    return int(rows[at]) + side, int(columns[at]) + side


@dataclass(frozen=True, slots=True)
class Added:
    """A mark that only one of the two has. level: how dark, of 255."""

    draw: Callable[[ImageDraw.ImageDraw, int, int, np.random.Generator], None]
    room: int
    blur: float = 0.6

    def on(self, page: Page, rng: np.random.Generator, colour: tuple[int, int, int]) -> Pixels:
        place = _bare_place(page, self.room, rng)
        row, column = place or (600, 600)
        image = Image.fromarray(page.pixels)
        layer = Image.new("L", image.size, 0)
        self.draw(ImageDraw.Draw(layer), column, row, rng)
        soft = layer.filter(ImageFilter.GaussianBlur(self.blur))
        marked = Image.composite(Image.new("RGB", image.size, colour), image, soft)
        return np.asarray(marked)


def _dot(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    radius = float(rng.uniform(0.3, 0.45)) / 25.4 * PPI / 2
    pen.ellipse((x - radius, y - radius, x + radius, y + radius), fill=255)


def _thin_line(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    width = max(2, round(float(rng.uniform(0.17, 0.3)) / 25.4 * PPI))
    length = int(rng.integers(60, 300))
    if rng.random() < 0.5:
        pen.line((x, y, x + length, y), fill=255, width=width)
    else:
        pen.line((x, y, x, y + length), fill=255, width=width)


def _stamp(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    pen.ellipse((x - 150, y - 150, x + 150, y + 150), outline=190, width=7)
    pen.text((x - 110, y - 20), "SEEN 14", font=_font(46), fill=190)


def _word(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    pen.text((x - 15, y - 25), str(rng.integers(10, 99)), font=_font(38), fill=255)


def _scribble(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    points = [(x + int(rng.integers(-60, 60)), y + int(rng.integers(-25, 25))) for _ in range(5)]
    pen.line(points, fill=255, width=4)


def _mark(pen: ImageDraw.ImageDraw, x: int, y: int, rng: np.random.Generator) -> None:
    kind = rng.integers(3)
    if kind == 0:
        pen.text((x - 15, y - 25), str(rng.integers(1, 9)), font=_font(38), fill=255)
    elif kind == 1:
        pen.line((x, y, x + 60, y + 4), fill=255, width=4)
    else:
        _dot(pen, x, y, rng)


def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(FONTS / "Vera.ttf", size)


def copy_of(pixels: Pixels, ppi: int, quality: int, source_ppi: int = PPI) -> Pixels:
    """Return the page as a preset codes it."""
    share = ppi / source_ppi
    size = (round(pixels.shape[1] * share), round(pixels.shape[0] * share))
    small = resample(pixels, size) if share < 1 else pixels
    return decode_jpeg(encode_jpeg(small, quality=quality, chroma=Chroma.HALVED))


Pair = tuple[Pixels, Pixels]


def _dark(rng: np.random.Generator, page: Page, least: int, most: int) -> tuple[int, int, int]:
    level = int(rng.integers(least, most))
    return tuple(max(0, p - level) for p in page.paper)  # type: ignore[return-value]


def _planted(kind: str, page: Page, rng: np.random.Generator) -> Pair | None:
    """The original, and what the copy is made of."""
    if kind in _WITHIN:
        changed = _WITHIN[kind](page, rng)
        return None if changed is None else (page.pixels, changed)
    if kind in _MARKS:
        mark, least, most = _MARKS[kind]
        with_mark = mark.on(page, rng, _dark(rng, page, least, most))
        return (page.pixels, with_mark) if kind == "added mark" else (with_mark, page.pixels)
    return page.pixels, page.pixels


_WITHIN = {"wiped": wiped, "cut stroke": cut_stroke, "comma": comma, "letter replaced": replaced}
_MARKS = {
    "thin line": (Added(_thin_line, 40), 140, 220),
    "stamp": (Added(_stamp, 40), 90, 200),
    "dot from .3 mm": (Added(_dot, 24), 150, 225),
    "faint": (Added(_word, 60), 70, 110),
    "pencil above 70 levels": (Added(_scribble, 60, blur=1.4), 90, 140),
    "added mark": (Added(_mark, 60), 120, 220),
}
KINDS = (*_WITHIN, "twin", *_MARKS, "blur", "tint")


def _twin_pair(seed: int) -> Pair:
    """Two pages that differ in one letter or digit."""
    pages = []
    for letter in _TWINS[seed % len(_TWINS)]:
        page, _, font = set_page(seed)
        pen = ImageDraw.Draw(page)
        pen.rectangle((300, 500, 900, 600), fill=255)
        pen.text((320, 520), f"total 1{letter}4 reeds", font=font, fill=20)
        pages.append(scanned(page, seed).pixels)
    return pages[0], pages[1]


def _try(task: tuple[str, int, int, int, Path | None]) -> tuple[str, int, int, bool, str]:
    kind, seed, ppi, quality, path = task
    rng = np.random.default_rng(seed * 7 + 3)
    source_ppi = PPI
    if kind == "twin":
        original, changed = _twin_pair(seed)
    else:
        page = read_page(path, seed) if path else scanned(set_page(seed)[0], seed)
        if path is not None:
            source_ppi = max(ppi, 250)
        pair = _planted(kind, page, rng)
        if pair is None:
            return kind, ppi, quality, True, "none fits"
        original, changed = pair
    copy = copy_of(changed, ppi, quality, source_ppi)
    if kind == "blur":
        small = resample(changed, (copy.shape[1], copy.shape[0]))
        soft = Image.fromarray(small).filter(ImageFilter.GaussianBlur(float(rng.uniform(0.7, 1.6))))
        copy = decode_jpeg(encode_jpeg(np.asarray(soft), quality=quality, chroma=Chroma.HALVED))
    if kind == "tint":
        shift = np.zeros(3, int)
        shift[rng.integers(3)] = int(rng.integers(10, 22)) * int(rng.choice([-1, 1]))
        copy = np.clip(copy.astype(int) + shift, 0, 255).astype(np.uint8)
    faults = find_faults(original, copy, ppi=ppi)
    kinds = {fault.kind for fault in faults}
    summary = " ".join(f"{fault.kind}:{fault.strength:.2f}{fault.words}" for fault in faults[:4])
    wanted = {"blur": FaultKind.SOFT, "tint": FaultKind.TINT}.get(kind)
    is_seen = wanted in kinds if wanted else bool(kinds & {FaultKind.LOST_INK, FaultKind.ADDED_INK})
    if kind == "clean":
        is_seen = bool(kinds)
    return kind, ppi, quality, is_seen, summary


def _tasks(pages: int, paths: list[Path]) -> Iterator[tuple[str, int, int, int, Path | None]]:
    for kind in ("clean", *KINDS):
        for seed in range(pages):
            for ppi, quality in _SETTINGS:
                yield kind, seed, ppi, quality, None
            if kind != "twin":
                for path in paths:
                    for ppi, quality in _SETTINGS:
                        yield kind, seed, ppi, quality, path


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pages", type=int, default=10)
    parser.add_argument("--verbose", action="store_true")
    parser.add_argument("--kinds", nargs="*")
    parser.add_argument("pictures", nargs="*", type=Path)
    arguments = parser.parse_args()
    seen: dict[str, dict[str, list[bool]]] = collections.defaultdict(
        lambda: collections.defaultdict(list)
    )
    tasks = [
        task
        for task in _tasks(arguments.pages, arguments.pictures)
        if not arguments.kinds or task[0] in arguments.kinds
    ]
    with ProcessPoolExecutor() as pool:
        results = pool.map(_try, tasks, chunksize=4)
        for task, (kind, ppi, quality, is_seen, summary) in zip(tasks, results, strict=True):
            if summary == "none fits":
                continue
            seen[kind][f"{ppi}/q{quality}"].append(is_seen)
            if arguments.verbose and is_seen == (kind == "clean"):
                print(kind, task[1], ppi, quality, task[4] and task[4].name, summary)
    columns = [f"{ppi}/q{quality}" for ppi, quality in _SETTINGS]
    print(f"| seen of | {' | '.join(columns)} |")
    for kind, by_setting in seen.items():
        cells = [
            f"{100 * np.mean(by_setting[column]):.1f} % of {len(by_setting[column])}"
            for column in columns
        ]
        print(f"| {kind} | {' | '.join(cells)} |")


if __name__ == "__main__":
    main()
