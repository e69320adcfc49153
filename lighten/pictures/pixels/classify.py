"""Classification of a picture by its pixels."""

import numpy as np
from numpy.typing import NDArray

from lighten.model.kinds import PictureClass

__all__ = ["classify", "classify_alone", "is_without_colour"]

# Neighbours in photos differ by grain; in drawn pictures most of them are equal, or nearly so
# once JPEG has been over them. The two shares were set on charts, screenshots and photos.
_FLAT_DIFFERENCE = 2
_FLAT_SHARE_OF_GRAPHICS = 0.72
# ... and few tones make up most of the picture; a smooth sky is flat too, but has many.
_FEW_TONES = 12
_FEW_TONES_SHARE_OF_GRAPHICS = 0.6
# A scanned page is mostly paper: one light tone that covers much of it, even over some way.
_PAPER_LUMINANCE = 140
_PAPER_SPREAD = 20
_PAPER_SHARE, _EVEN_PAPER_SHARE, _BARE_PAPER_SHARE = 0.4, 0.88, 0.7
# Old paper is dark and unevenly lit, so strokes are detected against the ground beside them: the
# darkness of ink, that of bare ground, and the evenness of the ground over so many pixels.
# Set on 21 pages, as they are and darkened, and 26 photos: of pages .96 and more is even, of photos
# with as much bare ground and as little between, .88 at most.
_INK_DEPTH, _BARE_DEPTH, _EVEN_STEP, _EVEN_OVER_PX = 0.3, 0.12, 0.15, 16
_LEAST_STROKES, _MOST_STROKES, _LEAST_BARE, _MOST_BETWEEN = 0.002, 0.3, 0.5, 1.6
_DARKEST_GROUND = 40
# A page by itself: behind what is thin it is light nearly everywhere, most of it is that light
# ground, and what is darker is mostly ink at once, not by and by as things in a photo are. Set on
# 19 pages and 20 photos; the window is a little wider than strokes are in a reduced copy.
_WINDOW_PX = 15
_LIGHT_SHARE, _GROUND_SHARE = 0.85, 0.5
_GROUND_STEP, _INK_STEP = 20, 50
_LEAST_INK_SHARE, _MOST_INK_SHARE = 0.002, 0.35
_MOST_BETWEEN_TO_INK = 1.7
_BLUER_THAN_PAPER = 12
# Of large pictures one pixel in some is looked at first: where there is colour, they show it.
_GLANCED_AT, _EVERY = 300_000, 9


def classify(pixels: NDArray[np.uint8], *, is_page: bool) -> PictureClass:
    """The class of a picture by its pixels.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8; a reduced copy will do.
    is_page: it covers the page it is shown on.
    """
    luminance = _luminance(pixels)
    if is_page and _is_page(luminance):
        return PictureClass.PAGE_SCAN
    if (
        _flat_share(luminance) >= _FLAT_SHARE_OF_GRAPHICS
        and _few_tones_share(luminance) >= _FEW_TONES_SHARE_OF_GRAPHICS
    ):
        is_drawn_page = is_page and _paper_share(luminance) >= _PAPER_SHARE
        return PictureClass.PAGE_SCAN if is_drawn_page else PictureClass.GRAPHIC
    return PictureClass.PHOTO


def classify_alone(pixels: NDArray[np.uint8]) -> PictureClass:
    """Return the class of a picture that is on no page: a page scan, if ink strokes lie on paper.

    pixels: as for `classify`. A drawn picture is told first: its paper is flat, which that of a
    scanned page never is.
    """
    picture_class = classify(pixels, is_page=False)
    if picture_class is PictureClass.PHOTO:
        luminance = _luminance(pixels)
        if _is_ink_on_paper(luminance) and not _is_blue(pixels, luminance):
            return PictureClass.PAGE_SCAN
    return picture_class


def is_without_colour(pixels: NDArray[np.uint8]) -> bool:
    """Return whether red, green and blue are equal in every pixel."""
    if pixels.ndim == 2:
        return True
    if pixels.shape[2] != 3:
        return False
    if pixels.size > _GLANCED_AT:
        some = pixels[::_EVERY, ::_EVERY]
        if not (some[..., 0] == some[..., 1]).all() or not (some[..., 1] == some[..., 2]).all():
            return False
    red, green, blue = pixels[..., 0], pixels[..., 1], pixels[..., 2]
    return bool(np.array_equal(red, green) and np.array_equal(green, blue))


