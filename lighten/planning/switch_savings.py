"""Saving of each switch for a document: measured by trials where possible, else by a rule."""

from dataclasses import replace

from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.plans import Action, Plan
from lighten.model.presets import Preset
from lighten.model.treatments import DrawingTreatment, FontTreatment, Treatment
from lighten.model.trials import Trials, non_picture_key
from lighten.model.weights import WeightSheet
from lighten.planning.decide import plan
from lighten.planning.estimate import part_estimate
from lighten.planning.fit.fit import GENTLY

__all__ = ["switch_savings", "unused_removals", "whole_fonts"]

_SUBSET = Treatment(fonts=FontTreatment(subset=True))
_NO_STANDARD = Treatment(fonts=FontTreatment(drops_standard=True))
_NO_EMBEDDED = Treatment(fonts=FontTreatment(drops_embedded=True))
_PLAIN = Treatment()
_PEN = Treatment(drawing=DrawingTreatment(tolerance_pt=0.1))


def switch_savings(sheet: WeightSheet, trials: Trials | None = None) -> dict[str, int]:
    """Return the bytes that each switch saves by itself.

    Keys: those of fonts' switches, "drawing", and "extra." with a kind of extra.
    """
    savings: dict[str, int] = {}
    for part in sheet.parts:
        if part.extra_kind is not None:
            key = f"extra.{part.extra_kind}"
            savings[key] = savings.get(key, 0) + part.size_bytes
    savings["extra.unused"] = sum(
        part.size_bytes
        for part in sheet.parts
        if part.picture and not part.picture.placements and not part.picture.untouchable
    )
    savings["fonts.subset"] = _saved(sheet, _SUBSET, PartKind.FONT)
    # Packing the rest tighter needs no switch.
    packed = _saved(sheet, _PLAIN, PartKind.FONT)
    savings["fonts.drops_standard"] = _saved(sheet, _NO_STANDARD, PartKind.FONT) - packed
    savings["fonts.drops_embedded"] = _saved(sheet, _NO_EMBEDDED, PartKind.FONT) - packed
    savings["drawing"] = _saved(sheet, _PEN, PartKind.DRAWING) - _saved(
        sheet, _PLAIN, PartKind.DRAWING
    )
    measured = _measured_subsetting(sheet, trials or Trials())
    if measured is not None:
        savings["fonts.subset"] = measured
    return savings


def unused_removals(sheet: WeightSheet, plan: Plan) -> list[tuple[ExtraKind, int]]:
    """Return the kinds of extras that a plan keeps, with their bytes, the heaviest first.

    Those that the claimed standard asks for are not among them.
    """
    decisions, kept = plan.by_part(), dict[ExtraKind, int]()
    for part in sheet.parts:
        kind = part.extra_kind
        if kind is not None and kind not in sheet.rules.needed_extras:
            is_dropped = decisions[part.id].action is Action.DROP
            kept[kind] = kept.get(kind, 0) + (0 if is_dropped else part.size_bytes)
    return sorted(
        ((kind, size) for kind, size in kept.items() if size > 0), key=lambda one: -one[1]
    )


def whole_fonts(sheet: WeightSheet) -> Plan:
    """Return the gentlest plan with whole fonts, to show the worth of subsetting."""
    treatment = replace(GENTLY.treatment, fonts=FontTreatment())
    return plan(sheet, replace(GENTLY, treatment=treatment))


def _measured_subsetting(sheet: WeightSheet, trials: Trials) -> int | None:
    whole, subset = (
        trials.non_picture_bytes.get(non_picture_key(sheet, measured))
        for measured in (whole_fonts(sheet), plan(sheet, GENTLY))
    )
    return None if whole is None or subset is None else max(0, whole - subset)


def _saved(sheet: WeightSheet, treatment: Treatment, kind: PartKind) -> int:
    own = replace(
        sheet,
        parts=tuple(part for part in sheet.parts if part.kind is kind),
        size_bytes=sum(part.size_bytes for part in sheet.parts if part.kind is kind),
    )
    decisions = plan(own, Preset(name="", title="", description="", treatment=treatment)).decisions
    left = sum(
        part_estimate(part, decision) for part, decision in zip(own.parts, decisions, strict=True)
    )
    return max(0, own.size_bytes - round(left))
