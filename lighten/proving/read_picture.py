"""A treated picture read for what no score shows: ink, sharpness, colours; in words."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.model.proofs import Box
from lighten.pictures.faults.fault import Fault, FaultKind
from lighten.pictures.faults.find_faults import find_faults
from lighten.pictures.words.legibility import lost_words
from lighten.proving.treated import Intent

__all__ = ["PictureRead", "Place", "finest_provable_mm", "read_picture", "unreadable_words"]

# Smaller ones show nothing that could be read at their fineness.
_LEAST_READ_PPI = 30.0
_POINTS_PER_MM = 72 / 25.4
# What a pixel or so hides, in millimetres by ppi: dots under .3 mm at 110, under .22 at 150
# (FINDINGS, "Seeing a lost digit").
_PROVABLE_MM_TIMES_PPI = 33.0
_PLAIN_TINT = 8 / 3
_MOST_PLACES = 20

# Crisp strokes differ as those do that were sharpened, for which FINDINGS has 1.5 times the bound:
# pages that layers had been read by themselves before, at the bound, came out below 1.25.
_LEAST_OF_LAYERS = 1.3

_INK_WORDS = {
    FaultKind.LOST_INK: "ink is missing",
    FaultKind.ADDED_INK: "ink stands that the original does not have",
}

Floats = NDArray[np.float32]
Pixels = NDArray[np.uint8]
Place = tuple[int, int, int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureRead:
    """faults: in words. places: where, in points, the plainest first.

    tint: "a little warmer" and the like, where that is all. unreadable: words that can no longer
    be read, in words; or "". score: of a picture that was cut; None for others.
    """

    faults: tuple[str, ...] = ()
    places: tuple[Box, ...] = ()
    tint: str = ""
    unreadable: str = ""
    score: float | None = None


def read_picture(
    original: Pixels,
    copy: Pixels,
    *,
    name: str,
    ppi: float,
    intent: Intent,
    to_points: Callable[[Place], tuple[Box, float]],
    is_drawn: bool = False,
    is_layered: bool = False,
) -> PictureRead:
    """Return the findings in a copy that was to show the same.

    original, copy: (height, width, 3) uint8 as both documents show it, `ppi` as fine.
    is_drawn: by a reader that had to fit pixels to others. is_layered: its strokes are crisp now,
    which each reader draws a little wider or lighter. to_points: a place in pixels as a box
    in points, and how far its top lies below the upper edge.
    """
    if intent not in (Intent.SAME_LOOKS, Intent.GREY) or ppi < _LEAST_READ_PPI:
        return PictureRead()
    if np.array_equal(original, copy):
        return PictureRead()
    found = find_faults(
        original, copy, ppi=ppi, judges_colour=intent is Intent.SAME_LOOKS, is_drawn=is_drawn
    )
    if is_layered:
        found = tuple(
            fault
            for fault in found
            if fault.kind not in _INK_WORDS or fault.strength > _LEAST_OF_LAYERS
        )
    words: list[str] = []
    places: list[Box] = []
    for kind, what in _INK_WORDS.items():
        of_kind = sorted((fault for fault in found if fault.kind is kind), key=_by_strength)
        if of_kind:
            words.append(f"in {name} {what}, {_where(of_kind, to_points)}")
            places += [to_points(fault.place)[0] for fault in of_kind if fault.place]
    if any(fault.kind is FaultKind.SOFT for fault in found):
        words.append(f"in {name} strokes and edges are blurred")
    tint = ""
    for fault in found:
        if fault.kind is FaultKind.TINT and fault.strength > _PLAIN_TINT:
            words.append(f"in {name} colours are plainly {fault.words}")
        elif fault.kind is FaultKind.TINT:
            tint = f"a little {fault.words}"
    return PictureRead(faults=tuple(words), places=tuple(places[:_MOST_PLACES]), tint=tint)


def unreadable_words(
    original: Floats,
    copy: Pixels,
    *,
    name: str,
    to_points: Callable[[Place], tuple[Box, float]],
) -> tuple[str, tuple[Box, ...]]:
    """Say which words can no longer be read, and where; "" for none.

    original: its light, (height, width) float32, no finer than words are looked for. copy:
    (height, width, 3) uint8.
    to_points: a place in pixels of the original.
    """
    lost, count = lost_words(original, copy)
    if not lost:
        return "", ()
    boxes = [(word.left, word.top, word.right, word.low) for word in lost]
    (left, _, _, _), top = to_points(boxes[0])
    at = f"{left / _POINTS_PER_MM:.0f} mm from the left and {top / _POINTS_PER_MM:.0f} from the top"
    text = (
        f"words in {name} can no longer be read, {len(lost)} of {count} pieces of text, the first "
        f"{at}"
    )
    return text, tuple(to_points(box)[0] for box in boxes[:_MOST_PLACES])


def finest_provable_mm(ppi: float) -> float:
    """Return the size below which a lost dot could go unseen at a resolution."""
    return round(_PROVABLE_MM_TIMES_PPI / ppi, 2)


def _by_strength(fault: Fault) -> float:
    return -fault.strength


def _where(faults: Sequence[Fault], to_points: Callable[[Place], tuple[Box, float]]) -> str:
    """The plainest place, as one finds it with a ruler."""
    place = faults[0].place
    assert place is not None
    (left, _, _, _), top = to_points(place)
    at = f"{left / _POINTS_PER_MM:.0f} mm from the left and {top / _POINTS_PER_MM:.0f} from the top"
    return at if len(faults) == 1 else f"in {len(faults)} places, most plainly {at}"