def _luminance(pixels: NDArray[np.uint8]) -> NDArray[np.int16]:
    """Return luma by ITU-R BT.601, in whole numbers."""
    from PIL import Image

    if pixels.ndim == 2:
        return pixels.astype(np.int16)
    if pixels.shape[2] != 3:
        return np.asarray(pixels.mean(axis=2), np.int16)
    return np.asarray(Image.fromarray(pixels).convert("L")).astype(np.int16)


def _paper_share(luminance: NDArray[np.int16]) -> float:
    """The share of pixels near the commonest light tone."""
    counts = np.bincount(luminance.ravel(), minlength=256)
    tone = _paper_tone(luminance)
    near = counts[max(0, tone - _PAPER_SPREAD) : tone + _PAPER_SPREAD + 1]
    return float(near.sum() / luminance.size)


def _is_page(luminance: NDArray[np.int16]) -> bool:
    """Return whether a picture looks like a page: strokes on an even ground, or mostly paper."""
    ground = -_widest(-_widest(luminance))
    depth = np.maximum(ground, _DARKEST_GROUND)
    darker = ground - luminance
    bare = float(np.mean(darker < _BARE_DEPTH * depth))
    steps = np.abs(ground[:, _EVEN_OVER_PX:] - ground[:, :-_EVEN_OVER_PX])
    even = float(np.mean(steps < _EVEN_STEP * depth[:, _EVEN_OVER_PX:])) if steps.size else 1.0
    if even < _EVEN_PAPER_SHARE:
        return False
    strokes = float(np.mean(darker > _INK_DEPTH * depth))
    has_strokes = _LEAST_STROKES < strokes < _MOST_STROKES and bare >= _LEAST_BARE
    if has_strokes and 1 - bare - strokes <= _MOST_BETWEEN * strokes:
        return True
    return bare >= _BARE_PAPER_SHARE and _paper_share(luminance) >= _PAPER_SHARE


def _is_ink_on_paper(luminance: NDArray[np.int16]) -> bool:
    ground = -_widest(-_widest(luminance))
    if np.mean(ground >= _PAPER_LUMINANCE) < _LIGHT_SHARE:
        return False
    darker = ground - luminance
    ink = float(np.mean(darker > _INK_STEP))
    bare = float(np.mean(darker < _GROUND_STEP))
    return (
        _LEAST_INK_SHARE < ink < _MOST_INK_SHARE
        and bare >= _GROUND_SHARE
        and 1 - bare - ink <= _MOST_BETWEEN_TO_INK * ink
    )


def _widest(values: NDArray[np.int16]) -> NDArray[np.int16]:
    """The largest value in the window around each place; beyond the edge as at it."""
    for _ in range(2):  # columns, then rows
        margin = _WINDOW_PX // 2
        values, width = np.pad(values.T, ((margin, margin), (0, 0)), mode="edge"), 1
        while width < _WINDOW_PX:
            step = min(width, _WINDOW_PX - width)
            values = np.maximum(values[:-step], values[step:])
            width += step
    return values


def _is_blue(pixels: NDArray[np.uint8], luminance: NDArray[np.int16]) -> bool:
    """Return whether the presumed paper is bluer than paper: a sky behind reeds or branches."""
    if pixels.ndim == 2 or pixels.shape[2] != 3:
        return False
    paper = np.abs(luminance - _paper_tone(luminance)) <= _PAPER_SPREAD
    red, _, blue = pixels[paper].mean(axis=0)
    return bool(blue - red > _BLUER_THAN_PAPER)


def _paper_tone(luminance: NDArray[np.int16]) -> int:
    """The commonest light tone."""
    counts = np.bincount(luminance.ravel(), minlength=256)
    counts[:_PAPER_LUMINANCE] = 0
    return int(counts.argmax())


def _few_tones_share(luminance: NDArray[np.int16]) -> float:
    """The share of pixels that have one of the commonest tones."""
    counts = np.sort(np.bincount(luminance.ravel(), minlength=256))
    return float(counts[-_FEW_TONES:].sum() / luminance.size)


def _flat_share(luminance: NDArray[np.int16]) -> float:
    """Return the share of right and lower neighbours that are nearly equal."""
    steps = [np.abs(np.diff(luminance, axis=axis)) for axis in (0, 1) if luminance.shape[axis] > 1]
    if not steps:
        return 1.0
    return float(np.mean([np.mean(step <= _FLAT_DIFFERENCE) for step in steps]))
