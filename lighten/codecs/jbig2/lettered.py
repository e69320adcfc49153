"""Letters coded by how they differ from what letters like them have in common (6.4, 6.5).

Each comes out with just its own pixels: nothing takes the place of anything else.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jbig2.letter_groups import Groups, group_letters
from lighten.codecs.jbig2.letters import Letters, Shapes, find_letters
from lighten.codecs.jbig2.operations import Bitmap, Operations, code
from lighten.codecs.jbig2.pixels import FRAME
from lighten.codecs.jbig2.segments import dictionary_segment, text_segment
from lighten.compiled import compiled

__all__ = ["encode_letters"]

Bytes = NDArray[np.uint8]
Numbers = NDArray[np.int32]

# A group is worth a symbol from two letters on, a dictionary from some of them.
_FEWEST_IN_GROUP, _FEWEST_LETTERS = 2, 20
# A page of the smallest print has fewer; more are the dots of a halftone, and would take long.
_MOST_LETTERS = 40_000


def encode_letters(number: int, black: NDArray[np.bool_]) -> tuple[bytes, NDArray[np.bool_]] | None:
    """Encode letters as two segments; return them and the rest of the picture.

    None where too few are like others, or where there are too many to be letters.
    """
    letters = find_letters(black)
    if not _FEWEST_LETTERS <= len(letters) <= _MOST_LETTERS:
        return None
    groups = group_letters(letters)
    sizes = np.bincount(groups.of_letter)
    placed = np.flatnonzero(sizes[groups.of_letter] >= _FEWEST_IN_GROUP)
    if len(placed) < _FEWEST_LETTERS:
        return None
    common = groups.common
    used = np.flatnonzero(sizes >= _FEWEST_IN_GROUP)
    symbols = used[np.lexsort((common.width[used], common.height[used]))]
    pixels, of_letters, of_groups = _unpacked(letters.shapes, common)
    segments = dictionary_segment(
        number, 0, len(symbols), _dictionary([of_groups[g] for g in symbols], pixels)
    ) + text_segment(
        number + 1,
        number,
        (black.shape[1], black.shape[0]),
        code=_text(letters, groups, placed, symbols, (pixels, of_letters, of_groups)),
        count=len(placed),
    )
    rest = black.copy()
    shapes = letters.shapes
    _erase(
        placed.astype(np.int32),
        letters.left,
        letters.top,
        shapes.height,
        shapes.first_row,
        shapes.rows,
        rest.view(np.uint8),
    )
    return segments, rest


def _unpacked(*shapes: Shapes) -> tuple[Bytes, list[Bitmap], list[Bitmap]]:
    """Every bitmap, a byte a pixel, with its frame; and where those of either kind are."""
    width = np.concatenate([of.width for of in shapes])
    height = np.concatenate([of.height for of in shapes])
    ends = np.cumsum((width + 2 * FRAME) * (height + 2 * FRAME))
    first = np.concatenate([[0], ends[:-1]]) + FRAME * (width + 2 * FRAME) + FRAME
    pixels = np.zeros(int(ends[-1]), np.uint8)
    begin = 0
    bitmaps: list[list[Bitmap]] = []
    for of in shapes:
        own = first[begin : begin + len(of)].astype(np.int64)
        _unpack(own, of.width, of.height, of.first_row, of.rows, FRAME, pixels)
        bitmaps.append(list(zip(own.tolist(), of.width.tolist(), of.height.tolist(), strict=True)))
        begin += len(of)
    return pixels, bitmaps[0], bitmaps[1]


def _dictionary(symbols: Sequence[Bitmap], pixels: Bytes) -> bytes:
    """Return the dictionary by height, then by width (6.5.5); all symbols may be used (6.5.10)."""
    operations = Operations()
    before_height = before_width = 0
    for n, symbol in enumerate(symbols):
        _, width, height = symbol
        if height != before_height:
            if n:
                operations.none("IADW")
            operations.whole("IADH", height - before_height)
            before_height, before_width = height, 0
        operations.whole("IADW", width - before_width)
        operations.bitmap(symbol)
        before_width = width
    operations.none("IADW")
    operations.whole("IAEX", 0)
    operations.whole("IAEX", len(symbols))
    return code(operations, pixels)


def _text(
    letters: Letters,
    groups: Groups,
    placed: NDArray[np.int64],
    symbols: NDArray[np.int64],
    store: tuple[Bytes, list[Bitmap], list[Bitmap]],
) -> bytes:
    """Encode letters by rows of their baselines, from the left (6.4.5); one row a strip is
    smallest.
    """
    pixels, of_letters, of_groups = store
    number = {int(group): place for place, group in enumerate(symbols)}
    foot = letters.top + letters.shapes.height - 1
    is_common = groups.are_common(letters.shapes)
    operations = Operations()
    operations.whole("IADT", 0)
    row = first_left = right = 0
    for n, letter in enumerate(placed[np.lexsort((letters.left[placed], foot[placed]))].tolist()):
        left = int(letters.left[letter])
        if n == 0 or foot[letter] != row:
            if n:
                operations.none("IADS")
            operations.whole("IADT", int(foot[letter]) - row)
            operations.whole("IAFS", left - first_left)
            row, first_left = int(foot[letter]), left
        else:
            operations.whole("IADS", left - right)
        group = int(groups.of_letter[letter])
        operations.symbol(number[group])
        bitmap, like = of_letters[letter], of_groups[group]
        moved = (int(groups.moved[letter, 0]), int(groups.moved[letter, 1]))
        if is_common[letter]:
            operations.whole("IARI", 0)
        else:
            _change(operations, bitmap, like, moved)
        right = left + bitmap[1] - 1
    operations.none("IADS")
    bits = max(0, (len(symbols) - 1).bit_length())
    return code(operations, pixels, symbol_bits=bits)


def _change(operations: Operations, bitmap: Bitmap, like: Bitmap, moved: tuple[int, int]) -> None:
    """Encode a letter as a refinement of its group's common bitmap (6.4.11)."""
    operations.whole("IARI", 1)
    wider, higher = bitmap[1] - like[1], bitmap[2] - like[2]
    operations.whole("IARDW", wider)
    operations.whole("IARDH", higher)
    operations.whole("IARDX", moved[0] - (wider >> 1))
    operations.whole("IARDY", moved[1] - (higher >> 1))
    operations.change(bitmap, like, moved)


@compiled
def _unpack(
    first: NDArray[np.int64],
    width: Numbers,
    height: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
    frame: int,
    pixels: Bytes,
) -> None:  # pragma: no cover - compiled
    for n in range(len(first)):
        for y in range(height[n]):
            row = first[n] + y * (width[n] + 2 * frame)
            bits = rows[first_row[n] + y]
            for x in range(width[n]):
                pixels[row + x] = (bits >> np.uint64(x)) & np.uint64(1)


@compiled
def _erase(
    placed: Numbers,
    left: Numbers,
    top: Numbers,
    height: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
    pixels: Bytes,
) -> None:  # pragma: no cover - compiled
    """Make the pixels of those letters white."""
    for n in range(len(placed)):
        letter = placed[n]
        for y in range(height[letter]):
            bits = rows[first_row[letter] + y]
            x = left[letter]
            while bits:
                if bits & np.uint64(1):
                    pixels[top[letter] + y, x] = 0
                bits = bits >> np.uint64(1)
                x += 1
