"""What a plan will weigh, from the weight sheet alone: no picture is coded for it."""

import math
from dataclasses import dataclass

from lighten.plans import Action, Decision, Plan
from lighten.weights import Part, PartKind, PictureClass, PictureFacts, WeightSheet

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
    assert part.picture is not None
    if decision.quality is None or part.picture.colour.startswith("Indexed"):
        return part.size_bytes * _EXACT_SHARE
    coded = _jpeg_bytes(part.size_bytes, part.picture, decision)
    return coded if coded < part.size_bytes * _WORTH_CODING_BELOW else float(part.size_bytes)


def _jpeg_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    width, height = decision.target_px or (facts.width_px, facts.height_px)
    quality = decision.quality or _QUALITY_REFERENCE
    stored_px = max(1, facts.width_px * facts.height_px)
    source_bits = 8 * size_bytes / stored_px
    if facts.coding.split(" ")[-1] not in _LOSSY_CODINGS:
        source_bits /= _EXACT_OVER_LOSSY
    bits = _BITS_A_PIXEL.get(facts.picture_class, 1.0) * source_bits**_DETAIL_EXPONENT
    bits *= math.sqrt(width * height / stored_px) ** _SCALE_EXPONENT
    bits *= math.exp(_QUALITY_SLOPE * (quality - _QUALITY_REFERENCE))
    return float(width * height * bits / 8)
