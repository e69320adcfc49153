"""Find words in a picture: marks of like height and strength, in a row."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.words.marks import Mark, find_marks, following

__all__ = ["Word", "find_words"]

Floats = NDArray[np.float32]
Marks = NDArray[np.int32]

# Heights of letters that are looked for, in pixels: smaller ones nobody reads, larger ones no
# treatment makes unreadable.
_LEAST_HEIGHT_PX, _MOST_HEIGHT_PX = 4, 40
# Letters that run into each other may be so many heights wide.
_MOST_WIDTH_OF_HEIGHT = 14.0
_LEAST_FILLED, _MOST_FILLED = 0.12, 0.92
# How far the next letter of a row may stand, and how unlike its height may be, by the height.
_MOST_GAP, _MOST_UNLIKE = 1.1, 2.2
# A row has so many letters, or is so long where they run together.
_LEAST_LETTERS, _LEAST_LENGTH = 4, 5.0
# Letters of a row are of one ink, stand on one line, and fill so much of its box.
_MOST_UNEVEN, _MOST_OFF_LINE = 0.3, 0.22
_LEAST_INK, _MOST_INK = 0.08, 0.62
# The ground between them is even, beside how deep the ink is.
_MOST_GROUND_SPREAD = 0.33
# A picture has words if this many letters stand in rows.
_LEAST_IN_PICTURE = 12
# Chance makes short rows of few of the many marks of a large photo: those in rows are that share
# of all, or one row is that long. Of 8 photos, none above .004 and 5; of text, .06 and more.
_LEAST_SHARE, _LEAST_LONGEST = 0.04, 7
_WORD_LENGTH = 5.0
# Within so many heights around a row, that share of all marks like letters are in rows.
_LOOKED_AROUND, _LEAST_IN_ROWS = 2.5, 0.6


@dataclass(frozen=True, slots=True)
class Word:
    """A piece of a row, about as long as a word: box in pixels, and the height of its letters."""

    left: int
    top: int
    right: int
    low: int
    height_px: float


def find_words(light: Floats) -> list[Word]:
    """Return the words of a picture; none where there are too few letters to be sure.

    light: (height, width) float32, 0 to 255.
    """
    words: list[Word] = []
    letters = longest = count = 0
    for is_dark, found in zip((True, False), find_marks(light), strict=True):
        marks = _like_letters(found)
        count += len(marks)
        rows = [row for row in _rows(marks) if _is_text(light, row, is_dark=is_dark)]
        for row in _standing_alone(rows, marks):
            letters += len(row)
            longest = max(longest, len(row))
            words += _pieces(row)
    is_chance = letters < _LEAST_SHARE * count and longest < _LEAST_LONGEST
    return [] if letters < _LEAST_IN_PICTURE or is_chance else words


def _like_letters(marks: Marks) -> Marks:
    width = marks[:, Mark.RIGHT] - marks[:, Mark.LEFT]
    height = marks[:, Mark.LOW] - marks[:, Mark.TOP]
    filled = marks[:, Mark.AREA] / np.maximum(1, width * height)
    return marks[
        (height >= _LEAST_HEIGHT_PX)
        & (height <= _MOST_HEIGHT_PX)
        & (width <= _MOST_WIDTH_OF_HEIGHT * height)
        & (filled >= _LEAST_FILLED)
        & (filled <= _MOST_FILLED)
    ]


def _rows(marks: Marks) -> Iterator[Marks]:
    """Yield marks that follow one another from left to right, two and more."""
    marks = marks[np.argsort(marks[:, Mark.LEFT], kind="stable")]
    next_of = following(marks, most_gap=_MOST_GAP, most_unlike=_MOST_UNLIKE).tolist()
    is_first = np.ones(len(marks), bool)
    taken = [False] * len(marks)
    for one, other in enumerate(next_of):
        if other >= 0:
            if is_first[other]:
                is_first[other] = False
            else:
                next_of[one] = -1
    for first in np.flatnonzero(is_first).tolist():
        row, at = [], first
        while at >= 0 and not taken[at]:
            taken[at] = True
            row.append(at)
            at = next_of[at]
        if len(row) > 1:
            yield marks[row]


def _is_text(light: Floats, row: Marks, *, is_dark: bool) -> bool:
    height = float(np.median(row[:, Mark.LOW] - row[:, Mark.TOP]))
    left, right = int(row[:, Mark.LEFT].min()), int(row[:, Mark.RIGHT].max())
    is_long = right - left >= _LEAST_LENGTH * height
    if len(row) < _LEAST_LETTERS and not is_long:
        return False
    depths = row[:, Mark.DEPTH] / 16
    if np.std(depths) > _MOST_UNEVEN * np.mean(depths):
        return False
    # Most letters stand on the line; some hang below it.
    off_line = np.abs(row[:, Mark.LOW] - np.median(row[:, Mark.LOW]))
    if np.percentile(off_line, 60) > max(1.0, _MOST_OFF_LINE * height):
        return False
    top, low = int(np.median(row[:, Mark.TOP])), int(np.median(row[:, Mark.LOW]))
    ink = float(row[:, Mark.AREA].sum()) / max(1, (low - top) * (right - left))
    if not _LEAST_INK <= ink <= _MOST_INK:
        return False
    box = light[top:low, left:right]
    ground = np.sort(box.ravel())
    half = ground[len(ground) // 2 :] if is_dark else ground[: len(ground) // 2]
    return bool(np.std(half) <= _MOST_GROUND_SPREAD * np.mean(depths))


def _standing_alone(rows: list[Marks], marks: Marks) -> list[Marks]:
    """Return the rows around which most marks are in such rows too: in grass and rock few are."""
    if not rows:
        return []
    in_rows = np.concatenate(rows)
    kept = []
    for row in rows:
        height = float(np.median(row[:, Mark.LOW] - row[:, Mark.TOP]))
        margin = round(_LOOKED_AROUND * height)
        box = (
            row[:, Mark.LEFT].min() - margin,
            row[:, Mark.TOP].min() - margin,
            row[:, Mark.RIGHT].max() + margin,
            row[:, Mark.LOW].max() + margin,
        )
        around, of_rows = (_count_in(box, some) for some in (marks, in_rows))
        if of_rows >= _LEAST_IN_ROWS * around:
            kept.append(row)
    return kept


def _count_in(box: tuple[int, int, int, int], marks: Marks) -> int:
    left, top, right, low = box
    return int(
        np.count_nonzero(
            (marks[:, Mark.LEFT] < right)
            & (marks[:, Mark.RIGHT] > left)
            & (marks[:, Mark.TOP] < low)
            & (marks[:, Mark.LOW] > top)
        )
    )


def _pieces(row: Marks) -> list[Word]:
    """Divide a row at its wider gaps, and where it is longer than a word."""
    height = float(np.median(row[:, Mark.LOW] - row[:, Mark.TOP]))
    words: list[Word] = []
    start = 0
    for at in range(1, len(row) + 1):
        is_end = at == len(row)
        if not is_end:
            gap = row[at, Mark.LEFT] - row[at - 1, Mark.RIGHT]
            length = row[at, Mark.RIGHT] - row[start, Mark.LEFT]
            if gap <= 0.35 * height and length <= _WORD_LENGTH * height:
                continue
        piece = row[start:at]
        words.append(
            Word(
                int(piece[:, Mark.LEFT].min()),
                int(piece[:, Mark.TOP].min()),
                int(piece[:, Mark.RIGHT].max()),
                int(piece[:, Mark.LOW].max()),
                height,
            )
        )
        start = at
    return words
