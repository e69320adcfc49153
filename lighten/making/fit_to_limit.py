"""Copies that end just below a limit."""

import logging
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.making.make_copy import make_copy
from lighten.making.make_proved_copy import check_sound, is_own_fault, make_proved_copy
from lighten.making.orders import FitOrder, Order
from lighten.making.refusals import refusal_of
from lighten.making.retreats import DOCUMENT_RETREATS, DocumentRetreat, gentler_exceptions
from lighten.making.run_trials import try_pictures
from lighten.model.extras import SAFE_EXTRAS
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Copy, Decision, PartException
from lighten.model.presets import PRESETS
from lighten.model.proofs import Proof, Verdict
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.trials import Trial, Trials
from lighten.model.weights import WeightSheet
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.planning.decide import plan
from lighten.planning.estimate import is_treated_picture
from lighten.planning.fit.fit import Chosen, Fit, fit
from lighten.proving.compare import prove

__all__ = ["make_fitted_copy"]

_log = logging.getLogger(__name__)
# Pictures are coded for good and the plan is made anew until so little of the copy is unknown.
_MOST_ROUNDS, _UNCODED_SHARE = 6, 0.01
_MOST_COPIES = 5
# What is aimed at first, of the limit; a copy that gave up quality and is lighter than the least
# could have been gentler, so another is tried.
_FIRST_AIM, _LEAST_OF_LIMIT = 0.997, 0.965
# What no estimate of the lightest copy was ever off by.
_NEARLY_FITS = 1.06
_ROUNDS_SHARE, _WRITING_SHARE = 0.55, 0.2


@dataclass(frozen=True, slots=True)
class _Attempt:
    fitted: Fit
    copy: Copy


@dataclass(frozen=True, slots=True, kw_only=True)
class _Fitting:
    """State that stays the same while a copy is fitted. undone: steps that a proof has failed."""

    source: Source
    sheet: WeightSheet
    order: FitOrder
    may_end_signature: bool
    lays_out: bool
    place: Path
    cache: CodingCache
    progress: Progress
    undone: tuple[DocumentRetreat, ...] = ()


def make_fitted_copy(
    source: Source,
    sheet: WeightSheet,
    trials: Trials,
    order: Order,
    out: Path,
    *,
    progress: Progress = no_progress,
    cache: CodingCache | None = None,
) -> tuple[Copy, Proof | None, Fit]:
    """Make the gentlest proved copy within the limit of `order.fit`.

    Pictures are coded for good and the plan is made anew with what they really weigh, until the
    copy lies close below the limit. Pictures that fail the proof are coded finer, then left as they
    are; then steps on the whole document go back. Nothing is refused before the lightest copy and
    the shipped presets' have been made: the weight of the lightest is what a refusal names. No
    copy is made of what is no heavier than the limit already.
    Raises: FileExistsError; DoesNotFitError if none can be as light; SignedFileError;
    UnsoundCopyError.
    """
    assert order.fit is not None
    if out.exists():
        raise FileExistsError(out)
    with TemporaryDirectory(dir=out.parent, prefix=".fit-") as place:
        fitting = _Fitting(
            source=source,
            sheet=sheet,
            order=order.fit,
            may_end_signature=order.may_end_signature,
            lays_out=order.lays_out,
            place=Path(place),
            # Attempts share most of their codings.
            cache=cache or CodingCache(Path(place) / "codings", most_bytes=2_000_000_000),
            progress=progress,
        )
        best, proof = _proved(fitting, trials, order.exceptions, _closest)
        if best is None:
            best, proof = _proved(fitting, trials, order.exceptions, _lightest)
            assert best is not None
            if best.copy.bytes_after > order.fit.limit_bytes:
                found = _by_preset(fitting, order, best)
                if found is None:
                    raise refusal_of(
                        source, sheet, best.fitted.plan, best.copy, order.fit.limit_bytes
                    )
                best, proof = found
        if best.copy.path is not None:
            best.copy.path.replace(out)
            best = replace(best, copy=replace(best.copy, path=out))
        return best.copy, proof, best.fitted


