"""The plan that loses least to the eye and still fits a limit."""

import heapq
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.sizes import target_size
from lighten.pictures.visible_loss import INVISIBLE
from lighten.planning.curves import Curves, curves_of
from lighten.planning.decide import plan
from lighten.planning.estimate import is_held_picture, part_estimates
from lighten.planning.try_points import decision_at
from lighten.plans import Action, Decision, PictureException, Plan
from lighten.presets import Preset
from lighten.treatments import (
    READABLE_TEXT_PPI,
    SAFE_EXTRAS,
    ColourChange,
    FontTreatment,
    PictureCoding,
    PictureTreatment,
    Treatment,
)
from lighten.trials import Trial, Trials, decision_key, rest_key
from lighten.weights import ExtraKind, Part, PictureClass, PictureFacts, WeightSheet

__all__ = ["GENTLY", "Chosen", "Fit", "FitRules", "Way", "fit", "fit_together", "share_limit"]

Way = str
Floats = NDArray[np.float64]
GREY, TWO_TONE = "grey", "two-tone"

# What is done before any picture loses anything.
GENTLY = Preset(
    name="as-gently-as-fits",
    title="As gently as the limit allows",
    description="Each picture loses only as much as the limit asks, the least visible first.",
    treatment=Treatment(fonts=FontTreatment(subset=True), dropped_extras=SAFE_EXTRAS),
)
_PPIS = (75.0, 85.0, 95.0, 108.0, 122.0, 138.0, 155.0, 180.0, 220.0, 260.0, 300.0)
_LOWEST_QUALITY, _HIGHEST_QUALITY = 38, 96
# Fine steps of quality where few pictures share the limit: pictures at most, and the step.
_STEPS = ((60, 1), (500, 3), (10**9, 6))
# So that one bad picture counts for more than several middling ones.
_LOSS_EXPONENT = 2.5
_UNCHANGED = 100.0
# Losing a little sharpness to save less than that is not worth it.
_WORTH_BELOW = 0.94
_GREY_SHARE = 0.85
# Beside the loss of a picture at the floor: colour is the last thing to go, tones after it.
_LOSS_OF_COLOUR = 1.5
_TWO_TONE_BITS = 0.12
_TWO_TONE_PPI = 300.0
_LINES = (PictureClass.TWO_TONE, PictureClass.STENCIL)


@dataclass(frozen=True, slots=True, kw_only=True)
class FitRules:
    """floor: the least score (SSIMULACRA2, 100 for the same) that any picture may have.

    ways: what else may be done, in that order, where pictures alone cannot meet the limit:
    "grey", "two-tone" (scanned pages), or a kind of extra to leave out.
    """

    floor: float = 55.0
    ways: tuple[Way, ...] = ()

    def __post_init__(self) -> None:
        if not 0 <= self.floor <= INVISIBLE:
            raise ValueError(f"floor is from 0 to {INVISIBLE:.0f}")
        for way in self.ways:
            if way not in (GREY, TWO_TONE) and way not in set(ExtraKind):
                raise ValueError(f'"{way}" is no way to make a document lighter')


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """What was decided for a picture: what it will weigh, and how it will look."""

    part_id: str
    bytes_before: int
    size_bytes: int
    score: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """The plan for one document. size_bytes: what it is likely to make.

    is_met: within the limit. gives_up: pictures lose something for it. used: of the ways that
    were allowed. lightest_bytes: the least that is possible by the rules.
    untried: pictures of which no trial tells yet what could become of them, so that they stay.
    """

    plan: Plan
    size_bytes: int
    is_met: bool
    gives_up: bool
    chosen: tuple[Chosen, ...]
    used: tuple[Way, ...]
    lightest_bytes: int
    untried: int


@dataclass(frozen=True, slots=True)
class _Candidate:
    """One thing that could be done to a picture.

    size_px, wanted: what to code it as, from which the decision is made once it is chosen;
    decision: ready, where it is none of that.
    """

    size_bytes: float
    loss: float
    score: float
    size_px: tuple[int, int] | None = None
    wanted: PictureTreatment | None = None
    decision: Decision | None = None


