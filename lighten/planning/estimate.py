"""What a plan will weigh, from the weight sheet alone: no picture is coded for it."""

import math
from dataclasses import dataclass

from lighten.plans import Action, Decision, Plan
from lighten.weights import Part, PartKind, PictureClass, PictureFacts, WeightSheet

__all__ = ["Estimate", "estimate", "part_estimate"]

# Bits a pixel of a trellis JPEG at quality 75 and 150 ppi, and how it falls with quality: the
# middle of what the photos, screenshots and scanned pages of several collections came to.
_BITS_A_PIXEL = {
    PictureClass.PHOTO: 1.1,
    PictureClass.GRAPHIC: 0.6,
    PictureClass.PAGE_SCAN: 0.9,
}
_QUALITY_REFERENCE = 75
_QUALITY_SLOPE = 0.028
# A source's own bits a pixel tell how much detail it has: the more of them, the more stay.
_DETAIL_EXPONENT = 0.35
_DETAIL_REFERENCE_BITS = 2.5
_PACKED_SHARE = {PartKind.FONT: 0.97, PartKind.DRAWING: 0.95, PartKind.STRUCTURE: 0.6}
_EXACT_SHARE = 0.9
# How far one picture's estimate may be off (standard deviation of the logarithm), and what all
# pictures of a file may have in common.
_SPREAD_OF_ONE = 0.45
_SPREAD_OF_ALL = 0.12
_SPREAD_OF_REST = 0.02
_BAND = 1.65


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """Bytes the copy will weigh, and the band it lies in with about nine chances in ten."""

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
    return min(float(part.size_bytes), _jpeg_bytes(part.size_bytes, part.picture, decision))


def _jpeg_bytes(size_bytes: int, facts: PictureFacts, decision: Decision) -> float:
    width, height = decision.target_px or (facts.width_px, facts.height_px)
    quality = decision.quality or _QUALITY_REFERENCE
    source_bits = 8 * size_bytes / max(1, facts.width_px * facts.height_px)
    detail = (source_bits / _DETAIL_REFERENCE_BITS) ** _DETAIL_EXPONENT
    bits = _BITS_A_PIXEL.get(facts.picture_class, 1.0) * min(detail, 1.6)
    bits *= math.exp(_QUALITY_SLOPE * (quality - _QUALITY_REFERENCE))
    return float(width * height * bits / 8)
