"""What a plan will weigh, from the weight sheet alone: no picture is coded for it."""

import math
from dataclasses import dataclass

from lighten.plans import Action, Decision, Plan
from lighten.treatments import ColourChange
from lighten.weights import (
    FontCoding,
    FontFacts,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    WeightSheet,
)

__all__ = ["Estimate", "estimate", "part_estimate"]

# Bits a pixel that JPEG at quality 75 comes to, and how they rise with quality, with the bits a
# pixel of the source (its detail) and with the share of its lines that stay: fitted to 166
# pictures of 14 documents, of which it explains the middle and not the spread.
_BITS_A_PIXEL = {
    PictureClass.PHOTO: 0.8,
    PictureClass.GRAPHIC: 0.9,
    PictureClass.PAGE_SCAN: 1.3,
}
_QUALITY_REFERENCE = 75
_QUALITY_SLOPE = 0.02
_DETAIL_EXPONENT = 0.29
_SCALE_EXPONENT = 0.3
# Exact codings spend that much more on the same detail.
_EXACT_OVER_LOSSY = 3.0
_LOSSY_CODINGS = ("DCT", "JPX")
# What would save less is left as it is.
_WORTH_CODING_BELOW = 0.94
_PACKED_SHARE = {PartKind.FONT: 0.97, PartKind.DRAWING: 0.95, PartKind.STRUCTURE: 0.6}
_EXACT_SHARE = 0.9
_WHOLE_FONT_SHARE = {FontCoding.TRUETYPE: 0.3, FontCoding.TYPE_1: 0.3, FontCoding.CFF: 0.6}
_SUBSET_SHARE = {FontCoding.TRUETYPE: 0.85, FontCoding.TYPE_1: 0.35, FontCoding.CFF: 0.97}
_STROKES_SHARE = 0.5
_LINES = (PictureClass.TWO_TONE, PictureClass.STENCIL)
# Of text pages in Group 4, and of grey beside colour.
_TWO_TONE_BITS = 0.12
_GREY_SHARE = 0.8
# How far one picture's estimate may be off (standard deviation of the logarithm), and what all
# pictures of a file may have in common.
_SPREAD_OF_ONE = 0.6
_SPREAD_OF_ALL = 0.2
_SPREAD_OF_REST = 0.06
_BAND = 1.65


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """Bytes the copy will weigh, and the band that held four of five documents it was tried on."""

    size_bytes: int
    low_bytes: int
    high_bytes: int


def estimate(sheet: WeightSheet, plan: Plan) -> Estimate:
    """The likely size of the copy that `plan` makes; never more than the original."""
    decisions = plan.by_part()
    sizes = [(part_estimate(part, decisions[part.id]), part) for part in sheet.parts]
    treated = [
        size
        for size, part in sizes
        if part.kind is PartKind.PICTURE and decisions[part.id].action is not Action.KEEP
    ]
    expected = sum(size for size, _ in sizes)
    variance = sum((size * _SPREAD_OF_ONE) ** 2 for size in treated)
    spread = _BAND * math.sqrt(variance + (sum(treated) * _SPREAD_OF_ALL) ** 2)
    spread += _SPREAD_OF_REST * (expected - sum(treated))
    return Estimate(
        size_bytes=round(min(expected, sheet.size_bytes)),
        low_bytes=round(max(0.0, expected - spread)),
        high_bytes=round(min(expected + spread, sheet.size_bytes)),
    )


def part_estimate(part: Part, decision: Decision) -> float:
    """Bytes left of one part."""
    match decision.action:
        case Action.DROP:
            return 0.0
        case Action.KEEP:
            return float(part.size_bytes)
        case Action.PACK:
            return part.size_bytes * _PACKED_SHARE.get(part.kind, 1.0)
    if part.font is not None:
        return part.size_bytes * _font_share(part.font)
    if part.picture is None or decision.picture is None:
        packed = part.size_bytes * _PACKED_SHARE.get(part.kind, 1.0)
        return packed - part.stroke_bytes * (1 - _STROKES_SHARE)
    coded = _picture_bytes(part.size_bytes, part.picture, decision)
    return coded if coded < part.size_bytes * _WORTH_CODING_BELOW else float(part.size_bytes)


def _font_share(facts: FontFacts) -> float:
    """What subsetting leaves of a font, from what it left of those it was tried on."""
    if facts.is_subset:
        return _SUBSET_SHARE.get(facts.coding, 1.0)
    return _WHOLE_FONT_SHARE.get(facts.coding, 1.0)


def _picture_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    wanted = decision.picture
    assert wanted is not None
    if wanted.colour is ColourChange.TWO_TONE and facts.picture_class not in _LINES:
        width, height = decision.target_px or (facts.width_px, facts.height_px)
        return width * height * _TWO_TONE_BITS / 8
    is_exact = wanted.quality is None or facts.colour.startswith("Indexed")
    if is_exact or facts.picture_class in _LINES:
        share = _EXACT_SHARE
        if decision.target_px is not None:
            share *= decision.target_px[0] / facts.width_px
        coded = size_bytes * share
    else:
        coded = _jpeg_bytes(size_bytes, facts, decision)
    if wanted.colour is ColourChange.GREY:
        coded *= _GREY_SHARE
    if decision.cut is not None:
        left, top, right, bottom = decision.cut
        coded *= (right - left) * (bottom - top)
    return coded


def _jpeg_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    width, height = decision.target_px or (facts.width_px, facts.height_px)
    assert decision.picture is not None
    quality = decision.picture.quality or _QUALITY_REFERENCE
    stored_px = max(1, facts.width_px * facts.height_px)
    source_bits = 8 * size_bytes / stored_px
    if facts.coding.split(" ")[-1] not in _LOSSY_CODINGS:
        source_bits /= _EXACT_OVER_LOSSY
    bits = _BITS_A_PIXEL.get(facts.picture_class, 1.0) * source_bits**_DETAIL_EXPONENT
    bits *= math.sqrt(width * height / stored_px) ** _SCALE_EXPONENT
    bits *= math.exp(_QUALITY_SLOPE * (quality - _QUALITY_REFERENCE))
    return float(width * height * bits / 8)