def _proved(
    fitting: _Fitting,
    trials: Trials,
    asked: Mapping[str, PartException],
    attempt: Callable[[_Fitting, Trials, Mapping[str, PartException]], _Attempt | None],
) -> tuple[_Attempt | None, Proof | None]:
    """Return the attempt that passes its proof, else the last; None without attempts."""
    exceptions = dict(asked)
    retreats = iter(DOCUMENT_RETREATS)
    while True:
        try:
            best = attempt(fitting, trials, exceptions)
        except Exception as error:
            step = next(retreats, None)
            if not is_own_fault(error) or step is None:
                raise
            _log.exception("a step of writing failed and is skipped")
            fitting = replace(fitting, undone=(*fitting.undone, step))
            continue
        if best is None or best.copy.path is None:
            return best, None
        best = replace(best, copy=_with_floor(best.copy, fitting.order.rules.floor))
        assert best.copy.path is not None
        proof = prove(
            fitting.source,
            replace(fitting.source, path=best.copy.path),
            fitting.sheet,
            best.copy.outcomes,
            share_of(fitting.progress, _ROUNDS_SHARE + _WRITING_SHARE, 1, "proving"),
            lays_out=fitting.lays_out,
        )
        if proof.verdict is Verdict.CHECK:
            made_by = best.fitted.plan
            gentler = dict(gentler_exceptions(made_by, proof, fitting.sheet, exceptions))
            changing = (step for step in retreats if step(made_by, fitting.sheet) != made_by)
            if gentler:
                exceptions |= gentler
                continue
            if (step := next(changing, None)) is not None:
                fitting = replace(fitting, undone=(*fitting.undone, step))
                continue
        check_sound(fitting.source, proof)
        return best, proof


def _with_floor(copy: Copy, floor: float) -> Copy:
    """Return the copy whose outcomes say how each treated picture is to look at least."""
    return replace(
        copy,
        outcomes=tuple(
            replace(outcome, least_score=floor)
            if outcome.size_px is not None and not outcome.is_layered
            else outcome
            for outcome in copy.outcomes
        ),
    )


def _by_preset(
    fitting: _Fitting, order: Order, lightest: _Attempt
) -> tuple[_Attempt, Proof | None] | None:
    """Return the copy of the gentlest shipped preset that meets limit and floor; None for none.

    Presets that remove more than the rules permit are passed over.
    """
    rules = fitting.order.rules
    permitted = SAFE_EXTRAS | {way for way in ExtraKind if way in rules.ways}
    for number, preset in enumerate(PRESETS):
        if not preset.treatment.dropped_extras <= permitted:
            continue
        decided = plan(
            fitting.sheet,
            preset,
            exceptions=order.exceptions,
            may_end_signature=fitting.may_end_signature,
        )
        copy, proof = make_proved_copy(
            fitting.source,
            fitting.sheet,
            decided,
            fitting.place / f"preset-{number}",
            cache=fitting.cache,
            lays_out=fitting.lays_out,
        )
        if proof is None or copy.bytes_after > fitting.order.limit_bytes:
            continue
        shown = (*proof.pictures, *(picture for page in proof.pages for picture in page.pictures))
        looks_well = all(one.score is None or one.score >= rules.floor for one in shown)
        if proof.verdict is not Verdict.CHECK and looks_well:
            fitted = replace(
                lightest.fitted,
                plan=decided,
                size_bytes=copy.bytes_after,
                is_met=True,
                gives_up=True,
                chosen=tuple(_chosen(fitting.sheet, copy, proof)),
            )
            return _Attempt(fitted, copy), proof
    return None


def _chosen(sheet: WeightSheet, copy: Copy, proof: Proof) -> Iterator[Chosen]:
    """Yield what was made of each treated picture."""
    shown = (*proof.pictures, *(picture for page in proof.pages for picture in page.pictures))
    scores = {one.part_id: one.score for one in shown if one.score is not None}
    for part, outcome in zip(sheet.parts, copy.outcomes, strict=True):
        if part.picture is not None and outcome.action is not Action.KEEP:
            yield Chosen(
                part_id=part.id,
                bytes_before=part.size_bytes,
                size_bytes=outcome.bytes_after,
                score=scores.get(part.id, 100.0),
            )


