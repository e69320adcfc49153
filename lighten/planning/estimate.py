"""Weight of a copy by a plan, from trials where there are any, else from the weight sheet."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.plans import Action, Decision, Plan
from lighten.model.treatments import ColourChange
from lighten.model.trials import Trials, is_plain, non_picture_key
from lighten.model.weights import FontFacts, Part, PictureFacts, WeightSheet
from lighten.pictures.coding.choose_coding import LIGHT_BITS_A_PIXEL
from lighten.pictures.coding.encode import JPEG_WINS_ON_DRAWINGS_BELOW, QUALITY_FOR_EDGES
from lighten.pictures.recoding.raise_quality_to_score import foresee_raised
from lighten.pictures.recoding.recode import worth_coding_below
from lighten.planning.coding_model import (
    BITONAL_BITS,
    BITS_A_PIXEL,
    DETAIL_EXPONENT,
    EXACT_OVER_LOSSY,
    EXACT_SCALE_EXPONENT,
    EXACT_SHARE,
    GREY_SHARE,
    JBIG2_SHARE,
    LAYERS_SHARE,
    LINES,
    PACKED_SHARE,
    QUALITY_REFERENCE,
    QUALITY_SLOPE,
    SCALE_EXPONENT,
    STROKES_SHARE,
    SUBSET_SHARE,
    WHOLE_FONT_SHARE,
)
from lighten.planning.curves import curves_of

__all__ = [
    "Estimate",
    "estimate",
    "is_held_picture",
    "is_treated_picture",
    "part_estimate",
    "part_estimates",
    "sheet_estimates",
]

# How far the estimate of one picture may be off (standard deviation of the logarithm): by a
# final coding, a draft, lines drawn between drafts or beyond them, a rule that was fitted to
# other pictures of the document, or the bare rule. Found on generated files and the corpus.
_SPREAD_FINAL, _SPREAD_DRAFT, _SPREAD_CURVE, _SPREAD_BEYOND = 0.002, 0.04, 0.07, 0.25
_SPREAD_FITTED, _SPREAD_RULE = 0.45, 0.6
# What all pictures of a file may have in common, by how well they are known.
_SHARED_TRIED, _SHARED_RULE = 0.018, 0.2
_SPREAD_OF_OTHERS, _SPREAD_OF_MEASURED_OTHERS = 0.6, 0.004
_LEAST_SHARE = 0.2
_BAND = 2.0
# A document's own ratio of tried to ruled weights counts once that many pictures are tried.
_ENOUGH_TRIED = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """Bytes the copy will weigh, and the band that holds nine of ten copies."""

    size_bytes: int
    low_bytes: int
    high_bytes: int


@dataclass(frozen=True, slots=True)
class _Likely:
    """Bytes of one picture; spread: of their logarithm. is_ruled: nobody has tried it."""

    size_bytes: float
    spread: float
    is_ruled: bool = False


def estimate(sheet: WeightSheet, plan: Plan, trials: Trials | None = None) -> Estimate:
    """The likely size of the copy that `plan` makes; never more than the original.

    trials: the more of the plan's pictures are in it, the narrower the band.
    """
    known_trials = trials or Trials()
    pictures = list(_likely_pictures(sheet, plan, known_trials).values())
    treated = sum(likely.size_bytes for likely in pictures)
    ruled = sum(likely.size_bytes for likely in pictures if likely.is_ruled)
    others, others_spread = _non_picture_bytes(sheet, plan, known_trials)
    expected = treated + others
    variance = sum((likely.size_bytes * likely.spread) ** 2 for likely in pictures)
    variance += (ruled * _SHARED_RULE + (treated - ruled) * _SHARED_TRIED) ** 2
    spread = _BAND * math.sqrt(variance) + others_spread
    likely_bytes = min(expected, sheet.size_bytes)
    return Estimate(
        size_bytes=round(likely_bytes),
        # What nobody has tried may be far off, but no picture comes to nothing.
        low_bytes=round(max(_LEAST_SHARE * likely_bytes, likely_bytes - spread)),
        high_bytes=round(min(expected + spread, sheet.size_bytes)),
    )


def part_estimates(
    sheet: WeightSheet, plan: Plan, trials: Trials | None = None
) -> dict[str, float]:
    """Predict the remaining bytes of each part, by its id."""
    decisions = plan.by_part()
    pictures = _likely_pictures(sheet, plan, trials or Trials())
    return {
        part.id: pictures[part.id].size_bytes
        if part.id in pictures
        else part_estimate(part, decisions[part.id])
        for part in sheet.parts
    }


def sheet_estimates(
    sheet: WeightSheet, plan: Plan, cells_after: Mapping[str, float]
) -> dict[str, int]:
    """Return the bytes of each sheet of a workbook, by its id, once its cells take so many.

    Cells share a member with extras; what stays of these shrinks as they do.
    """
    dropped = plan.dropped_extras(sheet)
    left: dict[str, int] = {}
    for part in sheet.parts:
        if part.sheet is not None:
            kept = sum(size for extra, size in part.sheet.within.items() if extra not in dropped)
            left[part.id] = round(cells_after[part.id] * (1 + kept / max(1, part.size_bytes)))
    return left


def _non_picture_bytes(sheet: WeightSheet, plan: Plan, trials: Trials) -> tuple[float, float]:
    """Return the bytes of everything but treated pictures, and their possible error."""
    measured = trials.non_picture_bytes.get(non_picture_key(sheet, plan))
    decisions = plan.by_part()
    if measured is not None:
        left = sum(
            part.size_bytes
            for part in sheet.parts
            if part.picture is not None and decisions[part.id].action is Action.KEEP
        )
        return float(measured + left), _SPREAD_OF_MEASURED_OTHERS * measured
    others = [part for part in sheet.parts if not is_treated_picture(part, decisions[part.id])]
    ruled = sum(part_estimate(part, decisions[part.id]) for part in others)
    changed = sum(
        part.size_bytes
        for part in others
        if decisions[part.id].action not in (Action.KEEP, Action.DROP)
    )
    return ruled, _SPREAD_OF_OTHERS * changed


def is_held_picture(part: Part, decision: Decision) -> bool:
    """A picture that the copy has, treated or as it was."""
    return part.picture is not None and decision.action is not Action.DROP


def is_treated_picture(part: Part, decision: Decision) -> bool:
    return part.picture is not None and decision.action in (
        Action.RECODE,
        Action.RESAMPLE,
        Action.REPLACE,
    )


def _likely_pictures(sheet: WeightSheet, plan: Plan, trials: Trials) -> dict[str, _Likely]:
    """Return the predicted bytes of every treated picture from all that is known of it."""
    decisions = plan.by_part()
    by_part: dict[str, _Likely] = {}
    waiting: list[Part] = []
    tried_parts: list[Part] = []
    for part in sheet.parts:
        if is_treated_picture(part, decisions[part.id]):
            likely = _tried(part, decisions[part.id], trials)
            if likely is None:
                waiting.append(part)
            else:
                tried_parts.append(part)
                by_part[part.id] = likely
    if not waiting:
        return by_part
    # What the bare rule is off by where that is known, it will be off by elsewhere.
    ruled = sum(part_estimate(part, decisions[part.id]) for part in tried_parts)
    tried = sum(by_part[part.id].size_bytes for part in tried_parts)
    is_fitted = len(tried_parts) >= _ENOUGH_TRIED and ruled > 0
    share, spread = (tried / ruled, _SPREAD_FITTED) if is_fitted else (1.0, _SPREAD_RULE)
    for part in waiting:
        rule = min(part_estimate(part, decisions[part.id]) * share, part.size_bytes)
        by_part[part.id] = _Likely(rule, spread, is_ruled=True)
    return by_part


def _tried(part: Part, decision: Decision, trials: Trials) -> _Likely | None:
    """Return the bytes by a trial of the decision, or interpolated; None if there are too few
    trials.
    """
    exact = trials.of(decision)
    if exact is not None:
        spread = _SPREAD_FINAL if exact.is_final else _SPREAD_DRAFT
        is_worth = exact.size_bytes < _worth_below(part, decision)
        is_taken = exact.is_final or exact.quality is None or is_worth
        return _Likely(float(exact.size_bytes if is_taken else part.size_bytes), spread)
    facts, treatment = part.picture, decision.picture
    assert facts is not None and treatment is not None
    if treatment.quality is None or not is_plain(decision):
        return None
    trials_of_part = trials.pictures.get(part.id, ())
    curves = curves_of(trials_of_part)
    if curves is None:
        return None
    width_px = decision.target_px[0] if decision.target_px else facts.width_px
    is_drawn = facts.picture_class is PictureClass.GRAPHIC
    is_choice = is_drawn and treatment.coding is PictureCoding.AUTOMATIC
    quality = min(95, treatment.quality + QUALITY_FOR_EDGES) if is_choice else treatment.quality
    words_px = trials.words_px(part.id)
    if treatment.keeps_words and words_px > width_px:
        width_px = min(words_px, facts.width_px)
    width_px, quality = foresee_raised(
        lambda width, at: curves.at(width, at).score,
        width_px=width_px,
        whole_px=facts.width_px,
        quality=quality,
        least_score=treatment.least_score,
    )
    point = curves.at(width_px, quality)
    is_photo = facts.has_colour and not is_drawn
    size = point.size_bytes * (curves.full_chroma(quality) if is_photo else 1.0)
    spread = _SPREAD_CURVE if point.is_inside else _SPREAD_BEYOND
    exacts = [
        trial.size_bytes for trial in trials_of_part if trial.is_plain and trial.quality is None
    ]
    if is_choice and exacts:
        lightest = min(exacts)
        stored_px = facts.width_px * facts.height_px
        # Flat colours are lighter exact at all their pixels than smoothed at fewer.
        is_light = lightest * 8 < LIGHT_BITS_A_PIXEL * stored_px
        share = 1.0 if is_light else (width_px / facts.width_px) ** EXACT_SCALE_EXPONENT
        spread = _SPREAD_BEYOND
        if lightest * share * JPEG_WINS_ON_DRAWINGS_BELOW <= size:
            size = lightest * share
    is_worth = size < _worth_below(part, decision)
    return _Likely(size if is_worth else float(part.size_bytes), spread)


def _worth_below(part: Part, decision: Decision) -> float:
    """The bytes that a lossy coding of a picture has to come below."""
    assert part.picture is not None and decision.picture is not None
    share = worth_coding_below(decision.picture, is_lossy=part.picture.is_lossy)
    return part.size_bytes * share


def part_estimate(part: Part, decision: Decision) -> float:
    """Predict the remaining bytes of one part by a rule, without trials."""
    match decision.action:
        case Action.DROP:
            return 0.0
        case Action.KEEP:
            return float(part.size_bytes)
        case Action.PACK:
            return part.size_bytes * PACKED_SHARE.get(part.kind, 1.0)
    if part.font is not None:
        return part.size_bytes * _font_share(part.font)
    if part.picture is None or decision.picture is None:
        packed = part.size_bytes * PACKED_SHARE.get(part.kind, 1.0)
        return packed - part.stroke_bytes * (1 - STROKES_SHARE)
    coded = _picture_bytes(part.size_bytes, part.picture, decision)
    return coded if coded < _worth_below(part, decision) else float(part.size_bytes)


def _font_share(facts: FontFacts) -> float:
    """Return the share of a font that subsetting leaves, from the fonts on which it was tried."""
    if facts.is_subset:
        return SUBSET_SHARE.get(facts.coding, 1.0)
    return WHOLE_FONT_SHARE.get(facts.coding, 1.0)


def _picture_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    treatment = decision.picture
    assert treatment is not None
    if treatment.colour is ColourChange.BITONAL and facts.picture_class not in LINES:
        width, height = decision.target_px or (facts.width_px, facts.height_px)
        return width * height * BITONAL_BITS / 8
    is_exact = treatment.quality is None or facts.has_palette
    if is_exact or facts.picture_class in LINES:
        share = EXACT_SHARE
        if facts.picture_class in LINES and treatment.coding is not PictureCoding.GROUP_4:
            share = JBIG2_SHARE.get(facts.coding, EXACT_SHARE)
        if decision.target_px is not None:
            share *= decision.target_px[0] / facts.width_px
        coded = size_bytes * share
    else:
        coded = _jpeg_bytes(size_bytes, facts, decision)
        is_page = facts.picture_class is PictureClass.PAGE_SCAN
        if is_page and treatment.coding is PictureCoding.LAYERS:
            coded *= LAYERS_SHARE
    if treatment.colour is ColourChange.GREY:
        coded *= GREY_SHARE
    if decision.cut is not None:
        left, top, right, bottom = decision.cut
        coded *= (right - left) * (bottom - top)
    return coded


def _jpeg_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    width, height = decision.target_px or (facts.width_px, facts.height_px)
    assert decision.picture is not None
    quality = decision.picture.quality or QUALITY_REFERENCE
    stored_px = max(1, facts.width_px * facts.height_px)
    source_bits = 8 * size_bytes / stored_px
    if not facts.is_lossy:
        source_bits /= EXACT_OVER_LOSSY
    bits = BITS_A_PIXEL.get(facts.picture_class, 1.0) * source_bits**DETAIL_EXPONENT
    bits *= math.sqrt(width * height / stored_px) ** SCALE_EXPONENT
    bits *= math.exp(QUALITY_SLOPE * (quality - QUALITY_REFERENCE))
    return float(width * height * bits / 8)