@dataclass(frozen=True, slots=True)
class _Choice:
    """One picture. steps: from what nothing is lost by, each step down worth its loss.

    between: all that no other candidate beats in both weight and looks, heaviest first.
    """

    part: Part
    steps: tuple[_Candidate, ...]
    between: tuple[_Candidate, ...]


@dataclass(frozen=True, slots=True)
class _Task:
    """One document: what stays whatever is chosen, and what can be chosen."""

    base: Plan
    rest_bytes: float
    choices: tuple[_Choice, ...]
    untried: int

    @property
    def lightest_bytes(self) -> float:
        return self.rest_bytes + sum(choice.steps[-1].size_bytes for choice in self.choices)


def fit(
    sheet: WeightSheet,
    trials: Trials,
    limit_bytes: int,
    rules: FitRules | None = None,
    exceptions: Mapping[str, PictureException] | None = None,
) -> Fit:
    """The gentlest plan for one document that is likely to weigh `limit_bytes` at most.

    Where none is by the rules, the lightest; `is_met` tells. The same input gives the same plan,
    and a larger limit never a plan that loses more.
    """
    return fit_together([(sheet, trials, exceptions or {})], limit_bytes, rules)[0]


def fit_together(
    documents: Sequence[tuple[WeightSheet, Trials, Mapping[str, PictureException]]],
    limit_bytes: int,
    rules: FitRules | None = None,
) -> tuple[Fit, ...]:
    """As `fit`, for documents that share one limit: what loses least anywhere goes first."""
    rules = rules or FitRules()
    used: tuple[Way, ...] = ()
    while True:
        tasks = [_task(*document, rules.floor, used) for document in documents]
        is_met = sum(task.lightest_bytes for task in tasks) <= limit_bytes
        if is_met or len(used) == len(rules.ways):
            break
        used = rules.ways[: len(used) + 1]
    chosen = _allocate(tasks, limit_bytes)
    return tuple(
        _as_fit(task, candidates, used=used, is_met=is_met)
        for task, candidates in zip(tasks, chosen, strict=True)
    )


def share_limit(
    documents: Sequence[tuple[WeightSheet, Trials, Mapping[str, PictureException]]],
    limit_bytes: int,
    rules: FitRules | None = None,
) -> tuple[int, ...]:
    """What each document may weigh, so that together they weigh `limit_bytes` at most.

    What one does not need goes to those that give up something for the limit.
    """
    fits = fit_together(documents, limit_bytes, rules)
    needed = [one.size_bytes for one in fits]
    giving = [one.size_bytes if one.gives_up else 0 for one in fits]
    spare = max(0, limit_bytes - sum(needed))
    if not sum(giving):
        giving = needed
    return tuple(
        need + spare * give // max(1, sum(giving))
        for need, give in zip(needed, giving, strict=True)
    )


def _allocate(tasks: Sequence[_Task], limit_bytes: int) -> list[list[_Candidate]]:
    """For each document and picture, what is done to it.

    Every step is taken where it costs least for the bytes it saves, so a larger limit takes a
    part of the steps of a smaller one. Source: Shoham and Gersho, IEEE Trans. Acoustics, Speech
    and Signal Processing 36(9), 1988: bit allocation over convex hulls.
    """
    taken = [[0] * len(task.choices) for task in tasks]
    total = sum(
        task.rest_bytes + sum(choice.steps[0].size_bytes for choice in task.choices)
        for task in tasks
    )
    waiting: list[tuple[float, int, int]] = []

    def offer(document: int, picture: int) -> None:
        steps, step = tasks[document].choices[picture].steps, taken[document][picture]
        if step + 1 < len(steps):
            heapq.heappush(waiting, (_price(steps[step], steps[step + 1]), document, picture))

    for document, task in enumerate(tasks):
        for picture in range(len(task.choices)):
            offer(document, picture)
    last: tuple[int, int] | None = None
    while total > limit_bytes and waiting:
        _, document, picture = heapq.heappop(waiting)
        steps, step = tasks[document].choices[picture].steps, taken[document][picture]
        total -= steps[step].size_bytes - steps[step + 1].size_bytes
        taken[document][picture] += 1
        last = document, picture
        offer(document, picture)
    chosen = [
        [choice.steps[step] for choice, step in zip(task.choices, steps, strict=True)]
        for task, steps in zip(tasks, taken, strict=True)
    ]
    if last is not None and total <= limit_bytes:
        document, picture = last
        now = chosen[document][picture]
        room = limit_bytes - total + now.size_bytes
        # The last step may have been longer than it had to be. What lies between its ends loses
        # more than the upper one, so a larger limit still loses no more.
        between = tasks[document].choices[picture].between
        chosen[document][picture] = next((one for one in between if one.size_bytes <= room), now)
    return chosen


