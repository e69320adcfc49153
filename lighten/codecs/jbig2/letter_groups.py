"""Groups of equal and near letters, for the symbol dictionary of JBIG2."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jbig2.letters import MOST_PX, WORD_BITS, Bytes, Letters, Numbers, Shapes
from lighten.compiled import compiled, jit_helper

__all__ = ["Groups", "group_letters"]

# What two may differ by in width or height, and in pixels as a share of ink, to be held together.
_MOST_LONGER, _MOST_UNLIKE = 2, 0.22


@dataclass(frozen=True, slots=True, kw_only=True)
class Groups:
    """Letters that are like one another.

    of_letter: the group of each letter. moved: (n, 2) how far right and down what the group has in
    common is moved to lie on the letter. common: of each group, the pixels that most have.
    """

    of_letter: Numbers
    moved: Numbers
    common: Shapes

    def are_common(self, letters: Shapes) -> NDArray[np.bool_]:
        """Return, for each letter, whether it equals the common bitmap of its group."""
        same = np.zeros(len(letters), np.uint8)
        common = self.common
        _compare(
            *(letters.width, letters.height, letters.first_row, letters.rows),
            *(common.width, common.height, common.first_row, common.rows),
            *(self.of_letter, self.moved, same),
        )
        return same.view(np.bool_)


def group_letters(letters: Letters) -> Groups:
    """Put each letter into the group it resembles most, or into a new one."""
    count, shapes = len(letters), letters.shapes
    order = np.lexsort((shapes.width, shapes.height)).astype(np.int32)
    of_letter = np.full(count, -1, np.int32)
    moved = np.zeros((count, 2), np.int32)
    leaders = np.zeros(count, np.int32)
    _group(
        order,
        shapes.width,
        shapes.height,
        letters.ink,
        shapes.first_row,
        shapes.rows,
        np.zeros((count, 2), np.float32),
        _MOST_UNLIKE,
        of_letter,
        moved,
        np.full((MOST_PX + 1, MOST_PX + 1), -1, np.int32),
        np.zeros(count, np.int32),
        leaders,
    )
    leaders = leaders[: int(of_letter.max(initial=-1)) + 1]
    return Groups(
        of_letter=of_letter, moved=moved, common=_common(shapes, of_letter, moved, leaders)
    )


def _common(shapes: Shapes, of_letter: Numbers, moved: Numbers, leaders: Numbers) -> Shapes:
    """Return the pixels that most letters of each group share, aligned to its first letter."""
    width, height = shapes.width[leaders], shapes.height[leaders]
    first_row = np.concatenate([[0], np.cumsum(height)]).astype(np.int32)
    rows = np.zeros(int(first_row[-1]), np.uint64)
    members = np.argsort(of_letter, kind="stable").astype(np.int32)
    begins = np.searchsorted(of_letter[members], np.arange(len(leaders) + 1)).astype(np.int32)
    _vote(
        members,
        begins,
        moved,
        shapes.height,
        shapes.first_row,
        shapes.rows,
        width,
        height,
        first_row,
        rows,
    )
    return Shapes(width=width, height=height, first_row=first_row, rows=rows)


@compiled
def _compare(
    width: Numbers,
    height: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
    common_width: Numbers,
    common_height: Numbers,
    common_row: Numbers,
    common_rows: NDArray[np.uint64],
    of_letter: Numbers,
    moved: Numbers,
    same: Bytes,
) -> None:  # pragma: no cover - compiled
    for n in range(len(width)):
        g = of_letter[n]
        is_same = width[n] == common_width[g] and height[n] == common_height[g]
        is_same = is_same and moved[n, 0] == 0 and moved[n, 1] == 0
        for y in range(height[n] if is_same else 0):
            if rows[first_row[n] + y] != common_rows[common_row[g] + y]:
                is_same = False
                break
        same[n] = is_same


@compiled
def _vote(
    members: Numbers,
    begins: Numbers,
    moved: Numbers,
    letter_height: Numbers,
    letter_row: Numbers,
    letter_rows: NDArray[np.uint64],
    width: Numbers,
    height: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
) -> None:  # pragma: no cover - compiled
    for g in range(len(width)):
        for y in range(height[g]):
            common = np.uint64(0)
            for x in range(width[g]):
                votes = 0
                for n in range(begins[g], begins[g + 1]):
                    letter = members[n]
                    own_x, own_y = x + moved[letter, 0], y + moved[letter, 1]
                    if 0 <= own_y < letter_height[letter] and 0 <= own_x < WORD_BITS:
                        bits = letter_rows[letter_row[letter] + own_y]
                        votes += int((bits >> np.uint64(own_x)) & np.uint64(1))
                if 2 * votes > begins[g + 1] - begins[g]:
                    common |= np.uint64(1) << np.uint64(x)
            rows[first_row[g] + y] = common


@jit_helper
def _ones(bits: np.uint64) -> int:  # pragma: no cover - compiled
    """Return the number of bits that are set."""
    bits = bits - ((bits >> np.uint64(1)) & np.uint64(0x5555555555555555))
    bits = (bits & np.uint64(0x3333333333333333)) + (
        (bits >> np.uint64(2)) & np.uint64(0x3333333333333333)
    )
    bits = (bits + (bits >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return int((bits * np.uint64(0x0101010101010101)) >> np.uint64(56))


@compiled
def _group(
    order: Numbers,
    width: Numbers,
    height: Numbers,
    ink: Numbers,
    first_row: Numbers,
    rows: NDArray[np.uint64],
    centres: NDArray[np.float32],
    most_unlike: float,
    group: Numbers,
    moved: Numbers,
    heads: Numbers,
    following: Numbers,
    leaders: Numbers,
) -> None:  # pragma: no cover - compiled
    """Group letters of equal size in chains. heads, following: by width and height, groups whose
    first letter has that size.
    """
    groups = 0
    for n in range(len(order)):
        letter = order[n]
        across = down = 0.0
        for y in range(height[letter]):
            bits = rows[first_row[letter] + y]
            in_row = _ones(bits)
            down += in_row * y
            for x in range(width[letter]):
                if (bits >> np.uint64(x)) & np.uint64(1):
                    across += x
        centres[letter, 0] = across / ink[letter]
        centres[letter, 1] = down / ink[letter]
    for n in range(len(order)):
        letter = order[n]
        w, h = width[letter], height[letter]
        best, best_unlike, best_x, best_y = -1, int(most_unlike * ink[letter]), 0, 0
        for other_h in range(max(1, h - _MOST_LONGER), min(MOST_PX, h + _MOST_LONGER) + 1):
            for other_w in range(max(1, w - _MOST_LONGER), min(MOST_PX, w + _MOST_LONGER) + 1):
                g = heads[other_h, other_w]
                while g >= 0:
                    leader = leaders[g]
                    if abs(ink[leader] - ink[letter]) <= best_unlike:
                        x = int(np.floor(centres[letter, 0] - centres[leader, 0] + 0.5))
                        y = int(np.floor(centres[letter, 1] - centres[leader, 1] + 0.5))
                        unlike = 0
                        for row in range(min(0, y), max(h, other_h + y)):
                            one = two = np.uint64(0)
                            if 0 <= row < h:
                                one = rows[first_row[letter] + row]
                            if 0 <= row - y < other_h:
                                two = rows[first_row[leader] + row - y]
                            if x >= 0:
                                two = two << np.uint64(x)
                            else:
                                one = one << np.uint64(-x)
                            unlike += _ones(one ^ two)
                            if unlike > best_unlike:
                                break
                        if unlike < best_unlike or (unlike == 0 and best < 0):
                            best, best_unlike, best_x, best_y = g, unlike, x, y
                    g = following[g]
        if best < 0:
            best = groups
            groups += 1
            leaders[best] = letter
            following[best] = heads[h, w]
            heads[h, w] = best
        group[letter] = best
        moved[letter, 0] = best_x
        moved[letter, 1] = best_y
