"""Scanned pages in layers, with all that is hard on them: `python -m benchmarks.layers PAGE...`.

PAGE: picture files of text pages, bitonal or grey, 300 ppi. Each becomes a colour scan: paper with
grain and shade, ink that the lens has softened. On copies of it lies, one kind at a time, what
layers may lose or make up. Twelve of each kind; for each, what layers weigh of a plain save
(quality 85), how many squares went back to pictures, and whether the proof's reading finds a fault
in them. Then marks are taken out of, or swapped in, the layers themselves: all have to be found.
"""

import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from lighten.codecs.jpeg import Chroma, decode_jpeg, encode_jpeg
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.scans.compose import compose
from lighten.pictures.scans.split_page import PictureFineness, split_page

Pixels = NDArray[np.uint8]
Random = np.random.Generator

PPI = 300
_OF_EACH = 12
_MM = PPI / 25.4
# As `proving.read_picture` bounds faults of layers.
_PROOF_STRENGTH, _READ_PPI = 1.3, 150
_PLANTED = 200
_FINENESS = PictureFineness(ppi=150, quality=75)


def main(names: list[str]) -> None:
    pages = [page for name in names for page in [_text_page(Path(name))] if page is not None]
    print(
        f"{'what lies on it':<18}{'of plain save':>14}{'as picture':>11}{'undone':>8}"
        f"{'faults':>8}{'s':>6}"
    )
    for name, mark in MARKS.items():
        _report(name, mark, pages)
    _report_planted(pages)


def _report(name: str, mark: "Mark", pages: list[Pixels]) -> None:
    shares, undone, pictures, faulty, plain, seconds = [], 0, 0, 0, 0, 0.0
    for number in range(_OF_EACH):
        random = np.random.default_rng(number)
        page = scanned(mark(pages[number % len(pages)], random), random)
        save = len(encode_jpeg(page, quality=85, chroma=Chroma.HALVED))
        began = time.perf_counter()
        layers = split_page(page, PPI, _FINENESS, may_be_jbig2=True)
        seconds += time.perf_counter() - began
        if layers is None:
            plain += 1
            continue
        shares.append(layers.weight / save)
        undone += layers.undone
        pictures += layers.kept
        faulty += bool(_faults(page, compose(layers)))
    share = f"{np.mean(shares):.3f}" if shares else "-"
    left = f" ({plain} stay one picture)" if plain else ""
    print(
        f"{name:<18}{share:>14}{pictures:>11}{undone:>8}{faulty:>8}{seconds / _OF_EACH:>6.1f}"
        f"{left}",
        flush=True,
    )


def _faults(page: Pixels, shown: Pixels) -> list[tuple[int, int, int, int]]:
    """Return the faults that the proof would report, in pixels at its resolution."""
    size = page.shape[1] * _READ_PPI // PPI, page.shape[0] * _READ_PPI // PPI
    one, other = (
        np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BOX))
        for pixels in (page, shown)
    )
    return [
        fault.place
        for fault in find_faults(one, other, ppi=_READ_PPI)
        if fault.place is not None and fault.strength > _PROOF_STRENGTH
    ]


def _report_planted(pages: list[Pixels]) -> None:
    """A letter gone or another in its place, a stamp lost: in the strokes of sound layers."""
    caught = {"letter gone": 0, "letter swapped": 0, "stamp lost": 0}
    counts = dict.fromkeys(caught, 0)
    for number in range(_PLANTED):
        random = np.random.default_rng(1000 + number)
        kind = list(caught)[number % 3]
        base = pages[number % len(pages)]
        marked, box = _stamp_at(base, random) if kind == "stamp lost" else (base, None)
        page = scanned(marked, random)
        layers = split_page(page, PPI, _FINENESS, may_be_jbig2=True)
        if layers is None:
            continue
        shown = compose(layers).copy()
        clean = compose(replace(layers, ink=None))
        if box is None:
            box = _letter(base, random)
        left, top, right, low = box
        if kind == "letter swapped":
            other = _letter(base, random)
            fits = min(other[3] - other[1], low - top), min(other[2] - other[0], right - left)
            shown[top:low, left:right] = clean[top:low, left:right]
            shown[top : top + fits[0], left : left + fits[1]] = compose(layers)[
                other[1] : other[1] + fits[0], other[0] : other[0] + fits[1]
            ]
        else:
            shown[top:low, left:right] = clean[top:low, left:right]
        counts[kind] += 1
        share = _READ_PPI / PPI
        caught[kind] += any(
            place[0] <= right * share
            and place[2] >= left * share
            and place[1] <= low * share
            and place[3] >= top * share
            for place in _faults(page, shown)
        )
    for kind, number in caught.items():
        print(f"{kind}: {number} of {counts[kind]} caught")