def _task(
    sheet: WeightSheet,
    trials: Trials,
    exceptions: Mapping[str, PictureException],
    floor: float,
    used: tuple[Way, ...],
) -> _Task:
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
        _choice(part, _candidates(part, decisions[part.id], trials, floor, used, step=step))
        for part in free
    )
    taken = {part.id for part in free}
    sizes = part_estimates(sheet, base, trials)
    untried = sum(
        part.picture is not None
        and part.picture.picture_class not in _LINES
        and curves_of(trials.pictures.get(part.id, ())) is None
        for part in free
    )
    return _Task(base, _rest_bytes(sheet, base, trials, taken, sizes), choices, untried)


def _is_free(part: Part, decision: Decision) -> bool:
    """A picture that a page shows and that can be worked on."""
    facts = part.picture
    return (
        facts is not None
        and not facts.untouchable
        and bool(facts.placements)
        and decision.action is not Action.DROP
    )


def _rest_bytes(
    sheet: WeightSheet, base: Plan, trials: Trials, free: set[str], sizes: Mapping[str, float]
) -> float:
    """Everything but the pictures that something can be done about."""
    decisions = base.by_part()
    measured = trials.rests.get(rest_key(sheet, base))
    return sum(
        sizes[part.id]
        for part in sheet.parts
        if part.id not in free and (measured is None or is_held_picture(part, decisions[part.id]))
    ) + (measured or 0)


def _candidates(
    part: Part,
    gentle: Decision,
    trials: Trials,
    floor: float,
    used: tuple[Way, ...],
    *,
    step: int,
) -> Iterator[_Candidate]:
    """What could become of a picture; first what loses nothing."""
    facts = part.picture
    assert facts is not None
    known = trials.pictures.get(part.id, ())
    exact = trials.of(gentle)
    keep = Decision(part_id=part.id, action=Action.KEEP, reason="left as it is: it fits so")
    yield _Candidate(part.size_bytes, 0.0, 100.0, decision=keep)
    if exact is not None and exact.size_bytes < part.size_bytes:
        yield _Candidate(exact.size_bytes, 0.0, 100.0, decision=gentle)
    if facts.picture_class in _LINES:
        yield from _coarser_lines(facts, known, floor)
        return
    curves = curves_of(known)
    if curves is None:
        return
    colours = [ColourChange.KEEP]
    if GREY in used and facts.colour not in ("DeviceGray", "CalGray"):
        colours.append(ColourChange.GREY)
    for colour in colours:
        yield from _as_jpeg(part, facts, trials, curves, floor=floor, colour=colour, step=step)
    if TWO_TONE in used and facts.picture_class is PictureClass.PAGE_SCAN:
        yield _as_lines(part, facts, trials, floor)


