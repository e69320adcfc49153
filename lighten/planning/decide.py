"""The decision for each part of one document, with its reason."""

from collections.abc import Mapping
from dataclasses import replace

from lighten.model.extras import EXTRAS
from lighten.model.kinds import ExtraKind, FontCoding, PartKind, PictureCoding
from lighten.model.plans import Action, Decision, PartException, Plan
from lighten.model.presets import Preset
from lighten.model.treatments import (
    DrawingTreatment,
    FontTreatment,
    PictureTreatment,
    Treatment,
)
from lighten.model.weights import FontFacts, Part, Rules, WeightSheet
from lighten.planning.decide_picture import PLAIN_COLOURS, decide_picture
from lighten.planning.layered_pages import in_layers_already
from lighten.planning.plan_warnings import warnings_of, withheld_by_rules

__all__ = ["plan"]

_LEFT_OUT_ONE_BY_ONE = (PartKind.FONT, PartKind.NAME)


def plan(
    sheet: WeightSheet,
    preset: Preset,
    *,
    exceptions: Mapping[str, PartException] | None = None,
    may_end_signature: bool = False,
    may_blur_text: bool = False,
) -> Plan:
    """Plan the action of `preset` for each part of the document of `sheet`.

    exceptions: by part id, pictures that are treated otherwise; a part of an extra that is left out
    drops all of its kind.
    may_blur_text: pages held as pictures may go below what text can be read at.
    """
    by_part = exceptions or {}
    treatment = _allowed(sheet.rules, _with_chosen_removals(sheet, preset.treatment, by_part))
    decisions = _with_layered_pages_left(
        sheet,
        tuple(
            _decide(part, treatment, by_part.get(part.id), sheet.rules, may_blur_text=may_blur_text)
            for part in sheet.parts
        ),
    )
    decisions = _with_profiles(sheet, decisions)
    return Plan(
        preset=preset.name,
        size_bytes=sheet.size_bytes,
        decisions=decisions,
        fonts=treatment.fonts,
        drawing=treatment.drawing,
        is_linearized=treatment.is_linearized,
        may_end_signature=may_end_signature,
        embedded=replace(treatment, lightens_embedded=False)
        if treatment.lightens_embedded
        else None,
        warnings=(
            *withheld_by_rules(sheet.rules, preset.treatment, treatment),
            *warnings_of(sheet, treatment, decisions),
        ),
    )


def _with_chosen_removals(
    sheet: WeightSheet, treatment: Treatment, exceptions: Mapping[str, PartException]
) -> Treatment:
    """Return the treatment that also drops the kinds of extras left out in this document."""
    chosen = {
        part.extra_kind
        for part in sheet.parts
        if part.extra_kind is not None
        and part.kind not in _LEFT_OUT_ONE_BY_ONE
        and part.id in exceptions
        and exceptions[part.id].is_left_out
    }
    return replace(treatment, dropped_extras=treatment.dropped_extras | chosen)


def _with_layered_pages_left(
    sheet: WeightSheet, decisions: tuple[Decision, ...]
) -> tuple[Decision, ...]:
    """Keep pages that are in layers already where layers were asked for."""
    asks = any(
        decision.picture is not None and decision.picture.coding is PictureCoding.LAYERS
        for decision in decisions
    )
    left = in_layers_already(sheet) if asks else frozenset()
    reason = "kept: its page is in layers already"
    return tuple(
        Decision(part_id=decision.part_id, action=Action.KEEP, reason=reason)
        if decision.part_id in left
        else decision
        for decision in decisions
    )


def _with_profiles(sheet: WeightSheet, decisions: tuple[Decision, ...]) -> tuple[Decision, ...]:
    """Drop colour profiles whose colours are converted."""
    leaves_colours = any(
        decision.replacement is not None
        or (decision.picture is not None and decision.picture.colour in PLAIN_COLOURS)
        for decision in decisions
    )
    return tuple(
        replace(decision, action=Action.DROP, reason="its colours become plain and need none")
        if part.kind is PartKind.PROFILE and leaves_colours
        else decision
        for part, decision in zip(sheet.parts, decisions, strict=True)
    )


def _allowed(rules: Rules, treatment: Treatment) -> Treatment:
    """Return the treatment without changes that the claimed standard forbids."""
    fonts = treatment.fonts
    if rules.keeps_fonts_embedded:
        fonts = replace(fonts, drops_standard=False)
    if rules.keeps_fonts_whole:
        fonts = FontTreatment()
    pictures = {
        picture_class: _in_allowed_coding(picture, rules)
        for picture_class, picture in treatment.pictures.items()
    }
    return replace(treatment, fonts=fonts, pictures=pictures)


def _in_allowed_coding(treatment: PictureTreatment, rules: Rules) -> PictureTreatment:
    if treatment.coding in rules.forbidden_codings:
        return replace(treatment, coding=PictureCoding.AUTOMATIC)
    return treatment