def _closest(
    fitting: _Fitting, trials: Trials, exceptions: Mapping[str, PartException]
) -> _Attempt | None:
    """Return the heaviest attempt within the limit; None if there is none."""
    limit, best, tried = fitting.order.limit_bytes, None, None
    aim = limit * _FIRST_AIM
    for number in range(_MOST_COPIES):
        fitted, trials = _settled(fitting, trials, int(aim), exceptions)
        if not fitted.is_met and fitted.lightest_bytes > limit * _NEARLY_FITS:
            break
        if fitted.plan == tried:
            break
        tried = fitted.plan
        copy = _copy(fitting, fitted, f"attempt-{number}-{_name_of(exceptions)}")
        weight = copy.bytes_after
        if weight <= limit and (best is None or weight > best.copy.bytes_after):
            best = _Attempt(fitted, copy)
        if weight <= limit and (not fitted.gives_up or weight >= limit * _LEAST_OF_LIMIT):
            break
        if weight > limit and not fitted.is_met:
            break
        # What was foretold wrongly will be so again.
        aim += (limit * _FIRST_AIM - weight) if weight > limit else (limit - weight) / 2
    return best


def _lightest(
    fitting: _Fitting, trials: Trials, exceptions: Mapping[str, PartException]
) -> _Attempt:
    """Return the lightest plan that the rules allow, without search."""
    fitted = fit(fitting.sheet, trials, 0, fitting.order.rules, exceptions)
    return _Attempt(fitted, _copy(fitting, fitted, f"lightest-{_name_of(exceptions)}"))


def _copy(fitting: _Fitting, fitted: Fit, name: str) -> Copy:
    decided = replace(fitted.plan, may_end_signature=fitting.may_end_signature)
    for step in fitting.undone:
        decided = step(decided, fitting.sheet)
    return make_copy(
        fitting.source,
        fitting.sheet,
        decided,
        fitting.place / f"{name}-{len(fitting.undone)}",
        share_of(fitting.progress, _ROUNDS_SHARE, _ROUNDS_SHARE + _WRITING_SHARE),
        cache=fitting.cache,
    )


def _name_of(exceptions: Mapping[str, PartException]) -> str:
    """Return a new preset name for each set of exceptions."""
    return f"{len(exceptions)}-{sum(exception.is_exempt for exception in exceptions.values())}"


def _settled(
    fitting: _Fitting, trials: Trials, aim: int, exceptions: Mapping[str, PartException]
) -> tuple[Fit, Trials]:
    """A plan whose pictures have been coded for good, bar a share that hardly weighs."""
    fitted = fit(fitting.sheet, trials, aim, fitting.order.rules, exceptions)
    for number in range(_MOST_ROUNDS):
        uncoded = _uncoded(fitting.sheet, fitted, trials)
        weights = {choice.part_id: choice.size_bytes for choice in fitted.chosen}
        is_settled = sum(weights.get(part_id, 0) for part_id in uncoded) <= _UNCODED_SHARE * aim
        is_hopeless = not fitted.is_met and fitted.lightest_bytes > aim * _NEARLY_FITS
        if is_settled or is_hopeless:
            break
        coded: dict[str, tuple[Trial, ...]] = {}
        for part_id, made in try_pictures(
            fitting.source,
            fitting.sheet,
            uncoded,
            fitting.cache,
            for_good=True,
            known=trials.known_words(),
        ):
            coded[part_id] = made
            share = (number + len(coded) / len(uncoded)) / _MOST_ROUNDS
            fitting.progress(_ROUNDS_SHARE * share, "coding to the limit")
        trials = trials.with_pictures(coded)
        fitted = fit(fitting.sheet, trials, aim, fitting.order.rules, exceptions)
    return fitted, trials


def _uncoded(sheet: WeightSheet, fitted: Fit, trials: Trials) -> dict[str, tuple[Decision, ...]]:
    """Return the decisions on pictures without a final encoding."""
    uncoded: dict[str, tuple[Decision, ...]] = {}
    for part, decision in zip(sheet.parts, fitted.plan.decisions, strict=True):
        if is_treated_picture(part, decision):
            trial = trials.of(decision)
            if trial is None or not trial.is_final:
                uncoded[part.id] = (decision,)
    return uncoded
