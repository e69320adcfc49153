"""Candidates for one picture under a limit: their weight and their loss."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lighten.model.fit_rules import BITONAL, GREY, Way
from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.plans import Action, Decision
from lighten.model.treatments import READABLE_TEXT_PPI, ColourChange, PictureTreatment
from lighten.model.trials import Trial, Trials, decision_key
from lighten.model.weights import Part, PictureFacts
from lighten.pictures.pixels.sizes import target_size
from lighten.pictures.recoding.recode import worth_coding_below
from lighten.pictures.recoding.recode_job import Cut
from lighten.planning.coding_model import BITONAL_BITS, GREY_SHARE, LINES
from lighten.planning.curves import Curves, curves_of
from lighten.planning.decide_picture import cut_to_visible
from lighten.planning.sample_decisions import decision_at, layers_decision

__all__ = ["Candidate", "decision_of", "picture_candidates"]

Floats = NDArray[np.float64]

_PPIS = (75.0, 85.0, 95.0, 108.0, 122.0, 138.0, 155.0, 180.0, 220.0, 260.0, 300.0)
_LOWEST_QUALITY, _HIGHEST_QUALITY = 38, 96
# So that one bad picture counts for more than several middling ones.
_LOSS_EXPONENT = 2.5
_UNCHANGED = 100.0
# Readers resample each in their own way, which moves a score by some points.
_READER_POINTS = 2.0
# Beside the loss of a picture at the floor: colour is the last thing to go, tones after it.
_LOSS_OF_COLOUR = 1.5
_BITONAL_PPI = 300.0


@dataclass(frozen=True, slots=True)
class Candidate:
    """One thing that could be done to a picture.

    size_px, treatment, cut: what to code it as, from which the decision is made once it is chosen;
    decision: ready, where it is none of that.
    """

    size_bytes: float
    loss: float
    score: float
    size_px: tuple[int, int] | None = None
    treatment: PictureTreatment | None = None
    decision: Decision | None = None
    cut: Cut | None = None


def picture_candidates(
    part: Part,
    gentle: Decision,
    trials: Trials,
    floor: float,
    used: tuple[Way, ...],
    *,
    step: int,
) -> Iterator[Candidate]:
    """Return the candidates of a picture; first those without loss."""
    facts = part.picture
    assert facts is not None
    tried = trials.pictures.get(part.id, ())
    exact = trials.of(gentle)
    keep = Decision(part_id=part.id, action=Action.KEEP, reason="kept: it fits so")
    yield Candidate(part.size_bytes, 0.0, 100.0, decision=keep)
    if exact is not None and exact.size_bytes < part.size_bytes:
        yield Candidate(exact.size_bytes, 0.0, 100.0, decision=gentle)
    if facts.picture_class in LINES:
        yield from _coarser_lines(facts, tried, floor)
        return
    in_layers = layers_decision(part, facts)
    laid_apart = trials.of(in_layers)
    if laid_apart is not None and laid_apart.size_bytes < part.size_bytes:
        # A score takes missing grain for a loss; what is written is held square by square.
        score = max(floor, laid_apart.score or 0.0)
        yield Candidate(laid_apart.size_bytes, _loss(score), score, decision=in_layers)
    curves = curves_of(tried)
    if curves is None:
        return
    colours = [ColourChange.KEEP]
    if GREY in used and facts.has_colour:
        colours.append(ColourChange.GREY)
    for colour in colours:
        yield from _as_jpeg(part, facts, trials, curves, floor=floor, colour=colour, step=step)
    if BITONAL in used and facts.picture_class is PictureClass.PAGE_SCAN:
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
) -> Iterator[Candidate]:
    """Return JPEG candidates above the floor, with measured values where available."""
    cut = cut_to_visible(facts)
    words_px = 0 if cut else trials.words_px(part.id)
    sizes, qualities = _sizes(facts, words_px), range(_LOWEST_QUALITY, _HIGHEST_QUALITY + 1, step)
    widths = [size[0] if size else facts.width_px for size in sizes]
    finals = _finals(part, facts, trials, sizes, colour)
    weights, scores = _corrected(finals, curves, widths, qualities)
    if not finals:
        weights *= (GREY_SHARE if colour is ColourChange.GREY else 1.0) * _share_kept(cut)
    for (width, quality), final in finals.items():
        if quality in qualities:
            place = widths.index(width), qualities.index(quality)
            weights[place] = final.size_bytes
            scores[place] = scores[place] if final.score is None else final.score
    # Colour goes only where nothing else is left.
    extra_loss = _LOSS_OF_COLOUR * _loss(floor) if colour is ColourChange.GREY else 0.0
    most = part.size_bytes * worth_coding_below(PictureTreatment(), is_lossy=facts.is_lossy)
    is_offered = (scores >= floor + _READER_POINTS) & (weights < most)
    rows, columns = np.nonzero(is_offered & _unbeaten(weights, scores, is_offered))
    for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
        weight, score = float(weights[row, column]), float(scores[row, column])
        treatment = PictureTreatment(
            coding=PictureCoding.JPEG, quality=qualities[column], colour=colour
        )
        yield Candidate(weight, extra_loss + _loss(score), score, sizes[row], treatment, cut=cut)


def _unbeaten(weights: Floats, scores: Floats, among: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return the candidates that no lighter one matches in looks."""
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
    """Return, by width and quality, the final codings of candidates offered here."""
    finals: dict[tuple[int, int], Trial] = {}
    by_width = {size[0] if size else facts.width_px: size for size in sizes}
    for trial in trials.pictures.get(part.id, ()):
        width, quality = trial.width_px, trial.quality
        if not trial.is_final or width not in by_width or quality is None:
            continue
        treatment = PictureTreatment(coding=PictureCoding.JPEG, quality=quality, colour=colour)
        decision = decision_at(part, facts, by_width[width], treatment, cut_to_visible(facts))
        if decision_key(decision) == trial.key:
            finals[width, quality] = trial
    return finals


