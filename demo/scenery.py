"""Pictures made by code: what a photo, a scan and a chart look like to a coder of pictures."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from PIL import ImageDraw

__all__ = ["camera_photo", "chart", "landscape", "logbook_page"]

Pixels = NDArray[np.uint8]

_SKIES = ((150, 186, 220), (206, 196, 190), (120, 150, 190), (228, 190, 160))
_LANDS = ((92, 116, 70), (120, 110, 66), (70, 96, 84), (140, 128, 96))


def landscape(width_px: int, height_px: int, seed: int) -> Pixels:
    """A reed bed under a sky: gradients, texture at all scales, hard stems, camera grain.

    Returns (height, width, 3) uint8; the same arguments give the same picture.
    """
    random = np.random.default_rng(seed)
    clouds = _cloud_noise(width_px, height_px, random)
    texture = _cloud_noise(width_px, height_px, random, finest=2)
    rows = np.linspace(0, 1, height_px, dtype=np.float32)[:, None]
    horizon = 0.35 + 0.2 * random.random() + 0.06 * (clouds[height_px // 2][None, :] - 0.5)
    sky = np.array(_SKIES[seed % len(_SKIES)], np.float32)
    land = np.array(_LANDS[seed // 2 % len(_LANDS)], np.float32)
    sky_part = sky * (0.75 + 0.35 * rows[..., None]) + 60 * (clouds[..., None] - 0.5)
    land_part = land * (0.5 + 0.9 * texture[..., None]) * (1.15 - 0.4 * rows[..., None])
    scene = np.where((rows < horizon)[..., None], sky_part, land_part)
    _draw_stems(scene, random)
    grain = random.normal(0, 2.5, (height_px, width_px, 1)).astype(np.float32)
    return _as_pixels(scene + grain)


def camera_photo(width_px: int, height_px: int, seed: int) -> Pixels:
    """A landscape as a camera of many pixels sees it: a little soft, with grain in every pixel.

    A quarter of the time of `landscape` at that size. Returns (height, width, 3) uint8.
    """
    from PIL import Image

    scene = Image.fromarray(landscape(width_px // 2, height_px // 2, seed))
    seen = np.asarray(scene.resize((width_px, height_px), Image.Resampling.BICUBIC)).astype(
        np.int16
    )
    random = np.random.default_rng(seed)
    # One strip of grain, laid again and again: nobody sees where it begins anew.
    strip = random.normal(0, 2.5, (97, width_px, 1)).astype(np.int16)
    seen += np.resize(strip, (height_px, width_px, 1))
    return np.clip(seen, 0, 255).astype(np.uint8)


def chart(width_px: int, height_px: int, seed: int) -> Pixels:
    """A bar chart of flat colours with a grid: (height, width, 3) uint8."""
    random = np.random.default_rng(seed)
    picture = np.full((height_px, width_px, 3), 255, np.uint8)
    for line in range(1, 6):
        picture[height_px * line // 6, :] = (214, 214, 206)
    bars = 12
    step = width_px // bars
    for bar in range(bars):
        top = int(height_px * (0.1 + 0.8 * random.random()))
        colour = ((31, 91, 67), (184, 134, 47), (79, 106, 132))[bar % 3]
        picture[top : height_px - 4, bar * step + step // 6 : (bar + 1) * step - step // 6] = colour
    picture[-4:], picture[:, :3] = 40, 40
    return picture


def logbook_page(width_px: int, height_px: int, seed: int) -> Pixels:
    """A scanned page of a handwritten log: uneven paper, ruled lines, ink, a few words in red.

    Returns (height, width, 3) uint8.
    """
    from PIL import Image, ImageDraw

    random = np.random.default_rng(seed)
    shade = _cloud_noise(width_px, height_px, random)
    paper = np.array((238, 231, 214), np.float32) - 22 * (shade[..., None] - 0.3)
    page = Image.fromarray(np.clip(paper, 0, 255).astype(np.uint8))
    pen = ImageDraw.Draw(page)
    line_px = max(24, height_px // 46)
    for top in range(line_px * 3, height_px - line_px, line_px):
        pen.line((line_px, top, width_px - line_px, top), fill=(178, 190, 205), width=2)
        for column in range(5):
            left = line_px * 1.5 + column * (width_px - 3 * line_px) / 5
            room = (width_px - 3 * line_px) / 5 * 0.8
            _write(pen, random, left=left, base=top, size=line_px, room=room)
    pixels = np.asarray(page).astype(np.float32)
    pixels += random.normal(0, 2.2, (height_px, width_px, 1)).astype(np.float32)
    return _as_pixels(pixels)


def _as_pixels(values: NDArray[np.float32]) -> Pixels:
    return np.clip(values, 0, 255).astype(np.uint8)


def _write(
    pen: "ImageDraw.ImageDraw",
    random: np.random.Generator,
    *,
    left: float,
    base: float,
    size: float,
    room: float,
) -> None:
    """A few joined strokes that look like a word in a hurry."""
    ink = (44, 52, 92) if random.random() < 0.93 else (168, 44, 38)
    points: list[tuple[float, float]] = []
    x = left
    end = left + room * (0.4 + 0.6 * random.random())
    while x < end:
        height = size * (0.15 + 0.55 * random.random())
        points.append((x, base - 3 - height * float(len(points) % 2)))
        x += size * (0.12 + 0.16 * random.random())
    pen.line(points, fill=ink, width=max(2, round(size / 14)), joint="curve")


def _draw_stems(scene: NDArray[np.float32], random: np.random.Generator) -> None:
    height, width = scene.shape[:2]
    for _ in range(width // 24):
        foot, top = random.integers(height // 2, height), random.integers(height // 6, height // 2)
        left, thickness = int(random.integers(0, width - 8)), int(random.integers(1, 5))
        tone = random.integers(30, 200)
        scene[top:foot, left : left + thickness] = (tone, tone * 0.9, tone * 0.55)


def _cloud_noise(
    width_px: int, height_px: int, random: np.random.Generator, *, finest: int = 8
) -> NDArray[np.float32]:
    """Noise of many scales, each half as strong as the one twice as coarse: 0 to 1."""
    from PIL import Image

    total = np.zeros((height_px, width_px), np.float32)
    cell, strength = max(width_px, height_px) // 2, 1.0
    while cell >= finest:
        shape = (max(2, height_px // cell + 2), max(2, width_px // cell + 2))
        coarse = Image.fromarray(random.random(shape, np.float32))
        total += strength * np.asarray(
            coarse.resize((width_px, height_px), Image.Resampling.BICUBIC)
        )
        cell, strength = cell // 2, strength * 0.55
    low, high = float(total.min()), float(total.max())
    return (total - low) / (high - low or 1)