def _letter(page: Pixels, random: Random) -> tuple[int, int, int, int]:
    """Left, top, right, bottom of a place with about as much ink as a letter has."""
    dark = page.min(axis=2) < 128
    side = round(2.5 * _MM)
    for _ in range(2000):
        top = int(random.integers(side, page.shape[0] - 2 * side))
        left = int(random.integers(side, page.shape[1] - 2 * side))
        if 0.12 < dark[top : top + side, left : left + side].mean() < 0.5:
            return left, top, left + side, top + side
    raise ValueError("a page without letters")


def _text_page(path: Path) -> Pixels | None:
    """(height, width, 3), from a page of two tones or of grey."""
    with Image.open(path) as image:
        grey = np.asarray(image.convert("L"))
    if min(grey.shape) < 1500:
        return None
    return np.repeat(grey[..., None], 3, axis=2)


def scanned(page: Pixels, random: Random) -> Pixels:
    """Return the page as scanned: blurred, on tinted paper with grain and shade, in JPEG 92."""
    soft = np.asarray(Image.fromarray(page).filter(ImageFilter.GaussianBlur(0.8))).astype(float)
    height, width = page.shape[:2]
    paper = np.array([250.0, 247.0, 240.0]) - random.uniform(0, 12)
    ink = random.uniform(15, 45)
    shade = 1 - 0.05 * np.linspace(0, 1, width)[None, :, None] * random.uniform(0, 1)
    grain = random.normal(0, 2.0, (height, width, 1)) + random.normal(0, 1.0, (height, width, 3))
    seen = (ink + soft * (paper - ink) / 255) * shade + grain
    pixels = np.clip(seen, 0, 255).astype(np.uint8)
    return decode_jpeg(encode_jpeg(pixels, quality=92, chroma=Chroma.HALVED))


Mark = Callable[[Pixels, Random], Pixels]


def _drawn(page: Pixels, draw: Callable[[ImageDraw.ImageDraw], None], *, soft: float = 0) -> Pixels:
    """Ink over the page: the darker of both, channel by channel."""
    layer = Image.new("RGB", (page.shape[1], page.shape[0]), "white")
    draw(ImageDraw.Draw(layer))
    if soft:
        layer = layer.filter(ImageFilter.GaussianBlur(soft))
    darker: Pixels = np.minimum(page, np.asarray(layer))
    return darker


def _font(mm: float) -> ImageFont.FreeTypeFont:
    import reportlab

    path = Path(reportlab.__file__).parent / "fonts" / "VeraBd.ttf"
    return ImageFont.truetype(str(path), round(mm * _MM))


def _place(page: Pixels, random: Random, margin_mm: float) -> tuple[int, int]:
    margin = margin_mm * _MM
    return (
        int(random.uniform(margin, page.shape[1] - margin)),
        int(random.uniform(margin, page.shape[0] - margin)),
    )


def _stamp_at(page: Pixels, random: Random) -> tuple[Pixels, tuple[int, int, int, int]]:
    x, y = _place(page, random, 25)
    colour = tuple(int(c) for c in random.choice([[190, 40, 50], [50, 60, 160], [30, 110, 70]]))
    radius = round(random.uniform(9, 16) * _MM)

    def draw(pen: ImageDraw.ImageDraw) -> None:
        for step in (0, 1.6):
            inner = radius - round(step * _MM)
            pen.ellipse((x - inner, y - inner, x + inner, y + inner), outline=colour, width=7)
        pen.text((x - radius * 0.6, y - 2 * _MM), "SEEN 04", font=_font(4), fill=colour)

    return _drawn(page, draw), (x - radius, y - radius, x + radius, y + radius)


def stamp(page: Pixels, random: Random) -> Pixels:
    return _stamp_at(page, random)[0]


def signature(page: Pixels, random: Random) -> Pixels:
    x, y = _place(page, random, 30)
    steps = np.linspace(0, 1, 60)
    wave = np.cumsum(random.normal(0, 1, (60, 2)), axis=0)
    points = [
        (x + step * 40 * _MM - 20 * _MM + dx * 9, y + 4 * _MM * np.sin(step * 22) + dy * 9)
        for step, (dx, dy) in zip(steps, wave, strict=True)
    ]
    return _drawn(page, lambda pen: pen.line(points, fill=(40, 50, 130), width=5, joint="curve"))


