"""Steps undone one at a time when a copy fails its proof or cannot be written.

Pictures come first, those that the proof suspects; then what was done to the document as a whole.
Presets and fits share these steps. A preset changes its decisions; a fit shares its limit out
anew, so it asks for exceptions.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from lighten.model.kinds import PartKind, PictureCoding
from lighten.model.plans import Action, Decision, PartException, Plan
from lighten.model.proofs import Proof
from lighten.model.treatments import DrawingTreatment, FontTreatment
from lighten.model.weights import Part, WeightSheet

__all__ = ["DOCUMENT_RETREATS", "PICTURE_RETREATS", "DocumentRetreat", "gentler_exceptions"]

# Hardly distinguishable from the original in print (common practice, no source).
_FINE_QUALITY = 90
# The first step towards it.
_MORE_QUALITY, _MORE_PIXELS = 9, 1.5
# How well a picture of a fit is coded that failed its proof.
_FINER_QUALITY = 85
_FAILED = "kept: its page failed the proof"

PictureRetreat = Callable[[Plan, Proof, WeightSheet], Plan]
DocumentRetreat = Callable[[Plan, WeightSheet], Plan]


def _with_suspects_finer(plan: Plan, proof: Proof, sheet: WeightSheet) -> Plan:
    """Give pictures that failed half as many pixels again, and more quality."""
    return replace(
        plan,
        decisions=tuple(
            _finer(decision, part) if decision.part_id in proof.suspects else decision
            for part, decision in zip(sheet.parts, plan.decisions, strict=True)
        ),
    )


def _finer(decision: Decision, part: Part) -> Decision:
    treatment, facts = decision.picture, part.picture
    if treatment is None or decision.action is Action.REPLACE:
        return decision
    if treatment.coding is PictureCoding.LAYERS:
        return replace(
            decision,
            picture=replace(treatment, coding=PictureCoding.AUTOMATIC),
            remark="as one picture, as its layers failed the proof",
        )
    if treatment.quality is not None:
        quality = max(treatment.quality, min(_FINE_QUALITY, treatment.quality + _MORE_QUALITY))
        treatment = replace(treatment, quality=quality)
    target = decision.target_px
    if target is not None and facts is not None:
        larger = tuple(round(side * _MORE_PIXELS) for side in target)
        is_smaller = larger[0] < facts.width_px and larger[1] < facts.height_px
        target = (larger[0], larger[1]) if is_smaller else None
    return replace(
        decision,
        action=Action.RECODE if target is None else Action.RESAMPLE,
        target_px=target,
        picture=treatment,
        remark="finer, as its page failed the proof at first",
    )


def _with_suspects_gentler(plan: Plan, proof: Proof, _sheet: WeightSheet) -> Plan:
    """Give pictures that failed all their pixels, and a fine quality."""
    return replace(
        plan,
        decisions=tuple(
            _gentler(decision) if decision.part_id in proof.suspects else decision
            for decision in plan.decisions
        ),
    )


def _gentler(decision: Decision) -> Decision:
    treatment = decision.picture
    if treatment is None or decision.action is Action.REPLACE:
        return decision
    if treatment.quality is not None:
        treatment = replace(treatment, quality=max(treatment.quality, _FINE_QUALITY))
    return replace(
        decision,
        action=Action.RECODE,
        target_px=None,
        picture=treatment,
        reason="all its pixels",
        remark="finely, as its page failed the proof at first",
    )


def _without_suspects(plan: Plan, proof: Proof, _sheet: WeightSheet) -> Plan:
    """Leave pictures that failed as they are."""
    return _spared(plan, Action.KEEP, lambda decision: decision.part_id in proof.suspects)


def _with_stroke_widths(plan: Plan, _sheet: WeightSheet) -> Plan:
    """Keep the widths of pen strokes; simplified they stay."""
    return replace(plan, drawing=replace(plan.drawing, constant_width=False))


def _with_drawing(plan: Plan, sheet: WeightSheet) -> Plan:
    """Leave page drawing as it is."""
    kinds = {part.id: part.kind for part in sheet.parts}
    spared = _spared(
        plan,
        Action.PACK,
        lambda decision: (
            kinds[decision.part_id] is PartKind.DRAWING and decision.action is Action.RECODE
        ),
    )
    return replace(spared, drawing=DrawingTreatment())


def _with_fonts(plan: Plan, sheet: WeightSheet) -> Plan:
    """Leave fonts as they are."""
    fonts = {part.id for part in sheet.parts if part.font is not None}
    spared = _spared(
        plan,
        Action.PACK,
        lambda decision: decision.part_id in fonts and decision.action is Action.RECODE,
    )
    return replace(spared, fonts=FontTreatment())


def _with_embedded_and_cells(plan: Plan, _sheet: WeightSheet) -> Plan:
    """Leave embedded documents, and all else that is rewritten, as it is."""
    spared = _spared(
        plan,
        Action.PACK,
        lambda decision: decision.action is Action.RECODE and decision.picture is None,
    )
    return replace(spared, embedded=None)


def _with_everything(plan: Plan, sheet: WeightSheet) -> Plan:
    """Remove nothing: extras, and what would be removed with them, stay."""
    removable = {
        part.id
        for part in sheet.parts
        if part.kind not in (PartKind.LAYER, PartKind.LEGACY_FORM, PartKind.PROFILE)
    }
    return _spared(
        plan,
        Action.KEEP,
        lambda decision: decision.part_id in removable and decision.action is Action.DROP,
    )


def _spared(plan: Plan, action: Action, is_spared: Callable[[Decision], bool]) -> Plan:
    return replace(
        plan,
        decisions=tuple(
            Decision(part_id=decision.part_id, action=action, reason=_FAILED)
            if is_spared(decision)
            else decision
            for decision in plan.decisions
        ),
    )


# In the order in which they are tried.
PICTURE_RETREATS: tuple[PictureRetreat, ...] = (
    _with_suspects_finer,
    _with_suspects_gentler,
    _without_suspects,
)
DOCUMENT_RETREATS: tuple[DocumentRetreat, ...] = (
    _with_stroke_widths,
    _with_drawing,
    _with_fonts,
    _with_embedded_and_cells,
    _with_everything,
)


def gentler_exceptions(
    plan: Plan, proof: Proof, sheet: WeightSheet, exceptions: Mapping[str, PartException]
) -> Iterator[tuple[str, PartException]]:
    """Yield, by part id, what a fit asks for pictures that failed: finer, then as they are.

    plan: that the copy was made by. exceptions: asked for so far.
    """
    decisions = plan.by_part()
    for part_id in sorted(proof.suspects):
        facts, before = sheet.part(part_id).picture, exceptions.get(part_id)
        if before is not None and before.treatment is None:
            continue
        decided = decisions[part_id].picture
        if before is not None or facts is None or decided is None or decided.quality is None:
            yield part_id, PartException(is_exempt=True)
            continue
        target = decisions[part_id].target_px
        ppi = None
        if target is not None and facts.ppi:
            ppi = _MORE_PIXELS * facts.ppi * target[0] / facts.width_px
        quality = max(_FINER_QUALITY, decided.quality)
        yield part_id, PartException(treatment=replace(decided, finest_ppi=ppi, quality=quality))
