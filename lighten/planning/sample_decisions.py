"""Decisions that are tried on a picture, from which the results of all others are interpolated."""

from collections.abc import Iterator
from dataclasses import replace

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.plans import Action, Decision, Plan
from lighten.model.treatments import READABLE_TEXT_PPI, PictureTreatment
from lighten.model.trials import decision_key
from lighten.model.weights import Part, PictureFacts, WeightSheet
from lighten.pictures.pixels.sizes import target_size
from lighten.pictures.recoding.recode_job import Cut
from lighten.planning.coding_model import LINES
from lighten.planning.curves import HIGH_QUALITY, LOW_QUALITY, TOP_QUALITY
from lighten.registry import format_named

__all__ = [
    "decision_at",
    "decisions_beyond",
    "decisions_to_try",
    "layers_decision",
    "may_be_layers",
]

# Between these corners weight and looks are smooth enough to be drawn from four points.
_COARSE_PPI, _FINE_PPI = 75.0, 180.0
_LINES_PPI = (200.0, 300.0)
_LAYERS_QUALITY = 75


def decisions_to_try(
    sheet: WeightSheet, plan: Plan | None = None, *, with_corners: bool = True
) -> dict[str, tuple[Decision, ...]]:
    """Return decisions by part id, the heaviest picture first: that of `plan`, and the corners.

    plan: None for the corners alone.
    """
    decided = plan.by_part() if plan is not None else {}
    by_part: dict[str, tuple[Decision, ...]] = {}
    for part, facts in _workable(sheet):
        corners = {}
        own = decided.get(part.id)
        if own is not None and own.picture is not None and own.action is not Action.DROP:
            corners[decision_key(own)] = own
        if with_corners:
            for corner in _corners(part, facts):
                corners.setdefault(decision_key(corner), corner)
        if corners:
            by_part[part.id] = tuple(corners.values())
    return by_part


def decisions_beyond(sheet: WeightSheet) -> dict[str, tuple[Decision, ...]]:
    """Return further decisions by part id, for pictures finer than the corners."""
    by_part: dict[str, tuple[Decision, ...]] = {}
    for part, facts in _workable(sheet):
        fine = _target(facts, _FINE_PPI)
        if fine is not None and facts.picture_class not in LINES:
            top, high = (
                PictureTreatment(coding=PictureCoding.JPEG, quality=quality, keeps_words=False)
                for quality in (TOP_QUALITY, HIGH_QUALITY)
            )
            by_part[part.id] = (
                decision_at(part, facts, fine, top),
                decision_at(part, facts, None, high),
            )
        if may_be_layers(sheet, facts):
            by_part[part.id] = (*by_part.get(part.id, ()), layers_decision(part, facts))
    return by_part


def may_be_layers(sheet: WeightSheet, facts: PictureFacts) -> bool:
    """A scanned page, in a kind of document that can hold it in layers."""
    is_page = facts.picture_class is PictureClass.PAGE_SCAN and not facts.mask
    return is_page and PictureCoding.LAYERS in format_named(sheet.format).offers.codings


def layers_decision(part: Part, facts: PictureFacts) -> Decision:
    """The page in layers, or where it cannot be, as a screen shows it."""
    treatment = PictureTreatment(
        coding=PictureCoding.LAYERS, finest_ppi=READABLE_TEXT_PPI, quality=_LAYERS_QUALITY
    )
    made = decision_at(part, facts, _target(facts, READABLE_TEXT_PPI), treatment)
    return replace(made, reason=f"in layers where these show the same, {made.reason}")


def _workable(sheet: WeightSheet) -> Iterator[tuple[Part, PictureFacts]]:
    """Return the treatable pictures that a page shows, the heaviest first."""
    for part in sorted(sheet.parts, key=lambda part: (-part.size_bytes, part.id)):
        facts = part.picture
        if facts is not None and not facts.untouchable and facts.placements:
            yield part, facts


def _corners(part: Part, facts: PictureFacts) -> list[Decision]:
    lossless = PictureTreatment()
    cannot_pack = facts.is_lossy and not facts.may_repack
    decisions = [] if cannot_pack else [decision_at(part, facts, None, lossless)]
    if facts.picture_class in LINES:
        sizes = {_target(facts, ppi) for ppi in _LINES_PPI} - {None}
        return decisions + [
            decision_at(part, facts, size, lossless) for size in sorted(sizes, key=str)
        ]
    fine = _target(facts, _FINE_PPI)
    sizes = {fine, _target(facts, _COARSE_PPI)}
    for quality in (LOW_QUALITY, HIGH_QUALITY):
        # What words need is added by whoever chooses among sizes.
        treatment = PictureTreatment(coding=PictureCoding.JPEG, quality=quality, keeps_words=False)
        decisions += [decision_at(part, facts, size, treatment) for size in sorted(sizes, key=str)]
    return decisions


def decision_at(
    part: Part,
    facts: PictureFacts,
    size: tuple[int, int] | None,
    treatment: PictureTreatment,
    cut: Cut | None = None,
) -> Decision:
    """Return the decision to bring the picture to `size` (None for its own), by `treatment`.

    cut: what is kept of it, as shares of its sides; None for all.
    """
    if facts.picture_class is PictureClass.MASK:
        treatment = replace(treatment, quality=None)
    ppi = ""
    if facts.ppi is not None:
        share = 1.0 if size is None else min(size[0] / facts.width_px, size[1] / facts.height_px)
        ppi = (
            f"{facts.ppi:.0f} ppi"
            if size is None
            else f"{facts.ppi:.0f} to {facts.ppi * share:.0f} ppi"
        )
    quality = f", quality {treatment.quality}" if treatment.quality else ""
    reason = f"{ppi}{quality}".strip(", ") or "re-encoded"
    return Decision(
        part_id=part.id,
        action=Action.RECODE if size is None else Action.RESAMPLE,
        reason=f"cut to what shows, {reason}" if cut else reason,
        target_px=size,
        picture=treatment,
        cut=cut,
    )


def _target(facts: PictureFacts, ppi: float) -> tuple[int, int] | None:
    shown = facts.largest_display_pt
    return None if shown is None else target_size(shown, (facts.width_px, facts.height_px), ppi)
