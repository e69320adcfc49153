"""The plan that loses least to the eye and still fits a limit."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lighten.model.extras import SAFE_EXTRAS
from lighten.model.fit_rules import FitRules, Way
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Decision, PartException, Plan
from lighten.model.presets import Preset
from lighten.model.treatments import FontTreatment, Treatment
from lighten.model.trials import Trials, non_picture_key
from lighten.model.weights import Part, WeightSheet
from lighten.planning.coding_model import LINES
from lighten.planning.curves import curves_of
from lighten.planning.decide import plan
from lighten.planning.estimate import is_held_picture, part_estimates
from lighten.planning.fit.allocation import Task, allocate, choice_of
from lighten.planning.fit.candidates import (
    Candidate,
    decision_of,
    picture_candidates,
)

__all__ = ["GENTLY", "Chosen", "Fit", "fit", "fit_together", "share_limit"]

# What is done before any picture loses anything.
GENTLY = Preset(
    name="as-gently-as-fits",
    title="As gently as the limit allows",
    description="Each picture loses only as much as the limit asks, the least visible first.",
    treatment=Treatment(fonts=FontTreatment(subset=True), dropped_extras=SAFE_EXTRAS),
)
# Fine steps of quality where few pictures share the limit: pictures at most, and the step.
_STEPS = ((60, 1), (500, 3), (10**9, 6))


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """Choice for a picture: its predicted weight and score."""

    part_id: str
    bytes_before: int
    size_bytes: int
    score: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """Plan for one document. size_bytes: its predicted size.

    is_met: within the limit. gives_up: pictures lose something for it. used: of the ways that
    were allowed. lightest_bytes: the least that is possible by the rules.
    untried: pictures without trials so far, which stay unchanged.
    """

    plan: Plan
    size_bytes: int
    is_met: bool
    gives_up: bool
    chosen: tuple[Chosen, ...]
    used: tuple[Way, ...]
    lightest_bytes: int
    untried: int


def fit(
    sheet: WeightSheet,
    trials: Trials,
    limit_bytes: int,
    rules: FitRules | None = None,
    exceptions: Mapping[str, PartException] | None = None,
) -> Fit:
    """Return the gentlest plan for one document whose predicted size is at most `limit_bytes`.

    The lightest where none is by the rules; see `is_met`. The same input gives the same plan,
    and a larger limit never a plan that loses more.
    """
    return fit_together([(sheet, trials, exceptions or {})], limit_bytes, rules)[0]


def fit_together(
    documents: Sequence[tuple[WeightSheet, Trials, Mapping[str, PartException]]],
    limit_bytes: int,
    rules: FitRules | None = None,
) -> tuple[Fit, ...]:
    """Fit documents that share one limit, as `fit`: the least visible losses come first."""
    rules = rules or FitRules()
    used: tuple[Way, ...] = ()
    while True:
        tasks = [_task(*document, rules.floor, used) for document in documents]
        is_met = sum(task.lightest_bytes for task in tasks) <= limit_bytes
        if is_met or len(used) == len(rules.ways):
            break
        used = rules.ways[: len(used) + 1]
    chosen = allocate(tasks, limit_bytes)
    return tuple(
        _as_fit(task, candidates, used=used, is_met=is_met)
        for task, candidates in zip(tasks, chosen, strict=True)
    )


def share_limit(
    documents: Sequence[tuple[WeightSheet, Trials, Mapping[str, PartException]]],
    limit_bytes: int,
    rules: FitRules | None = None,
) -> tuple[int, ...]:
    """Return the limit of each document, so that together they weigh `limit_bytes` at most.

    What one does not need goes to those that give up something for the limit.
    """
    fits = fit_together(documents, limit_bytes, rules)
    needed = [fitted.size_bytes for fitted in fits]
    giving = [fitted.size_bytes if fitted.gives_up else 0 for fitted in fits]
    spare = max(0, limit_bytes - sum(needed))
    if not sum(giving):
        giving = needed
    return tuple(
        need + spare * give // max(1, sum(giving))
        for need, give in zip(needed, giving, strict=True)
    )


def _task(
    sheet: WeightSheet,
    trials: Trials,
    exceptions: Mapping[str, PartException],
    floor: float,
    used: tuple[Way, ...],
) -> Task:
    extras = {ExtraKind(way) for way in used if way in set(ExtraKind)}
    treatment = replace(GENTLY.treatment, dropped_extras=GENTLY.treatment.dropped_extras | extras)
    base = plan(sheet, replace(GENTLY, treatment=treatment), exceptions=exceptions)
    decisions = base.by_part()
    free = [
        part
        for part in sheet.parts
        if part.id not in exceptions and _is_free(part, decisions[part.id])
    ]
    step = next(step for most, step in _STEPS if len(free) <= most)
    choices = tuple(
        choice_of(
            part, picture_candidates(part, decisions[part.id], trials, floor, used, step=step)
        )
        for part in free
    )
    taken = {part.id for part in free}
    sizes = part_estimates(sheet, base, trials)
    untried = sum(
        part.picture is not None
        and part.picture.picture_class not in LINES
        and curves_of(trials.pictures.get(part.id, ())) is None
        for part in free
    )
    return Task(base, _fixed_bytes(sheet, base, trials, taken, sizes), choices, untried)


def _is_free(part: Part, decision: Decision) -> bool:
    """A picture that a page shows and that can be worked on."""
    facts = part.picture
    return (
        facts is not None
        and not facts.untouchable
        and bool(facts.placements)
        and decision.action is not Action.DROP
    )


def _fixed_bytes(
    sheet: WeightSheet, base: Plan, trials: Trials, free: set[str], sizes: Mapping[str, float]
) -> float:
    """Return the bytes of everything but the pictures that can be treated."""
    decisions = base.by_part()
    measured = trials.non_picture_bytes.get(non_picture_key(sheet, base))
    return sum(
        sizes[part.id]
        for part in sheet.parts
        if part.id not in free and (measured is None or is_held_picture(part, decisions[part.id]))
    ) + (measured or 0)


def _as_fit(
    task: Task,
    candidates: list[Candidate],
    *,
    used: tuple[Way, ...],
    is_met: bool,
) -> Fit:
    steps = {
        choice.part.id: (choice.part, candidate)
        for choice, candidate in zip(task.choices, candidates, strict=True)
    }
    made = replace(
        task.base,
        decisions=tuple(
            decision_of(*steps[decision.part_id]) if decision.part_id in steps else decision
            for decision in task.base.decisions
        ),
    )
    return Fit(
        plan=made,
        size_bytes=round(task.fixed_bytes + sum(candidate.size_bytes for candidate in candidates)),
        is_met=is_met,
        gives_up=any(candidate.loss > 0 for candidate in candidates),
        chosen=tuple(
            Chosen(
                part_id=part_id,
                bytes_before=part.size_bytes,
                size_bytes=round(candidate.size_bytes),
                score=candidate.score,
            )
            for part_id, (part, candidate) in steps.items()
        ),
        used=used,
        lightest_bytes=round(task.lightest_bytes),
        untried=task.untried,
    )