def pencil(page: Pixels, random: Random) -> Pixels:
    """Words and a line, 60 to 110 levels under the paper."""
    x, y = _place(page, random, 30)
    tone = int(random.uniform(145, 195))

    def draw(pen: ImageDraw.ImageDraw) -> None:
        pen.text((x - 20 * _MM, y), "see over", font=_font(5), fill=(tone,) * 3)
        pen.line((x - 25 * _MM, y + 8 * _MM, x + 25 * _MM, y + 7 * _MM), fill=(tone,) * 3, width=4)

    return _drawn(page, draw, soft=1)


def red_correction(page: Pixels, random: Random) -> Pixels:
    x, y = _place(page, random, 30)

    def draw(pen: ImageDraw.ImageDraw) -> None:
        pen.line((x - 15 * _MM, y, x + 15 * _MM, y + 1 * _MM), fill=(205, 30, 35), width=6)
        pen.text((x, y - 6 * _MM), "17.3", font=_font(4), fill=(205, 30, 35))

    return _drawn(page, draw)


def highlighter(page: Pixels, random: Random) -> Pixels:
    x, y = _place(page, random, 30)
    colour = random.choice([[250, 240, 90], [255, 170, 190], [160, 235, 150]]) / 255
    out = page.astype(float)
    out[y : y + round(5 * _MM), x - round(25 * _MM) : x + round(25 * _MM)] *= colour
    return out.astype(np.uint8)


def halftone(page: Pixels, random: Random) -> Pixels:
    """A picture in dots of 85 to the inch, at 45 degrees."""
    x, y = _place(page, random, 45)
    side = round(50 * _MM)
    downs, acrosses = np.mgrid[:side, :side]
    tone = 0.5 + 0.4 * np.sin(acrosses / 90 + random.uniform(0, 6)) * np.cos(downs / 70)
    period = PPI / 85
    u, v = (acrosses + downs) / 1.414, (acrosses - downs) / 1.414
    dots = 0.25 * (2 + np.cos(2 * np.pi * u / period) + np.cos(2 * np.pi * v / period))
    out = page.copy()
    top, left = y - side // 2, x - side // 2
    out[top : top + side, left : left + side] = np.where(dots > tone, 20, 250)[..., None]
    return out


def photo(page: Pixels, random: Random) -> Pixels:
    """Smooth tones with detail, as a print glued on."""
    x, y = _place(page, random, 45)
    height, width = round(45 * _MM), round(60 * _MM)
    coarse = random.uniform(0, 255, (9, 12, 3)).astype(np.uint8)
    smooth = np.asarray(Image.fromarray(coarse).resize((width, height), Image.Resampling.BICUBIC))
    fine = random.normal(0, 14, (height // 3, width // 3, 1)).repeat(3, axis=0).repeat(3, axis=1)
    out = page.copy()
    top, left = y - height // 2, x - width // 2
    piece = np.clip(smooth[: fine.shape[0], : fine.shape[1]] + fine, 0, 255)
    out[top : top + piece.shape[0], left : left + piece.shape[1]] = piece
    return out


def bleed_through(page: Pixels, random: Random) -> Pixels:
    """The other side, mirrored, 12 to 35 levels dark and soft."""
    strength = random.uniform(12, 35) / 255
    other = np.asarray(Image.fromarray(page[:, ::-1]).filter(ImageFilter.GaussianBlur(3)))
    shifted = np.roll(other, int(random.uniform(20, 80)), axis=0).astype(float)
    return np.minimum(page, 255 - strength * (255 - shifted)).astype(np.uint8)


def ruled(page: Pixels, random: Random) -> Pixels:
    """Lines of a writing pad, pale blue, 8 mm apart."""
    out = page.copy()
    tone = np.array([int(random.uniform(150, 205)), int(random.uniform(190, 220)), 235])
    for row in range(round(20 * _MM), page.shape[0] - 10, round(8 * _MM)):
        out[row : row + 3] = np.minimum(out[row : row + 3], tone)
    return out


def form(page: Pixels, random: Random) -> Pixels:
    x, y = _place(page, random, 60)

    def draw(pen: ImageDraw.ImageDraw) -> None:
        for row in range(5):
            for column in range(4):
                corner = x + (column - 2) * 22 * _MM, y + (row - 2) * 9 * _MM
                far = corner[0] + 22 * _MM, corner[1] + 9 * _MM
                pen.rectangle(
                    (*corner, *far), outline=(60, 60, 60), width=int(random.integers(1, 4))
                )

    return _drawn(page, draw)


MARKS: dict[str, Mark] = {
    "nothing": lambda page, _random: page,
    "stamp": stamp,
    "signature": signature,
    "pencil": pencil,
    "red correction": red_correction,
    "highlighter": highlighter,
    "halftone": halftone,
    "photo": photo,
    "bleed-through": bleed_through,
    "ruled lines": ruled,
    "form lines": form,
}


if __name__ == "__main__":
    main(sys.argv[1:])
