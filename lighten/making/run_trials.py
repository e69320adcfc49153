"""Trials made one after the other, so that estimates and fits rest on more and more of them."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import islice
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.contract import Editing
from lighten.model.kinds import PartKind
from lighten.model.plans import Action, Decision, Plan
from lighten.model.source import Source
from lighten.model.trials import (
    Trial,
    Trials,
    decision_key,
    is_layers,
    is_plain,
    non_picture_key,
)
from lighten.model.weights import Part, PictureFacts, WeightSheet
from lighten.parallel import open_workers
from lighten.pictures.pixels.sizes import SCREEN_PPI, pixels_at
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.drafts import Draft, DraftJob, draft_all
from lighten.planning.decide import plan
from lighten.planning.estimate import is_held_picture
from lighten.planning.fit.fit import GENTLY
from lighten.planning.sample_decisions import decisions_beyond, decisions_to_try
from lighten.planning.switch_savings import whole_fonts
from lighten.registry import format_named

__all__ = ["run_trials", "try_pictures"]

# As many of the heaviest pictures are coded for good: in small files drafts alone are too few.
_CODED_FOR_GOOD = 12
_TOLD_EVERY = 8
_FONTS_SHARE = 0.05

Decisions = Mapping[str, tuple[Decision, ...]]


def run_trials(
    source: Source,
    sheet: WeightSheet,
    chosen: Plan | None,
    folder: Path,
    *,
    cache: CodingCache | None = None,
    earlier: Trials | None = None,
) -> Iterator[tuple[float, Trials]]:
    """Run trials for `chosen` and then for other presets; yield them with the share done.

    chosen: None for those that a fit needs, alone. folder: for temporary files. earlier: trials
    made before, to be added to. Raises: as `weigh`.
    """
    trials = earlier or Trials()
    rounds = [
        (untried, for_good)
        for decisions, for_good in _rounds(sheet, chosen, has_cache=cache is not None)
        if (untried := _untried(decisions, trials, for_good=for_good))
    ]
    total = sum(len(decisions) for decisions, _ in rounds) + 1
    for measured in _plans_to_measure(sheet, chosen):
        key = non_picture_key(sheet, measured)
        if key not in trials.non_picture_bytes:
            size = _measure_non_picture_bytes(source, sheet, measured, folder)
            trials = trials.with_non_picture_bytes(key, size)
            yield 1 / total, trials
    done = 1
    for decisions, for_good in rounds:
        fresh: dict[str, tuple[Trial, ...]] = {}
        known = trials.known_words()
        made_now = try_pictures(source, sheet, decisions, cache, for_good=for_good, known=known)
        for part_id, made in made_now:
            fresh[part_id] = made
            done += 1
            if done % _TOLD_EVERY == 0:
                trials, fresh = trials.with_pictures(fresh), {}
                yield done / total, trials
        trials = trials.with_pictures(fresh)
        yield done / total, trials
    yield 1.0, trials


def try_pictures(
    source: Source,
    sheet: WeightSheet,
    decisions: Decisions,
    cache: CodingCache | None = None,
    *,
    for_good: bool = False,
    known: Mapping[str, int] | None = None,
) -> Iterator[tuple[str, tuple[Trial, ...]]]:
    """Yield the result of each decision on the pictures, by part id, as soon as it is known.

    decisions: see `decisions_to_try`. for_good: coded as a copy will have them and kept in the
    cache for it, instead of quickly. known: how many pixels across the words of pictures need that
    were tried before; of all others it is found out. None for not at all. Raises: as `weigh`.
    """
    parts = [sheet.part(part_id) for part_id in decisions]
    with (
        format_named(sheet.format).edit(source, sheet) as editing,
        open_workers() as workers,
    ):
        jobs = (
            _draft_job(
                editing,
                part,
                decisions[part.id],
                is_draft=not for_good,
                seeks_words=known is not None and part.id not in known,
                words_px=(known or {}).get(part.id),
            )
            for part in parts
        )
        for part, drafts in zip(parts, draft_all(jobs, workers, cache), strict=True):
            trials = zip(decisions[part.id], drafts, strict=True)
            yield (
                part.id,
                tuple(
                    _trial(part, decision, draft, for_good=for_good) for decision, draft in trials
                ),
            )


def _draft_job(
    editing: Editing,
    part: Part,
    decisions: tuple[Decision, ...],
    *,
    is_draft: bool,
    seeks_words: bool,
    words_px: int | None,
) -> DraftJob:
    assert part.picture is not None
    codings = (editing.job(part, decision) for decision in decisions)
    return DraftJob(
        codings=tuple(
            replace(coding, is_draft=is_draft and not is_layers(decision))
            for coding, decision in zip(codings, decisions, strict=True)
        ),
        shown_px=_shown_px(part.picture),
        seeks_words=seeks_words,
        words_px=words_px,
    )


def _shown_px(facts: PictureFacts) -> tuple[int, int] | None:
    shown = facts.largest_display_pt
    return None if shown is None else pixels_at(shown, SCREEN_PPI)


def _trial(part: Part, decision: Decision, draft: Draft, *, for_good: bool) -> Trial:
    assert part.picture is not None and decision.picture is not None
    return Trial(
        key=decision_key(decision),
        size_bytes=max(0, part.size_bytes - draft.saved_bytes),
        width_px=(decision.target_px or (part.picture.width_px,))[0],
        quality=decision.picture.quality,
        is_plain=is_plain(decision),
        score=draft.score,
        is_final=for_good or is_layers(decision),
        words_px=draft.words_px,
    )


def _plans_to_measure(sheet: WeightSheet, chosen: Plan | None) -> list[Plan]:
    """Return plans whose bytes without pictures are worth measuring."""
    plans = [plan(sheet, GENTLY), *([chosen] if chosen else [])]
    if chosen is not None and _fonts_weigh(sheet):
        plans.append(whole_fonts(sheet))
    return plans


def _fonts_weigh(sheet: WeightSheet) -> bool:
    """Return whether the saving of subsetting is worth measuring."""
    return sheet.bytes_by_kind().get(PartKind.FONT, 0) > _FONTS_SHARE * sheet.size_bytes


def _measure_non_picture_bytes(source: Source, sheet: WeightSheet, plan: Plan, folder: Path) -> int:
    """Measure the bytes of a copy without its pictures by writing it.

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
    with (
        TemporaryDirectory(dir=folder) as place,
        format_named(sheet.format).edit(source, sheet) as editing,
        open_workers() as workers,
    ):
        out = Path(place) / "without-treated-pictures"
        editing.leave_out(kept)
        outcomes = editing.apply_rest(kept, workers)
        editing.save(kept, out)
        # What goes with a picture that is treated is still in those that are kept here.
        going = sum(
            outcome.bytes_after for outcome in outcomes.values() if outcome.action is Action.DROP
        )
        return max(0, out.stat().st_size - pictures - going)


def _rounds(
    sheet: WeightSheet, chosen: Plan | None, *, has_cache: bool
) -> Iterator[tuple[Decisions, bool]]:
    """Yield rounds of decisions to try, and whether for good: the chosen ones first, then all
    others.
    """
    if chosen is not None:
        own = decisions_to_try(sheet, chosen, with_corners=False)
        yield own, False
    yield decisions_to_try(sheet), False
    yield decisions_beyond(sheet), False
    if chosen is not None and has_cache:
        yield dict(islice(own.items(), _CODED_FOR_GOOD)), True


def _untried(decisions: Decisions, trials: Trials, *, for_good: bool) -> Decisions:
    """Return the decisions without a trial."""
    untried: dict[str, tuple[Decision, ...]] = {}
    for part_id, those in decisions.items():
        waiting = tuple(
            decision
            for decision in those
            if (trial := trials.of(decision)) is None or (for_good and not trial.is_final)
        )
        if waiting:
            untried[part_id] = waiting
    return untried