def _as_jpeg(
    part: Part,
    facts: PictureFacts,
    trials: Trials,
    curves: Curves,
    *,
    floor: float,
    colour: ColourChange,
    step: int,
) -> Iterator[_Candidate]:
    """Sizes and qualities that stay above the floor, with true figures where there are some."""
    sizes, qualities = _sizes(facts), range(_LOWEST_QUALITY, _HIGHEST_QUALITY + 1, step)
    widths = [size[0] if size else facts.width_px for size in sizes]
    finals = _finals(part, facts, trials, sizes, colour)
    weights, scores = _corrected(finals, curves, widths, qualities)
    if colour is ColourChange.GREY and not finals:
        weights *= _GREY_SHARE
    for (width, quality), final in finals.items():
        if final.score is not None and quality in qualities:
            place = widths.index(width), qualities.index(quality)
            weights[place], scores[place] = final.size_bytes, final.score
    # Colour goes only where nothing else is left.
    extra_loss = _LOSS_OF_COLOUR * _loss(floor) if colour is ColourChange.GREY else 0.0
    is_offered = (scores >= floor) & (weights < part.size_bytes * _WORTH_BELOW)
    rows, columns = np.nonzero(is_offered & _unbeaten(weights, scores, is_offered))
    for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
        weight, score = float(weights[row, column]), float(scores[row, column])
        wanted = PictureTreatment(
            coding=PictureCoding.JPEG, quality=qualities[column], colour=colour
        )
        yield _Candidate(weight, extra_loss + _loss(score), score, sizes[row], wanted)


