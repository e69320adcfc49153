"""The decision for each part of one document, with its reason."""

from collections.abc import Mapping
from dataclasses import replace

from lighten.model.extras import EXTRAS
from lighten.model.plans import Action, Decision, PartException, Plan
from lighten.model.presets import Preset
from lighten.model.treatments import (
    ASSUMED_CM,
    FEWEST_TEXT_PPI,
    ColourChange,
    DrawingTreatment,
    FontTreatment,
    PictureTreatment,
    Treatment,
)
from lighten.model.weights import (
    ExtraKind,
    FontCoding,
    FontFacts,
    Part,
    PartKind,
    PictureClass,
    PictureCoding,
    PictureFacts,
    Rules,
    WeightSheet,
)
from lighten.pictures.pixels.sizes import target_size, upscaled_to
from lighten.pictures.recoding.recode_job import Cut
from lighten.planning.layered_pages import in_layers_already
from lighten.planning.plan_warnings import warnings_of, withheld_by_rules

__all__ = ["cut_to_visible", "plan"]

_DEEP_BITS = 16  # coded anew they have 8
_WORTH_CUTTING = 0.9
# What clipping leaves in sight is known to a fraction of a pixel only, and edges are smoothed.
_CUT_MARGIN = 0.01
_PLAIN_COLOURS = (
    ColourChange.RGB,
    ColourChange.GREY,
    ColourChange.BITONAL,
    ColourChange.COLOURS_256,
    ColourChange.COLOURS_16,
)
# What is looked at by itself shows more than what stands on a page: the worst of eight photos rises
# from 73.7 to 76 (SSIMULACRA2) at 150 ppi and quality 81.
_FINER_ALONE, _FINEST_ALONE = 4, 95
# Profiles of screens and cameras weigh up to some kilobytes; those of printers go on to megabytes,
# and say on most of them how to print.
_HEAVY_PROFILE_BYTES = 30_000
_CANNOT_PACK = "kept: its coding cannot be packed tighter without loss"


def plan(
    sheet: WeightSheet,
    preset: Preset,
    *,
    exceptions: Mapping[str, PartException] | None = None,
    may_end_signature: bool = False,
    may_blur_text: bool = False,
) -> Plan:
    """Plan the action of `preset` for each part of the document of `sheet`.

    exceptions: by part id, pictures that are treated otherwise.
    may_blur_text: pages held as pictures may go below what text can be read at.
    """
    treatment = _allowed(sheet.rules, preset.treatment)
    by_part = exceptions or {}
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
    """A colour profile goes with the colours it is for."""
    leaves_colours = any(
        decision.replacement is not None
        or (decision.picture is not None and decision.picture.colour in _PLAIN_COLOURS)
        for decision in decisions
    )
    return tuple(
        replace(decision, action=Action.DROP, reason="its colours become plain and need none")
        if part.kind is PartKind.PROFILE and leaves_colours
        else decision
        for part, decision in zip(sheet.parts, decisions, strict=True)
    )


