"""Intended and actual fidelity of a treated picture."""

from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from lighten.model.plans import Action, Outcome
from lighten.pictures.faults.align import aligned
from lighten.pictures.pixels.planes import luma
from lighten.pictures.scores.held_text import blurred_tiles
from lighten.pictures.scores.visible_loss import Judge, tiles

__all__ = [
    "Intent",
    "below",
    "blurred_places",
    "intent_of",
    "is_lost",
    "is_treated",
    "score_of",
]

# Smaller pictures show nothing that could be judged.
_LEAST_JUDGED_PX = 24
# Stains and edges may go: so many tiles of a page, or that share of those with ink.
_FEW_TILES, _FEW_OF_ALL = 3, 0.02

# What is seen so well has not been lost, whatever its windows say of grain.
_NOT_LOST_SCORE = 38.0
Pixels = NDArray[np.uint8]


class Intent(StrEnum):
    """Fidelity that a treatment intends."""

    SAME_LOOKS = "same-looks"
    GREY = "grey"  # light and dark stay as they are
    OTHER_LOOKS = "other-looks"  # fewer colours, filters: what it shows stays
    OTHER_PICTURE = "other-picture"  # whatever the person brought


# A picture below that has lost what it shows, whatever the treatment asked for.
LEAST_LIKENESS = {
    Intent.SAME_LOOKS: 0.75,
    Intent.GREY: 0.5,
    Intent.OTHER_LOOKS: 0.5,
    Intent.OTHER_PICTURE: 0.0,
}


def is_treated(outcome: Outcome) -> bool:
    return outcome.action in (Action.RECODE, Action.RESAMPLE, Action.REPLACE)


def intent_of(outcome: Outcome) -> Intent:
    if outcome.action is Action.REPLACE:
        return Intent.OTHER_PICTURE
    if outcome.loses_colour:
        return Intent.GREY
    return Intent.OTHER_LOOKS if outcome.changes_looks else Intent.SAME_LOOKS


def score_of(
    original: Pixels, copy: Pixels, *, is_whole: bool = False, is_cut: bool = False
) -> float | None:
    """Score by SSIMULACRA2 in a few regions, or the whole; None where it is too small.

    Both of one size, (height, width, 3) uint8. is_cut: the copy may lie a fraction of a pixel
    beside the original, which nobody sees; their light is compared where it lies.
    """
    if np.array_equal(original, copy):
        return 100.0
    if min(original.shape[:2]) < _LEAST_JUDGED_PX:
        return None
    if is_cut:
        light = luma(copy)
        moved = aligned(luma(original), light)
        original, copy = (np.clip(plane, 0, 255).astype(np.uint8) for plane in (moved, light))
    if is_whole:
        return Judge([original]).score([copy])
    places = tiles((original.shape[1], original.shape[0]))
    before, after = (
        [pixels[top:low, left:right] for left, top, right, low in places]
        for pixels in (original, copy)
    )
    return Judge(before).score(after)


def is_lost(likeness: float, score: float | None, intent: Intent) -> bool:
    """Return whether the picture no longer shows its content."""
    return likeness < LEAST_LIKENESS[intent] and (score is None or score < _NOT_LOST_SCORE)


def below(name: str, score: float | None, least: float) -> list[str]:
    """Yield the fault of a picture below its minimum score; least 0 means no bound."""
    if score is None or not least or round(score) >= least:
        return []
    return [f"{name}: score {score:.0f} of 100, below the {least:.0f} that was asked for"]


def blurred_places(original: Pixels, copy: Pixels) -> list[tuple[int, int]]:
    """Yield row and column of each tile whose text has become unreadable.

    None where that is no more than a stain here and there. Both at 100 ppi, (height, width, 3)
    uint8; tiles are `held_text.TILE_PX` long.
    """
    if np.array_equal(original, copy):
        return []
    with_ink, lost = blurred_tiles(original, copy)
    if int(lost.sum()) <= max(_FEW_TILES, _FEW_OF_ALL * with_ink):
        return []
    return [(row, column) for row, column in np.argwhere(lost).tolist()]