def _unbeaten(weights: Floats, scores: Floats, among: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where nothing that looks as well is lighter."""
    order = np.lexsort((weights.ravel(), -scores.ravel()))
    ordered = np.where(among.ravel()[order], weights.ravel()[order], np.inf)
    lightest_before = np.concatenate([[np.inf], np.minimum.accumulate(ordered)[:-1]])
    unbeaten = np.zeros(weights.size, np.bool_)
    unbeaten[order] = ordered < lightest_before
    return unbeaten.reshape(weights.shape)


def _finals(
    part: Part,
    facts: PictureFacts,
    trials: Trials,
    sizes: Sequence[tuple[int, int] | None],
    colour: ColourChange,
) -> dict[tuple[int, int], Trial]:
    """By width and quality, what was coded for good of just what is offered here."""
    found: dict[tuple[int, int], Trial] = {}
    by_width = {size[0] if size else facts.width_px: size for size in sizes}
    for trial in trials.pictures.get(part.id, ()):
        width, quality = trial.width_px, trial.quality
        if not trial.is_final or width not in by_width or quality is None:
            continue
        wanted = PictureTreatment(coding=PictureCoding.JPEG, quality=quality, colour=colour)
        decision = decision_at(part, facts, by_width[width], wanted)
        if decision_key(decision) == trial.key:
            found[width, quality] = trial
    return found


def _loss(score: float) -> float:
    return float(max(0.5, 100.0 - score) ** _LOSS_EXPONENT)


def _sizes(facts: PictureFacts) -> list[tuple[int, int] | None]:
    """Sizes worth looking at, its own first; pages held as pictures stay readable."""
    shown = facts.largest_display_pt
    assert shown is not None
    found: list[tuple[int, int] | None] = [None]
    for ppi in _PPIS:
        if facts.picture_class is PictureClass.PAGE_SCAN and ppi < READABLE_TEXT_PPI:
            continue
        size = target_size(shown, (facts.width_px, facts.height_px), ppi)
        if size is not None and size not in found:
            found.append(size)
    return found


def _corrected(
    finals: Mapping[tuple[int, int], Trial],
    curves: Curves,
    widths: Sequence[int],
    qualities: Sequence[int],
) -> tuple[Floats, Floats]:
    """The grid of weights and scores, each moved as the nearest true coding was off."""
    weights, scores = curves.grid(widths, qualities)
    # Where the old picture stayed, nothing was learned of codings.
    true = {at: one for at, one in finals.items() if one.score and one.score < _UNCHANGED}
    if not true:
        return weights, scores
    steps = np.array([[curves.step(quality) for quality in qualities]])
    sides = np.log(np.array(widths, float))[:, None]
    nearest = np.full(weights.shape, np.inf)
    shares, shifts = np.ones(weights.shape), np.zeros(weights.shape)
    for (width, quality), final in true.items():
        assert final.score is not None
        drawn = curves.at(width, quality)
        distance = np.abs(sides - math.log(width)) + np.abs(steps - curves.step(quality))
        is_nearer = distance < nearest
        nearest = np.where(is_nearer, distance, nearest)
        share = max(0.5, min(2.0, final.size_bytes / drawn.size_bytes))
        shares = np.where(is_nearer, share, shares)
        shifts = np.where(is_nearer, final.score - drawn.score, shifts)
    return weights * shares, np.minimum(scores + shifts, _UNCHANGED)


def _coarser_lines(
    facts: PictureFacts, known: Sequence[Trial], floor: float
) -> Iterator[_Candidate]:
    """Two tones at fewer pixels, as far as that was tried."""
    for trial in known:
        width = trial.width_px
        if not trial.is_plain or trial.quality is not None or width >= facts.width_px:
            continue
        if trial.score is None or trial.score < floor:
            continue
        size = (width, max(1, round(facts.height_px * width / facts.width_px)))
        yield _Candidate(
            trial.size_bytes, _loss(trial.score), trial.score, size, PictureTreatment()
        )


def _as_lines(part: Part, facts: PictureFacts, trials: Trials, floor: float) -> _Candidate:
    """A scanned page in two tones: its looks cannot be foretold, so it counts as at the floor."""
    shown = facts.largest_display_pt
    assert shown is not None
    size = target_size(shown, (facts.width_px, facts.height_px), _TWO_TONE_PPI)
    wanted = PictureTreatment(coding=PictureCoding.GROUP_4, colour=ColourChange.TWO_TONE)
    width, height = size or (facts.width_px, facts.height_px)
    tried = trials.of(decision_at(part, facts, size, wanted))
    weight = tried.size_bytes if tried else width * height * _TWO_TONE_BITS / 8
    return _Candidate(weight, 2 * _LOSS_OF_COLOUR * _loss(floor), floor, size, wanted)


def _choice(part: Part, candidates: Iterator[_Candidate]) -> _Choice:
    """The candidates in order, without those that another one beats."""
    between: list[_Candidate] = []
    for one in sorted(candidates, key=lambda one: (one.loss, one.size_bytes)):
        if not between or one.size_bytes < between[-1].size_bytes:
            if between and one.loss == between[-1].loss:
                between.pop()
            between.append(one)
    hull: list[_Candidate] = []
    for one in between:
        while len(hull) > 1 and _price(hull[-2], hull[-1]) >= _price(hull[-1], one):
            hull.pop()
        hull.append(one)
    return _Choice(part, tuple(hull), tuple(between))


def _price(now: _Candidate, then: _Candidate) -> float:
    return (then.loss - now.loss) / (now.size_bytes - then.size_bytes)


def _as_fit(
    task: _Task,
    candidates: list[_Candidate],
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
            _decided(*steps[decision.part_id]) if decision.part_id in steps else decision
            for decision in task.base.decisions
        ),
    )
    return Fit(
        plan=made,
        size_bytes=round(task.rest_bytes + sum(one.size_bytes for one in candidates)),
        is_met=is_met,
        gives_up=any(one.loss > 0 for one in candidates),
        chosen=tuple(
            Chosen(
                part_id=part_id,
                bytes_before=part.size_bytes,
                size_bytes=round(one.size_bytes),
                score=one.score,
            )
            for part_id, (part, one) in steps.items()
        ),
        used=used,
        lightest_bytes=round(task.lightest_bytes),
        untried=task.untried,
    )


def _decided(part: Part, candidate: _Candidate) -> Decision:
    if candidate.decision is not None:
        return candidate.decision
    assert part.picture is not None and candidate.wanted is not None
    made = decision_at(part, part.picture, candidate.size_px, candidate.wanted)
    return replace(made, reason=f"{made.reason}: looks {candidate.score:.0f} of 100")