def _allowed(rules: Rules, treatment: Treatment) -> Treatment:
    """The treatment without what would end the standard that the document claims."""
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
            return _decide_picture(
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
    elif part.kind is PartKind.OLD_FORM:
        action, reason = Action.DROP, "the open form does without it"
    elif part.kind is PartKind.EMBEDDED and treatment.lightens_embedded:
        action, reason = Action.RECODE, "made lighter as a document of its own"
    return Decision(part_id=part.id, action=action, reason=reason)


def _decide_picture(
    part_id: str,
    facts: PictureFacts,
    treatment: Treatment,
    exception: PartException | None,
    *,
    may_blur_text: bool,
) -> Decision:
    if facts.untouchable:
        return Decision(part_id=part_id, action=Action.KEEP, reason=facts.untouchable)
    facts = _at_assumed_size(facts, treatment)
    own = treatment.for_class(facts.picture_class)
    if exception is not None and exception.replacement is not None:
        return Decision(
            part_id=part_id,
            action=Action.REPLACE,
            reason="replaced by a picture you brought",
            picture=own if own.quality else replace(own, quality=90),
            replacement=exception.replacement,
        )
    if exception is not None and exception.treatment is not None:
        own = exception.treatment
    elif not facts.placements and ExtraKind.UNUSED in treatment.dropped_extras:
        return Decision(
            part_id=part_id,
            action=Action.DROP,
            reason="no page shows it",
            picture=_as_lines(facts, own),
        )
    return _decide_treated(part_id, facts, _as_lines(facts, own), may_blur_text=may_blur_text)


def _at_assumed_size(facts: PictureFacts, treatment: Treatment) -> PictureFacts:
    """A picture of no size of its own is as large as the treatment takes it to be."""
    share = treatment.assumed_cm / ASSUMED_CM
    if not facts.has_assumed_size or share == 1:
        return facts
    return replace(
        facts,
        placements=tuple(
            replace(
                placement,
                width_pt=placement.width_pt * share,
                height_pt=placement.height_pt * share,
            )
            for placement in facts.placements
        ),
    )


def _as_lines(facts: PictureFacts, own: PictureTreatment) -> PictureTreatment:
    """Stencils and pictures of two tones have no use for greys and colours."""
    if facts.picture_class is PictureClass.MASK:
        own = replace(own, colour=ColourChange.KEEP, quality=None)
    if own.coding is PictureCoding.GROUP_4 and facts.picture_class not in (
        PictureClass.MASK,
        PictureClass.BITONAL,
    ):
        return replace(own, colour=ColourChange.BITONAL)
    return own


def _decide_treated(
    part_id: str, facts: PictureFacts, own: PictureTreatment, *, may_blur_text: bool
) -> Decision:
    cut = cut_to_visible(facts) if own.cuts_hidden else None
    if may_blur_text:
        own = replace(own, keeps_words=False)
    if facts.picture_class is PictureClass.PAGE_SCAN and not may_blur_text and own.finest_ppi:
        own = replace(own, finest_ppi=max(own.finest_ppi, FEWEST_TEXT_PPI))
    if facts.is_alone and own.quality is not None:
        own = replace(own, quality=min(_FINEST_ALONE, own.quality + _FINER_ALONE))
    if _profile_is_worth_it(facts, own):
        own = replace(own, colour=ColourChange.RGB)
    target = _target(facts, own)
    is_exact = own.quality is None or own.coding is PictureCoding.LOSSLESS
    is_same_look = target is None and cut is None and not own.changes_looks
    cannot_pack = (facts.is_lossy or facts.bits == _DEEP_BITS) and not facts.may_repack
    if is_exact and is_same_look and cannot_pack:
        return Decision(part_id=part_id, action=Action.KEEP, reason=_CANNOT_PACK)
    return Decision(
        part_id=part_id,
        action=Action.RECODE if target is None else Action.RESAMPLE,
        reason=_reason(facts, own, target, is_exact=is_exact and is_same_look, is_cut=bool(cut)),
        target_px=target,
        picture=own,
        cut=cut,
    )


def _profile_is_worth_it(facts: PictureFacts, own: PictureTreatment) -> bool:
    """Return whether a heavy profile is worth dropping where looks may change a little."""
    is_lossy = own.quality is not None and own.coding is not PictureCoding.LOSSLESS
    return (
        is_lossy
        and own.colour is ColourChange.KEEP
        and facts.rgb_profile_bytes > _HEAVY_PROFILE_BYTES
    )


def _target(facts: PictureFacts, own: PictureTreatment) -> tuple[int, int] | None:
    """The size to resample to, of the whole picture; None if it stays."""
    stored = (facts.width_px, facts.height_px)
    shown = facts.largest_display_pt
    target = None
    if shown is not None and own.finest_ppi is not None:
        is_fine = own.above_ppi is None or (facts.ppi or 0) > own.above_ppi
        target = target_size(shown, stored, own.finest_ppi) if is_fine else None
    width, height = target or stored
    if own.scale_percent is not None:
        share = own.scale_percent / 100
        width = min(width, max(1, round(stored[0] * share)))
        height = min(height, max(1, round(stored[1] * share)))
    if own.largest_px is not None and max(width, height) > own.largest_px:
        share = own.largest_px / max(width, height)
        width, height = max(1, round(width * share)), max(1, round(height * share))
    if own.smallest_px is not None and max(width, height) < own.smallest_px:
        width, height = upscaled_to((width, height), own.smallest_px, stored)
    return None if (width, height) == stored else (width, height)


def cut_to_visible(facts: PictureFacts) -> Cut | None:
    """Return the part of a picture that is in sight, with a margin, as shares of its sides.

    None where too little is hidden to be worth it.
    """
    left, top, right, bottom = facts.visible
    left, top = max(0.0, left - _CUT_MARGIN), max(0.0, top - _CUT_MARGIN)
    right, bottom = min(1.0, right + _CUT_MARGIN), min(1.0, bottom + _CUT_MARGIN)
    share = (right - left) * (bottom - top)
    return (left, top, right, bottom) if 0 < share < _WORTH_CUTTING else None


def _reason(
    facts: PictureFacts,
    own: PictureTreatment,
    target: tuple[int, int] | None,
    *,
    is_exact: bool,
    is_cut: bool,
) -> str:
    steps = ["cut to what shows"] if is_cut else []
    if own.coding is PictureCoding.LAYERS and facts.picture_class is PictureClass.PAGE_SCAN:
        steps.append("in layers where these show the same")
    if target is not None and facts.ppi is not None:
        left = replace(facts, width_px=target[0], height_px=target[1])
        steps.append(f"{facts.ppi:.0f} to {left.ppi:.0f} ppi")
    elif target is not None:
        steps.append(f"to {target[0]} x {target[1]} pixels")
    elif is_exact:
        steps.append("packed tighter, every pixel kept")
    elif facts.ppi is not None:
        steps.append(f"{facts.ppi:.0f} ppi already, re-encoded if that is smaller")
    else:
        steps.append("shown on no page, re-encoded if that is smaller")
    if own.colour is not ColourChange.KEEP:
        steps.append(f"to {str(own.colour).replace('-', ' ')}")
    steps += [str(filter_.kind).replace("-", " ") for filter_ in own.filters]
    return ", ".join(steps)


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
