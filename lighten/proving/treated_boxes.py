"""Boxes and pictures of an original that were treated, and the resolution to read them at."""

import math
from dataclasses import dataclass

from lighten.model.kinds import PictureClass
from lighten.model.plans import Action, Outcome
from lighten.model.proofs import Box
from lighten.model.weights import PictureFacts, Placement, WeightSheet
from lighten.pictures.faults.find_faults import MOST_READ_PPI
from lighten.pictures.scans.failing_places import LAYERS_READ_PPI
from lighten.proving.pictures import PicturePair
from lighten.proving.treated import Intent, intent_of, is_treated

__all__ = ["TreatedBox", "copy_ppi", "picture_pairs", "shown_area", "treated_boxes"]

_POINTS_PER_INCH = 72.0
_LINES = (PictureClass.BITONAL, PictureClass.MASK)


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatedBox:
    """Place where a page shows a treated picture; boxes in points from the page's lower left.

    box: of all of it. visible_box: what clipping leaves of it. name: for messages. read_px: over
    how many pixels it is read; None where it need not be, as it is read elsewhere. is_plain: all
    of it is there, and no mask hides any. is_cut: what was hidden is gone, and the rest lies a
    fraction of a pixel beside where it lay, which is not seen. holds_text: it is the page, as a
    scan. least_score: what it is to look like at least. is_layered: it has become paper, strokes
    and pictures apart. turned_degrees: with the clock, of a scan that was straightened, and its
    page with it. ppi: how fine it is in the copy. original_px: width and height in the original.
    may_lose_words: a person chose fewer pixels than its small print needs.
    """

    part_id: str
    box: Box
    visible_box: Box
    name: str = "a picture"
    intent: Intent = Intent.SAME_LOOKS
    read_px: tuple[int, int] | None = None
    is_plain: bool = False
    is_cut: bool = False
    holds_text: bool = False
    least_score: float = 0.0
    is_layered: bool = False
    turned_degrees: float = 0.0
    ppi: float | None = None
    original_px: tuple[int, int] = (0, 0)
    may_lose_words: bool = False


def treated_boxes(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> dict[int, list[TreatedBox]]:
    """Return, for each page, the boxes of pictures that were treated with loss."""
    treated = {outcome.part_id: outcome for outcome in outcomes if is_treated(outcome)}
    boxes: dict[int, list[TreatedBox]] = {}
    for part in sheet.parts:
        if part.picture is None or part.id not in treated:
            continue
        outcome = treated[part.id]
        placements = [at for at in part.picture.placements if at.page is not None and at.box]
        largest = max(placements, key=shown_area, default=None)
        for placement in placements:
            assert placement.page is not None and placement.box is not None
            boxes.setdefault(placement.page, []).append(
                TreatedBox(
                    part_id=part.id,
                    name=part.name,
                    box=placement.box,
                    visible_box=placement.visible_box or placement.box,
                    intent=intent_of(outcome),
                    # The same picture is read once, where it is largest.
                    read_px=_read_px(part.picture, outcome, placement)
                    if placement is largest
                    else None,
                    ppi=copy_ppi(part.picture, outcome, placement),
                    original_px=(part.picture.width_px, part.picture.height_px),
                    may_lose_words=outcome.may_lose_words,
                    is_plain=not part.picture.mask and not outcome.is_cut,
                    is_cut=outcome.is_cut,
                    holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
                    least_score=outcome.least_score,
                    is_layered=outcome.is_layered,
                    turned_degrees=outcome.turned_degrees,
                )
            )
    return boxes


def shown_area(placement: Placement) -> float:
    return placement.width_pt * placement.height_pt


def _read_px(facts: PictureFacts, outcome: Outcome, placement: Placement) -> tuple[int, int] | None:
    """Return the number of pixels to read a box at: that of the copy's picture if known."""
    ppi = copy_ppi(facts, outcome, placement)
    box = placement.visible_box if outcome.is_cut else placement.box
    if ppi is None or box is None or outcome.size_px is None:
        return None
    left, low, right, high = box
    width, height = outcome.size_px
    is_whole = not (outcome.is_cut or outcome.is_layered)
    if ppi <= MOST_READ_PPI and is_whole and facts.picture_class not in _LINES:
        sides = (placement.width_pt, placement.height_pt)
        if _are_near((right - left, high - low), sides):
            return width, height
        if _are_near((high - low, right - left), sides):
            return height, width
    ppi = min(ppi, LAYERS_READ_PPI if outcome.is_layered else MOST_READ_PPI)
    if facts.picture_class in _LINES:
        # Divided anew, edges lie up to half a pixel beside where they lay.
        ppi /= 2
    return (
        max(1, round((right - left) * ppi / _POINTS_PER_INCH)),
        max(1, round((high - low) * ppi / _POINTS_PER_INCH)),
    )


def _are_near(one: tuple[float, float], other: tuple[float, float]) -> bool:
    return all(abs(a - b) <= 0.01 * b for a, b in zip(one, other, strict=True))


def copy_ppi(facts: PictureFacts, outcome: Outcome, placement: Placement) -> float | None:
    """Return the resolution of the copy's picture in the box."""
    if outcome.size_px is None or not shown_area(placement):
        return None
    left, top, right, bottom = facts.visible if outcome.is_cut else (0.0, 0.0, 1.0, 1.0)
    shown = shown_area(placement) * (right - left) * (bottom - top)
    width, height = outcome.size_px
    return float(math.sqrt(width * height / shown)) * _POINTS_PER_INCH if shown else None


def picture_pairs(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> list[PicturePair]:
    """Return a pair for every picture of the copy, treated or not."""
    return [
        PicturePair(
            part_id=part.id,
            name=part.name,
            shown_pt=_in_sight(part.picture),
            intent=intent_of(outcome),
            holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
            is_framed=not part.picture.is_alone,
            least_score=outcome.least_score,
            turned_degrees=outcome.turned_degrees,
            may_lose_words=outcome.may_lose_words,
        )
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
        if part.picture is not None and outcome.action is not Action.DROP
    ]


def _in_sight(facts: PictureFacts) -> tuple[float, float] | None:
    """Return the shown size of the visible part of a picture."""
    shown, (left, top, right, bottom) = facts.largest_display_pt, facts.visible
    return None if shown is None else (shown[0] * (right - left), shown[1] * (bottom - top))