def _decide(
    part: Part,
    treatment: Treatment,
    exception: PartException | None,
    rules: Rules,
    *,
    may_blur_text: bool,
) -> Decision:
    if exception is not None and exception.is_exempt:
        return Decision(part_id=part.id, action=Action.KEEP, reason="kept: exempted")
    if part.removed_with in treatment.dropped_extras:
        reason = f"goes with: {EXTRAS[part.removed_with].title.lower()}"
        return Decision(part_id=part.id, action=Action.DROP, reason=reason)
    return _decide_by_kind(part, treatment, exception, rules, may_blur_text=may_blur_text)


def _decide_by_kind(
    part: Part,
    treatment: Treatment,
    exception: PartException | None,
    rules: Rules,
    *,
    may_blur_text: bool,
) -> Decision:
    match part.kind:
        case PartKind.PICTURE:
            assert part.picture is not None
            return decide_picture(
                part.id, part.picture, treatment, exception, may_blur_text=may_blur_text
            )
        case PartKind.EXTRA:
            return _decide_extra(part, treatment, rules)
        case PartKind.FONT:
            assert part.font is not None
            is_left_out = exception is not None and exception.is_left_out
            may_go = is_left_out and not rules.keeps_fonts_embedded
            return _decide_font(part.id, part.font, treatment.fonts, is_left_out=may_go)
        case PartKind.NAME:
            return _decide_name(part.id, is_left_out=bool(exception and exception.is_left_out))
        case PartKind.DRAWING:
            return _decide_drawing(part.id, treatment.drawing)
        case _:
            return _decide_other(part, treatment)


def _decide_other(part: Part, treatment: Treatment) -> Decision:
    action, reason = Action.PACK, "unchanged, packed tighter"
    if part.kind is PartKind.PROFILE:
        action, reason = Action.KEEP, "kept: colours would shift without it"
    elif part.sheet is not None and part.sheet.untouchable:
        reason = part.sheet.untouchable
    elif part.sheet is not None and ExtraKind.CELL_SPELLING in treatment.dropped_extras:
        reason = "the same cells in fewer bytes"
    elif part.kind is PartKind.LAYER:
        action, reason = Action.DROP, "flattened into the picture, and no longer by itself"
    elif part.kind is PartKind.LEGACY_FORM:
        action, reason = Action.DROP, "the open form does without it"
    elif part.kind is PartKind.EMBEDDED and treatment.lightens_embedded:
        action, reason = Action.RECODE, "made lighter as a document of its own"
    return Decision(part_id=part.id, action=action, reason=reason)


def _decide_font(
    part_id: str, facts: FontFacts, treatment: FontTreatment, *, is_left_out: bool
) -> Decision:
    if is_left_out and facts.can_be_spared:
        reason = "removed, as you chose: readers show its text in another font"
        return Decision(part_id=part_id, action=Action.DROP, reason=reason)
    if treatment.drops_embedded and facts.is_brought_along:
        reason = "removed: readers show the text in fonts of their own"
        return Decision(part_id=part_id, action=Action.DROP, reason=reason)
    if treatment.drops_standard and facts.is_standard:
        reason = "removed: one of the standard 14 that every reader has"
        return Decision(part_id=part_id, action=Action.DROP, reason=reason)
    if treatment.subset and facts.coding is not FontCoding.OPENTYPE:
        reason = "only the letters in use stay"
        if facts.coding is FontCoding.TYPE_1:
            reason += ", in the tighter CFF form"
        return Decision(part_id=part_id, action=Action.RECODE, reason=reason)
    return Decision(part_id=part_id, action=Action.PACK, reason="same font, packed tighter")


def _decide_name(part_id: str, *, is_left_out: bool) -> Decision:
    if is_left_out:
        return Decision(part_id=part_id, action=Action.DROP, reason="removed, as you chose")
    return Decision(part_id=part_id, action=Action.KEEP, reason="kept")


def _decide_drawing(part_id: str, treatment: DrawingTreatment) -> Decision:
    if treatment.tolerance_pt is not None or treatment.constant_width:
        reason = "pen strokes simplified, the rest packed tighter"
        return Decision(part_id=part_id, action=Action.RECODE, reason=reason)
    return Decision(part_id=part_id, action=Action.PACK, reason="unchanged, packed tighter")


def _decide_extra(part: Part, treatment: Treatment, rules: Rules) -> Decision:
    if part.extra not in treatment.dropped_extras:
        return Decision(part_id=part.id, action=Action.KEEP, reason="kept: not asked to drop it")
    if part.extra in rules.needed_extras:
        reason = f"kept: {rules.standard} asks for it"
        return Decision(part_id=part.id, action=Action.KEEP, reason=reason)
    return Decision(part_id=part.id, action=Action.DROP, reason="nothing shown needs it")
