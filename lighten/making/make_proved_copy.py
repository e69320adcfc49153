"""A copy that is proved before it is offered; what may be behind a failed proof goes back."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from lighten.errors import UnsoundCopyError
from lighten.making.make_copy import make_copy
from lighten.pictures.coding_cache import CodingCache
from lighten.plans import Action, Copy, Decision, Plan
from lighten.proofs import PageProof, Proof, Verdict
from lighten.proving import prove
from lighten.source import Progress, Source, no_progress, share_of
from lighten.treatments import DrawingTreatment, FontTreatment
from lighten.weights import Part, PartKind, PictureCoding, WeightSheet

__all__ = ["check_sound", "make_proved_copy"]

# Of the whole time, what writing takes; the rest is proof.
_WRITING_SHARE = 0.6
# Most copies are sound at the first attempt.
_FIRST_SHARE = 0.9
# What is hard to tell from the original in print (common practice, no source).
_FINE_QUALITY = 90
# The first step towards it.
_MORE_QUALITY, _MORE_PIXELS = 9, 1.5


def make_proved_copy(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress = no_progress,
    *,
    cache: CodingCache | None = None,
    lays_out: bool = False,
) -> tuple[Copy, Proof | None]:
    """A copy that has been proved before it stands at `out`; None where there is no copy.

    If it fails, pictures on the pages that failed are coded finer, then finely and at all their
    pixels, then go back to their originals, then fonts and drawing do, and the copy is made again
    each time; what fails still is marked `Verdict.LOOK`. cache: saves coding again what did not
    fail. lays_out: as in `prove`.
    Raises: as `make_copy`; UnsoundCopyError.
    """
    if out.exists():
        raise FileExistsError(out)
    unproved = out.with_name(f"{out.name}.unproved")
    unproved.unlink(missing_ok=True)
    try:
        copy, proof = _attempt(
            source,
            sheet,
            plan,
            unproved,
            share_of(progress, 0, _FIRST_SHARE),
            cache=cache,
            lays_out=lays_out,
        )
        for number, retreat in enumerate(_RETREATS, start=1):
            if proof is None or proof.verdict is not Verdict.LOOK:
                break
            gentler = retreat(plan, proof, sheet)
            if gentler != plan:
                plan = gentler
                unproved.unlink()
                earlier = (copy, proof)
                copy, proof = _attempt(
                    source,
                    sheet,
                    plan,
                    unproved,
                    _share_of_attempt(progress, number),
                    cache=cache,
                    lays_out=lays_out,
                    earlier=earlier,
                )
        progress(1.0)
        if proof is None:
            return copy, None
        check_sound(source, proof)
        unproved.replace(out)
    finally:
        unproved.unlink(missing_ok=True)
    return replace(copy, path=out), proof


def check_sound(source: Source, proof: Proof) -> None:
    """Raises: UnsoundCopyError for a copy that nobody should be given, whatever is told of it."""
    if not proof.is_sound:
        raise UnsoundCopyError(
            f"{source.name}: there is no copy of it, as {proof.reasons[0].rstrip('.')}. The file "
            "is damaged inside. Open it in the program that made it, save it again, and try that."
        )


def _share_of_attempt(progress: Progress, number: int) -> Progress:
    """Of what is left after the first, half each time: nobody knows how many there will be."""
    left = 1 - _FIRST_SHARE
    return share_of(progress, 1 - left * 0.5 ** (number - 1), 1 - left * 0.5**number)


def _attempt(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress,
    *,
    cache: CodingCache | None,
    lays_out: bool,
    earlier: tuple[Copy, Proof] | None = None,
) -> tuple[Copy, Proof | None]:
    copy = make_copy(source, sheet, plan, out, share_of(progress, 0, _WRITING_SHARE), cache=cache)
    if copy.path is None:
        return copy, None
    proof = prove(
        source,
        replace(source, path=copy.path),
        sheet,
        copy.outcomes,
        share_of(progress, _WRITING_SHARE, 1, "proving"),
        known_pages=_unaffected(sheet, copy, *earlier) if earlier else (),
        lays_out=lays_out,
    )
    return copy, proof


def _unaffected(
    sheet: WeightSheet, copy: Copy, earlier: Copy, proof: Proof
) -> tuple[PageProof, ...]:
    """Sound pages that show nothing of which another thing was made than before.

    Same input and same decisions give the same bytes, so that they look as they did.
    """
    changed = [
        part
        for part, now, before in zip(sheet.parts, copy.outcomes, earlier.outcomes, strict=True)
        if now != before and part.kind not in (PartKind.STRUCTURE, PartKind.EXTRA)
    ]
    if any(part.picture is None for part in changed):
        return ()
    pages = {page for part in changed if part.picture for page in part.picture.pages}
    return tuple(page for page in proof.pages if page.page not in pages and not page.faults)


def _with_suspects_finer(plan: Plan, proof: Proof, sheet: WeightSheet) -> Plan:
    """The plan with half as many pixels again, and more quality, for pictures that failed."""
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
    """The plan with the pictures on pages that failed at all their pixels, and finely coded."""
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
    """The plan with the pictures on pages that failed left as they are."""
    return _spared(plan, Action.KEEP, lambda decision: decision.part_id in proof.suspects)


def _without_restyling(plan: Plan, _proof: Proof, _sheet: WeightSheet) -> Plan:
    """The plan with fonts and drawing left as they are."""
    spared = _spared(
        plan,
        Action.PACK,
        lambda decision: decision.action is Action.RECODE and decision.picture is None,
    )
    return replace(spared, fonts=FontTreatment(), drawing=DrawingTreatment())


def _spared(plan: Plan, action: Action, is_spared: Callable[[Decision], bool]) -> Plan:
    reason = "left as it is: its page failed the proof"
    return replace(
        plan,
        decisions=tuple(
            Decision(part_id=decision.part_id, action=action, reason=reason)
            if is_spared(decision)
            else decision
            for decision in plan.decisions
        ),
    )


# What is undone in turn when a copy fails its proof.
_RETREATS = (
    _with_suspects_finer,
    _with_suspects_gentler,
    _without_suspects,
    _without_restyling,
)