def _share_kept(cut: Cut | None) -> float:
    """Return the share of a picture's area that a cut keeps."""
    return 1.0 if cut is None else (cut[2] - cut[0]) * (cut[3] - cut[1])


def _loss(score: float) -> float:
    return float(max(0.5, 100.0 - score) ** _LOSS_EXPONENT)


def _sizes(facts: PictureFacts, words_px: int) -> list[tuple[int, int] | None]:
    """Return the sizes to consider, the present one first; pages held as pictures stay readable.

    words_px: the fewest pixels across that keep its words readable.
    """
    shown = facts.largest_display_pt
    assert shown is not None
    sizes: list[tuple[int, int] | None] = [None]
    for ppi in _PPIS:
        if facts.picture_class is PictureClass.PAGE_SCAN and ppi < READABLE_TEXT_PPI:
            continue
        size = target_size(shown, (facts.width_px, facts.height_px), ppi)
        if size is not None and size not in sizes and size[0] >= words_px:
            sizes.append(size)
    return sizes


def _corrected(
    finals: Mapping[tuple[int, int], Trial],
    curves: Curves,
    widths: Sequence[int],
    qualities: Sequence[int],
) -> tuple[Floats, Floats]:
    """The grid of weights and scores, each moved as the nearest true coding was off."""
    weights, scores = curves.grid(widths, qualities)
    # Where the old picture stayed, nothing was learned of codings.
    true = {at: one for at, one in finals.items() if one.score is None or one.score < _UNCHANGED}
    if not true:
        return weights, scores
    steps = np.array([[curves.step(quality) for quality in qualities]])
    sides = np.log(np.array(widths, float))[:, None]
    nearest = np.full(weights.shape, np.inf)
    shares, shifts = np.ones(weights.shape), np.zeros(weights.shape)
    for (width, quality), final in true.items():
        drawn = curves.at(width, quality)
        distance = np.abs(sides - math.log(width)) + np.abs(steps - curves.step(quality))
        is_nearer = distance < nearest
        nearest = np.where(is_nearer, distance, nearest)
        # What a cut left has been coded, the curves are of the whole.
        least = 0.01 if final.score is None else 0.5
        share = max(least, min(2.0, final.size_bytes / drawn.size_bytes))
        shares = np.where(is_nearer, share, shares)
        shift = 0.0 if final.score is None else final.score - drawn.score
        shifts = np.where(is_nearer, shift, shifts)
    return weights * shares, np.minimum(scores + shifts, _UNCHANGED)


def _coarser_lines(
    facts: PictureFacts, tried: Sequence[Trial], floor: float
) -> Iterator[Candidate]:
    """Yield candidates of bitonal pictures at fewer pixels, as far as they were tried."""
    for trial in tried:
        width = trial.width_px
        if not trial.is_plain or trial.quality is not None or width >= facts.width_px:
            continue
        if trial.score is None or trial.score < floor:
            continue
        size = (width, max(1, round(facts.height_px * width / facts.width_px)))
        yield Candidate(trial.size_bytes, _loss(trial.score), trial.score, size, PictureTreatment())


def _as_lines(part: Part, facts: PictureFacts, trials: Trials, floor: float) -> Candidate:
    """Return a bitonal candidate of a scanned page; its unknown score counts as the floor."""
    shown = facts.largest_display_pt
    assert shown is not None
    size = target_size(shown, (facts.width_px, facts.height_px), _BITONAL_PPI)
    treatment = PictureTreatment(coding=PictureCoding.GROUP_4, colour=ColourChange.BITONAL)
    width, height = size or (facts.width_px, facts.height_px)
    trial = trials.of(decision_at(part, facts, size, treatment))
    weight = trial.size_bytes if trial else width * height * BITONAL_BITS / 8
    return Candidate(weight, 2 * _LOSS_OF_COLOUR * _loss(floor), floor, size, treatment)


def decision_of(part: Part, candidate: Candidate) -> Decision:
    """Return the decision of a candidate for its picture; its predicted score is the reason."""
    if candidate.decision is not None:
        return candidate.decision
    assert part.picture is not None and candidate.treatment is not None
    size, treatment = candidate.size_px, candidate.treatment
    made = decision_at(part, part.picture, size, treatment, candidate.cut)
    return replace(made, reason=f"{made.reason}: score {candidate.score:.0f} of 100")
