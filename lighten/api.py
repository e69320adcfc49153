"""The few calls: path -> weigh -> plan -> make_copy -> prove."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.coding_store import CodingStore
from lighten.contract import Progress, Source, no_progress
from lighten.errors import WrongDecisionError
from lighten.planning.estimate import is_held_picture
from lighten.plans import Action, Copy, Decision, Plan
from lighten.proofs import PageProof, Proof, Verdict
from lighten.proving import prove
from lighten.registry import format_named, format_of
from lighten.treatments import DrawingTreatment, FontTreatment
from lighten.trials import Trial
from lighten.weights import PartKind, WeightSheet

__all__ = ["make_copy", "make_proved_copy", "try_out", "try_rest", "weigh"]

_PARTIAL = ".partial"
# Of the whole time, what writing takes; the rest is proof.
_WRITING_SHARE = 0.6
# What is hard to tell from the original in print (common practice, no source).
_FINE_QUALITY = 90


def weigh(source: Source, progress: Progress = no_progress) -> WeightSheet:
    """Every part of the file, adding up to its size to the byte; only reads it.

    Raises: UnreadableFileError, PasswordNeededError, UnsupportedFileError, LimitExceededError.
    """
    return format_of(source).weigh(source, progress)


def try_out(
    source: Source,
    sheet: WeightSheet,
    asked: Mapping[str, tuple[Decision, ...]],
    store: CodingStore | None = None,
    *,
    for_good: bool = False,
) -> Iterator[tuple[str, tuple[Trial, ...]]]:
    """What those decisions would make of the pictures, by part id, as it is found.

    asked: see `decisions_to_try`. for_good: coded as a copy will have them and kept in the store
    for it, instead of quickly. Raises: as `weigh`.
    """
    return format_named(sheet.format).try_out(source, sheet, asked, store, for_good=for_good)


def try_rest(source: Source, sheet: WeightSheet, plan: Plan, folder: Path) -> int:
    """Bytes of everything in the copy but its pictures, by writing one that keeps them all.

    folder: for that copy, which does not stay. Raises: as `make_copy`.
    """
    decisions = plan.by_part()
    held = {part.id for part in sheet.parts if is_held_picture(part, decisions[part.id])}
    kept = replace(
        plan,
        decisions=tuple(
            Decision(part_id=decision.part_id, action=Action.KEEP, reason="")
            if decision.part_id in held
            else decision
            for decision in plan.decisions
        ),
        may_end_signature=True,
    )
    pictures = sum(part.size_bytes for part in sheet.parts if part.id in held)
    with TemporaryDirectory(dir=folder) as place:
        out = Path(place) / "rest"
        format_named(sheet.format).write(source, sheet, kept, out, no_progress, store=None)
        return max(0, out.stat().st_size - pictures)


def make_copy(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress = no_progress,
    *,
    store: CodingStore | None = None,
) -> Copy:
    """Carry out `plan` into a new file at `out`, unless the file would not be lighter.

    Written under a temporary name beside `out` and renamed when whole; `out` may not exist yet.
    store: codings of earlier copies and trials are taken from there, and kept there.
    Raises: FileExistsError; WrongDecisionError if the plan is another file's; SignedFileError.
    """
    if out.exists():
        raise FileExistsError(out)
    size = source.path.stat().st_size
    if plan.size_bytes != size:
        raise WrongDecisionError(
            f"{source.name}: it has changed since it was weighed. Weigh it again."
        )
    partial = out.with_name(out.name + _PARTIAL)
    before = _state_of(source.path)
    try:
        outcomes = format_named(sheet.format).write(
            source, sheet, plan, partial, progress, store=store
        )
        if _state_of(source.path) != before:
            raise WrongDecisionError(f"{source.name}: it was changed while its copy was made.")
        weight = partial.stat().st_size
        if weight >= size:
            reasons = (*sheet.remarks, "no copy: it would not be lighter than the original")
            return Copy(
                original=source.path,
                path=None,
                bytes_before=size,
                bytes_after=size,
                outcomes=outcomes,
                reasons=reasons,
            )
        partial.replace(out)
    finally:
        partial.unlink(missing_ok=True)
    return Copy(
        original=source.path,
        path=out,
        bytes_before=size,
        bytes_after=weight,
        outcomes=outcomes,
        reasons=sheet.remarks,
    )


def make_proved_copy(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress = no_progress,
    *,
    store: CodingStore | None = None,
) -> tuple[Copy, Proof | None]:
    """A copy that has been proved before it stands at `out`; None where there is no copy.

    If it fails, pictures on the pages that failed are coded finely, then go back to their
    originals, then fonts and drawing do, and the copy is made again each time; what fails still
    is marked `Verdict.LOOK`. store: saves coding again what did not fail. Raises: as `make_copy`.
    """
    if out.exists():
        raise FileExistsError(out)
    unproved = out.with_name(f"{out.name}.unproved")
    unproved.unlink(missing_ok=True)
    try:
        copy, proof = _attempt(source, sheet, plan, unproved, progress, store=store)
        for retreat in _RETREATS:
            if proof is None or proof.verdict is not Verdict.LOOK:
                break
            gentler = retreat(plan, proof)
            if gentler != plan:
                plan = gentler
                unproved.unlink()
                earlier = (copy, proof)
                copy, proof = _attempt(
                    source, sheet, plan, unproved, progress, store=store, earlier=earlier
                )
        if proof is None:
            return copy, None
        unproved.replace(out)
    finally:
        unproved.unlink(missing_ok=True)
    return replace(copy, path=out), proof


def _state_of(path: Path) -> tuple[int, int, int]:
    """What changes whenever a file is written to or replaced."""
    state = path.stat()
    return state.st_size, state.st_mtime_ns, state.st_ino


def _attempt(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress,
    *,
    store: CodingStore | None,
    earlier: tuple[Copy, Proof] | None = None,
) -> tuple[Copy, Proof | None]:
    copy = make_copy(
        source, sheet, plan, out, lambda share: progress(share * _WRITING_SHARE), store=store
    )
    if copy.path is None:
        return copy, None
    proof = prove(
        source,
        replace(source, path=copy.path),
        sheet,
        copy.outcomes,
        lambda share: progress(_WRITING_SHARE + share * (1 - _WRITING_SHARE)),
        known=_unaffected(sheet, copy, *earlier) if earlier else (),
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


def _with_suspects_gentler(plan: Plan, proof: Proof) -> Plan:
    """The plan with the pictures on pages that failed at all their pixels, and finely coded."""
    return replace(
        plan,
        decisions=tuple(
            _gentler(decision) if decision.part_id in proof.suspects else decision
            for decision in plan.decisions
        ),
    )


def _gentler(decision: Decision) -> Decision:
    wanted = decision.picture
    if wanted is None or wanted.quality is None or decision.action is Action.REPLACE:
        return decision
    return replace(
        decision,
        action=Action.RECODE,
        target_px=None,
        picture=replace(wanted, quality=max(wanted.quality, _FINE_QUALITY)),
        reason="all its pixels",
        remark="finely, as its page failed the proof at first",
    )


def _without_suspects(plan: Plan, proof: Proof) -> Plan:
    """The plan with the pictures on pages that failed left as they are."""
    return _spared(plan, Action.KEEP, lambda decision: decision.part_id in proof.suspects)


def _without_restyling(plan: Plan, _proof: Proof) -> Plan:
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
_RETREATS = (_with_suspects_gentler, _without_suspects, _without_restyling)
