"""A plan carried out into a new file, beside the original."""

from collections.abc import Iterator, Mapping
from pathlib import Path

from lighten.contract import Editing
from lighten.making.lighten_embedded import lighten_embedded
from lighten.model.errors import WrongDecisionError
from lighten.model.kinds import PartKind
from lighten.model.plans import Action, Copy, Decision, Outcome, Plan
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers, open_workers
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.recoding.recode_all import recode_all
from lighten.registry import format_named

__all__ = ["make_copy"]

_PARTIAL = ".partial"
# Of the whole time of writing.
_PICTURES_SHARE, _REST_SHARE = 0.8, 0.95
_TREATED = (Action.RECODE, Action.RESAMPLE, Action.REPLACE)


def make_copy(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress = no_progress,
    *,
    cache: CodingCache | None = None,
) -> Copy:
    """Carry out `plan` into a new file at `out`, unless the file would not be lighter.

    Written under a temporary name beside `out` and renamed when whole; `out` may not exist yet.
    cache: codings of earlier copies and trials are taken from there, and kept there.
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
        with format_named(sheet.format).edit(source, sheet) as editing:
            outcomes, media_type = _carry_out(
                editing, sheet, plan, partial, progress=progress, cache=cache
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
                media_type=sheet.media_type,
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
        media_type=media_type,
        outcomes=outcomes,
        reasons=sheet.remarks,
    )


def _state_of(path: Path) -> tuple[int, int, int]:
    """Return values that change whenever a file is written to or replaced."""
    state = path.stat()
    return state.st_size, state.st_mtime_ns, state.st_ino


def _carry_out(
    editing: Editing,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    *,
    progress: Progress,
    cache: CodingCache | None,
) -> tuple[tuple[Outcome, ...], str]:
    """Carry out a plan; return the outcome of each part in the sheet's order, and the new media
    type.
    """
    outcomes = dict(editing.leave_out(plan))
    with open_workers() as workers:
        treating = share_of(progress, 0, _PICTURES_SHARE, "coding pictures")
        outcomes |= _treat_pictures(editing, sheet, plan, workers, progress=treating, cache=cache)
        progress(_PICTURES_SHARE, "packing the rest")
        lighten_embedded(editing, sheet, plan, out.parent, make_copy)
        outcomes |= editing.apply_rest(plan, workers)
    progress(_REST_SHARE)
    kind = editing.save(plan, out)
    progress(1.0)
    return _in_order(sheet, plan, outcomes, out.stat().st_size), kind.media_type


def _treat_pictures(
    editing: Editing,
    sheet: WeightSheet,
    plan: Plan,
    workers: Workers,
    *,
    progress: Progress,
    cache: CodingCache | None,
) -> dict[str, Outcome]:
    """Every treated picture in its place, by part id."""
    decisions = plan.by_part()
    parts = [part for part in sheet.parts if part.picture and _is_treated(decisions[part.id])]

    def jobs() -> Iterator[RecodeJob]:
        for part in parts:
            yield editing.job(part, decisions[part.id])

    outcomes: dict[str, Outcome] = {}
    for part, recoded in zip(parts, recode_all(jobs(), workers, cache), strict=True):
        saved = editing.put(part, recoded)
        outcomes[part.id] = _outcome(part, decisions[part.id], recoded, saved)
        progress(len(outcomes) / len(parts))
    return outcomes


def _is_treated(decision: Decision) -> bool:
    return decision.action in _TREATED and decision.picture is not None


def _outcome(part: Part, decision: Decision, recoded: Recoded, saved: int) -> Outcome:
    is_restyled = decision.picture is not None and decision.picture.changes_looks
    is_meant_to_differ = is_restyled or decision.replacement is not None
    changes_looks = recoded.action is not Action.KEEP and is_meant_to_differ
    is_as_planned = recoded.action in (Action.RESAMPLE, Action.REPLACE) or changes_looks
    treatment, picture = decision.picture, recoded.layers or recoded.picture
    said = (
        decision.reason if is_as_planned else "",
        recoded.reason,
        _finer_than_planned(decision, recoded),
        decision.remark,
    )
    return Outcome(
        part_id=part.id,
        action=recoded.action,
        reason=", ".join(filter(None, said)),
        bytes_before=part.size_bytes,
        bytes_after=part.size_bytes - saved,
        likeness=picture.likeness if picture else None,
        changes_looks=changes_looks,
        loses_colour=changes_looks and treatment is not None and treatment.only_loses_colour,
        # Layers do without grain, which a score takes for one too: they are read, square by square.
        least_score=treatment.least_score if treatment and recoded.picture else 0.0,
        size_px=(picture.width_px, picture.height_px) if picture else None,
        is_cut=recoded.action is not Action.KEEP and recoded.cut is not None,
        is_layered=recoded.layers is not None,
        turned_degrees=recoded.turned_degrees,
        may_lose_words=treatment is not None and not treatment.keeps_words,
    )


def _finer_than_planned(decision: Decision, recoded: Recoded) -> str:
    """Add to the outcomes a remark where quality was raised to reach the score."""
    picture, target = recoded.picture, decision.target_px
    if picture is None or target is None or recoded.cut is not None:
        return ""
    if picture.width_px <= target[0] or recoded.action is not Action.RESAMPLE:
        return ""
    return f"finer, {picture.width_px} x {picture.height_px} pixels, as its looks needed"


def _in_order(
    sheet: WeightSheet, plan: Plan, outcomes: Mapping[str, Outcome], size_bytes: int
) -> tuple[Outcome, ...]:
    """Return one outcome a part; structure has the remaining bytes of the new file."""
    decisions = plan.by_part()
    by_part = {
        part.id: outcomes.get(part.id) or _untouched(part, decisions[part.id])
        for part in sheet.parts
        if part.kind is not PartKind.STRUCTURE
    }
    structure_bytes = max(0, size_bytes - sum(outcome.bytes_after for outcome in by_part.values()))
    return tuple(
        by_part.get(part.id)
        or Outcome(
            part_id=part.id,
            action=Action.PACK,
            reason=decisions[part.id].reason,
            bytes_before=part.size_bytes,
            bytes_after=structure_bytes,
        )
        for part in sheet.parts
    )


def _untouched(part: Part, decision: Decision) -> Outcome:
    """Return the outcome of a part that was only kept or dropped."""
    return Outcome(
        part_id=part.id,
        action=decision.action,
        reason=decision.reason,
        bytes_before=part.size_bytes,
        bytes_after=0 if decision.action is Action.DROP else part.size_bytes,
    )
