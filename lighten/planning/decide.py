"""The decision for each part of one document, with its reason."""

from lighten.pictures.sizes import target_size
from lighten.plans import Action, Decision, Plan
from lighten.treatments import PictureTreatment, Preset, Treatment
from lighten.weights import Part, PartKind, PictureFacts, WeightSheet

__all__ = ["plan"]

_LOSSY_CODINGS = ("DCT", "JPX")
_DEEP_BITS = 16  # coded anew they have 8


def plan(sheet: WeightSheet, preset: Preset, *, may_end_signature: bool = False) -> Plan:
    """What `preset` does to each part of the document of `sheet`."""
    return Plan(
        preset=preset.name,
        size_bytes=sheet.size_bytes,
        decisions=tuple(_decide(part, preset.treatment) for part in sheet.parts),
        may_end_signature=may_end_signature,
    )


def _decide(part: Part, treatment: Treatment) -> Decision:
    match part.kind:
        case PartKind.PICTURE:
            assert part.picture is not None
            return _decide_picture(part.id, part.picture, treatment)
        case PartKind.EXTRA:
            return _decide_extra(part, treatment)
        case PartKind.FONT:
            return Decision(part_id=part.id, action=Action.PACK, reason="same font, packed tighter")
        case _:
            return Decision(part_id=part.id, action=Action.PACK, reason="unchanged, packed tighter")


def _decide_picture(part_id: str, facts: PictureFacts, treatment: Treatment) -> Decision:
    if facts.untouchable:
        return Decision(part_id=part_id, action=Action.KEEP, reason=facts.untouchable)
    wanted = treatment.for_class(facts.picture_class)
    is_lossy_now = facts.coding.split(" ")[-1] in _LOSSY_CODINGS
    if wanted.quality is None:
        if is_lossy_now or facts.bits == _DEEP_BITS:
            reason = "left as it is: its coding cannot be packed tighter without loss"
            return Decision(part_id=part_id, action=Action.KEEP, reason=reason)
        reason = "packed tighter, every pixel kept"
        return Decision(part_id=part_id, action=Action.RECODE, reason=reason)
    return _decide_lossy(part_id, facts, wanted)


def _decide_lossy(part_id: str, facts: PictureFacts, wanted: PictureTreatment) -> Decision:
    shown, ppi = facts.largest_display_pt, facts.ppi
    target = None
    if shown is not None and wanted.finest_ppi is not None:
        target = target_size(shown, (facts.width_px, facts.height_px), wanted.finest_ppi)
    if target is not None and ppi is not None:
        action, reason = Action.RESAMPLE, f"{ppi:.0f} to {wanted.finest_ppi:.0f} ppi"
    elif ppi is not None:
        action, reason = Action.RECODE, f"{ppi:.0f} ppi already, coded anew if that is lighter"
    else:
        action, reason = Action.RECODE, "shown on no page, coded anew if that is lighter"
    return Decision(
        part_id=part_id,
        action=action,
        reason=reason,
        target_px=target,
        quality=wanted.quality,
        floor=wanted.floor,
    )


def _decide_extra(part: Part, treatment: Treatment) -> Decision:
    if part.extra in treatment.dropped_extras:
        return Decision(part_id=part.id, action=Action.DROP, reason="no page needs it")
    return Decision(part_id=part.id, action=Action.KEEP, reason="kept: this preset leaves it in")
