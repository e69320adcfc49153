"""Pictures of a document without pages side by side, as large as they are shown."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.contract import PicturesReading
from lighten.model.errors import LightenError
from lighten.model.proofs import Box, PictureProof
from lighten.pictures.faults.find_faults import MOST_READ_PPI
from lighten.pictures.pixels.filters import level
from lighten.pictures.pixels.planes import luma
from lighten.pictures.pixels.sizes import SCREEN_PPI, pixels_at
from lighten.pictures.scores.held_text import TILE_PX
from lighten.pictures.scores.likeness import WINDOW_PX, compare, tones_alike
from lighten.pictures.words.legibility import ENOUGH_PPI, READ_PPI, light_at
from lighten.proving.read_picture import PictureRead, read_picture, unreadable_words
from lighten.proving.treated import Intent, below, blurred_places, is_lost, score_of

__all__ = ["PicturePair", "are_same_shape", "at_shown_size", "at_size", "compare_picture"]

# As a screen shows them to somebody who looks closely; text is read at fewer.
JUDGED_PPI, _READ_PPI = 150.0, 100.0
_POINTS_PER_INCH = 72.0
# Of width to height: what rounding to whole pixels may do.
_MOST_OUT_OF_SHAPE_PX = 1.0

Pixels = NDArray[np.uint8]

_UNREAD = (LightenError, KeyError, IndexError)
_NOT_IN_ORIGINAL = "cannot be drawn from the original, so it was not compared"
_NOT_IN_COPY = "cannot be drawn from the copy"


@dataclass(frozen=True, slots=True, kw_only=True)
class PicturePair:
    """One picture to compare. shown_pt: the largest it is shown at, in 1/72 inch; None if nowhere.

    holds_text: it is a page, as a scan. name: for messages. is_framed: its frame says what shape
    it is shown in, else it is shown in its own. least_score: what it is to look like at least.
    turned_degrees: with the clock, where straightening was asked for. may_lose_words: a person
    chose fewer pixels than its small print needs.
    """

    part_id: str
    name: str
    shown_pt: tuple[float, float] | None
    intent: Intent
    holds_text: bool
    is_framed: bool = False
    least_score: float = 0.0
    turned_degrees: float = 0.0
    may_lose_words: bool = False


def compare_picture(
    pair: PicturePair, before: PicturesReading, after: PicturesReading
) -> PictureProof:
    """A picture as both documents show it; may run in a thread beside others."""
    try:
        mark = before.fingerprint(pair.part_id)
    except _UNREAD:
        return _unread(pair, _NOT_IN_ORIGINAL)
    try:
        is_same = mark == after.fingerprint(pair.part_id)
    except _UNREAD:
        return _unread(pair, _NOT_IN_COPY)
    if is_same:
        return PictureProof(
            part_id=pair.part_id,
            page=None,
            likeness=1.0,
            score=100.0,
            size_pt=pair.shown_pt or (0.0, 0.0),
        )
    try:
        original = before.picture(pair.part_id, _enough(pair))
    except _UNREAD:
        return _unread(pair, _NOT_IN_ORIGINAL)
    try:
        copy = after.picture(pair.part_id, _enough(pair))
    except _UNREAD:
        return _unread(pair, _NOT_IN_COPY)
    return _compared(pair, level(original, pair.turned_degrees), copy)


def _enough(pair: PicturePair) -> tuple[int, int] | None:
    """Return twice the pixels that are viewed: decoding at fewer costs quality."""
    if not pair.is_framed or pair.shown_pt is None:
        return None
    across, down = pixels_at(pair.shown_pt, JUDGED_PPI)
    return 2 * across, 2 * down


def _compared(pair: PicturePair, original: Pixels, copy: Pixels) -> PictureProof:
    is_framed = pair.is_framed and pair.shown_pt is not None
    shown = pair.shown_pt if is_framed and pair.shown_pt else _shown_upright(pair, original)
    if np.array_equal(original, copy):
        return PictureProof(
            part_id=pair.part_id, page=None, likeness=1.0, score=100.0, size_pt=shown
        )
    is_other = pair.intent is Intent.OTHER_PICTURE
    if not is_other and not is_framed and not are_same_shape(original, copy):
        return _unread(pair, "has another shape, or another side up, in the copy")
    size = _judged_px(shown, original, copy)
    one, other = at_size(original, size), at_size(copy, size)
    similar = compare(one, other)
    rows, columns = (slice(0, side) for side in similar.similar.shape)
    score = close_score = None
    if pair.intent is Intent.SAME_LOOKS:
        alike = similar.likeness()
        score = score_of(
            *(at_shown_size(pixels, shown, SCREEN_PPI, original) for pixels in (original, copy)),
            is_whole=not pair.is_framed,
        )
        close_score = score_of(one, other, is_whole=not pair.is_framed)
    else:
        alike = tones_alike(luma(one), luma(other), rows, columns)
    read = _read(pair, shown, original, copy)
    blurred = _blurred(pair, shown, original, copy)
    unreadable, unread_places = _unreadable(pair, shown, original, copy)
    has_gone = is_lost(alike, score, pair.intent)
    faults = (
        [f"{pair.name} has lost what it shows"]
        if has_gone
        else [
            *read.faults,
            *([f"text in {pair.name} has become hard to read"] if blurred else ()),
            *below(pair.name, score, pair.least_score),
            *filter(None, (unreadable,)),
        ]
    )
    return PictureProof(
        part_id=pair.part_id,
        page=None,
        likeness=alike,
        score=score,
        close_score=close_score,
        size_pt=shown,
        worst=_worst(similar.similar, one.shape[0]),
        is_lost=has_gone,
        places=(*read.places, *blurred, *unread_places),
        faults=tuple(faults),
        unreadable=unreadable,
        may_be_unreadable=pair.may_lose_words,
        tint=read.tint,
    )


def _judged_px(shown: tuple[float, float], original: Pixels, copy: Pixels) -> tuple[int, int]:
    """Return the size to judge at: the copy's own, or the viewed size if larger.

    One pixel more or fewer, as rounding a cut picture gives, would soften the copy alone.
    """
    width, height = _shown_px(shown, JUDGED_PPI, original)
    own_height, own_width = copy.shape[:2]
    is_own = abs(own_width - width) <= 1 and abs(own_height - height) <= 1
    return (own_width, own_height) if is_own else (width, height)


def _read(
    pair: PicturePair, shown: tuple[float, float], original: Pixels, copy: Pixels
) -> PictureRead:
    """Read text in it, at the resolution of the copy."""
    width_pt, height_pt = shown
    ppi = min(copy.shape[1] / width_pt, copy.shape[0] / height_pt) * _POINTS_PER_INCH
    if ppi > MOST_READ_PPI:
        ppi = MOST_READ_PPI
        original, copy = (at_shown_size(pixels, shown, ppi, pixels) for pixels in (original, copy))
    share = width_pt / min(original.shape[1], copy.shape[1])

    def to_points(place: tuple[int, int, int, int]) -> tuple[Box, float]:
        left, top, right, low = (side * share for side in place)
        sides = (left, height_pt - low, right, height_pt - top)
        return tuple(round(side, 1) for side in sides), top

    return read_picture(
        original, copy, name=pair.name, ppi=ppi, intent=pair.intent, to_points=to_points
    )


def _unreadable(
    pair: PicturePair, shown: tuple[float, float], original: Pixels, copy: Pixels
) -> tuple[str, tuple[Box, ...]]:
    """Name the words that can no longer be read, if the copy has few enough pixels for that."""
    width_pt, height_pt = shown
    ppi = copy.shape[1] / width_pt * _POINTS_PER_INCH
    if pair.intent not in (Intent.SAME_LOOKS, Intent.GREY) or ppi >= ENOUGH_PPI:
        return "", ()
    at_reading = light_at(original, _shown_px(shown, READ_PPI, original))
    share = width_pt / at_reading.shape[1]

    def to_points(place: tuple[int, int, int, int]) -> tuple[Box, float]:
        left, top, right, low = (side * share for side in place)
        sides = (left, height_pt - low, right, height_pt - top)
        return tuple(round(side, 1) for side in sides), top

    return unreadable_words(at_reading, copy, name=pair.name, to_points=to_points)


def _shown_upright(pair: PicturePair, original: Pixels) -> tuple[float, float]:
    """Return the shown size in points, rotated to the stored orientation."""
    height, width = original.shape[:2]
    longest = max(pair.shown_pt or (float(width), float(height)))
    return longest * width / max(width, height), longest * height / max(width, height)


def _unread(pair: PicturePair, what: str) -> PictureProof:
    return PictureProof(
        part_id=pair.part_id,
        page=None,
        likeness=0.0,
        is_lost=True,
        faults=(f"{pair.name} {what}",),
    )


def are_same_shape(original: Pixels, copy: Pixels) -> bool:
    (height, width), (other_height, other_width) = original.shape[:2], copy.shape[:2]
    exact_height = other_width * height / width
    exact_width = other_height * width / height
    off = min(abs(other_height - exact_height), abs(other_width - exact_width))
    return bool(off <= _MOST_OUT_OF_SHAPE_PX)


def at_shown_size(
    pixels: Pixels, shown_pt: tuple[float, float], ppi: float, original: Pixels
) -> Pixels:
    """The picture as a screen of `ppi` shows it, no finer than the original is."""
    return at_size(pixels, _shown_px(shown_pt, ppi, original))


def _shown_px(shown_pt: tuple[float, float], ppi: float, original: Pixels) -> tuple[int, int]:
    height, width = original.shape[:2]
    across, down = pixels_at(shown_pt, ppi)
    return min(width, across), min(height, down)


def at_size(pixels: Pixels, size_px: tuple[int, int]) -> Pixels:
    """The picture over (width, height) pixels, if it has others."""
    from PIL import Image

    if size_px == (pixels.shape[1], pixels.shape[0]):
        return pixels
    return np.asarray(
        Image.fromarray(pixels).resize(size_px, Image.Resampling.BICUBIC, reducing_gap=3.0)
    )


def _blurred(
    pair: PicturePair, shown: tuple[float, float], original: Pixels, copy: Pixels
) -> tuple[Box, ...]:
    """Return boxes of text that has become hard to read, in points from the lower left."""
    if not pair.holds_text or pair.intent is not Intent.OTHER_LOOKS:
        return ()
    one, other = (at_shown_size(pixels, shown, _READ_PPI, original) for pixels in (original, copy))
    share = _POINTS_PER_INCH / _READ_PPI
    return tuple(
        _box(column * TILE_PX, row * TILE_PX, TILE_PX, one.shape[0], share)
        for row, column in blurred_places(one, other)
    )


def _worst(similar: NDArray[np.float32], height_px: int) -> Box | None:
    """The place, about as large as a word, where the two are least alike."""
    if not similar.size or similar.min() >= 1:
        return None
    row, column = np.unravel_index(int(np.argmin(similar)), similar.shape)
    share = _POINTS_PER_INCH / JUDGED_PPI
    return _box(int(column) * WINDOW_PX, int(row) * WINDOW_PX, WINDOW_PX, height_px, share)


def _box(left: int, top: int, side: int, height_px: int, share: float) -> Box:
    low, high = height_px - top - side, height_px - top
    return (
        round(left * share, 1),
        round(low * share, 1),
        round((left + side) * share, 1),
        round(high * share, 1),
    )
