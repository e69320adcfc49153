"""Copies that end just below a limit."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.errors import DoesNotFitError
from lighten.making.make_copy import make_copy
from lighten.making.orders import FitOrder, Order
from lighten.making.run_trials import try_pictures
from lighten.pictures.coding_cache import CodingCache
from lighten.planning import Fit, fit, is_treated_picture
from lighten.plans import Copy, Decision, PictureException
from lighten.proofs import Proof, Verdict
from lighten.proving import prove
from lighten.registry import format_named
from lighten.source import Progress, Source, no_progress, share_of
from lighten.trials import Trial, Trials
from lighten.weights import WeightSheet

__all__ = ["make_fitted_copy"]

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
    """All that stays the same while a copy is fitted."""

    source: Source
    sheet: WeightSheet
    order: FitOrder
    may_end_signature: bool
    place: Path
    cache: CodingCache
    progress: Progress


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
    """A proved copy within the limit of `order.fit`, as gentle as that allows.

    Pictures are coded for good and the plan is made anew with what they really weigh, until the
    copy lies close below the limit. Pictures that fail the proof are left out of it. No copy is
    made of what is no heavier than the limit already.
    Raises: FileExistsError; DoesNotFitError if none can be as light; SignedFileError.
    """
    assert order.fit is not None
    if out.exists():
        raise FileExistsError(out)
    exceptions = dict(order.exceptions)
    with TemporaryDirectory(dir=out.parent, prefix=".fit-") as place:
        fitting = _Fitting(
            source=source,
            sheet=sheet,
            order=order.fit,
            may_end_signature=order.may_end_signature,
            place=Path(place),
            # Attempts share most of their codings.
            cache=cache or CodingCache(Path(place) / "codings", most_bytes=2_000_000_000),
            progress=progress,
        )
        while True:
            best = _closest(fitting, trials, exceptions)
            if best.copy.path is None:
                return best.copy, None, best.fitted
            proof = prove(
                source,
                replace(source, path=best.copy.path),
                sheet,
                best.copy.outcomes,
                share_of(progress, _ROUNDS_SHARE + _WRITING_SHARE, 1),
                lays_out=order.lays_out,
            )
            suspects = proof.suspects - exceptions.keys()
            if proof.verdict is not Verdict.LOOK or not suspects:
                best.copy.path.replace(out)
                return replace(best.copy, path=out), proof, best.fitted
            exceptions |= dict.fromkeys(suspects, PictureException(is_exempt=True))


def _closest(
    fitting: _Fitting, trials: Trials, exceptions: Mapping[str, PictureException]
) -> _Attempt:
    """The heaviest attempt below the limit. Raises: DoesNotFitError."""
    limit, best = fitting.order.limit_bytes, None
    aim = limit * _FIRST_AIM
    for number in range(_MOST_COPIES):
        fitted, trials = _settled(fitting, trials, int(aim), exceptions)
        if not fitted.is_met and fitted.lightest_bytes > limit * _NEARLY_FITS:
            break
        copy = make_copy(
            fitting.source,
            fitting.sheet,
            replace(fitted.plan, may_end_signature=fitting.may_end_signature),
            fitting.place / f"attempt-{number}-{len(exceptions)}",
            share_of(fitting.progress, _ROUNDS_SHARE, _ROUNDS_SHARE + _WRITING_SHARE),
            cache=fitting.cache,
        )
        weight = copy.bytes_after
        if weight <= limit and (best is None or weight > best.copy.bytes_after):
            best = _Attempt(fitted, copy)
        if weight <= limit and (not fitted.gives_up or weight >= limit * _LEAST_OF_LIMIT):
            break
        if weight > limit and not fitted.is_met:
            break
        # What was foretold wrongly will be so again.
        aim += (limit * _FIRST_AIM - weight) if weight > limit else (limit - weight) / 2
    if best is None:
        raise _refusal(fitting, fitted)
    return best


def _settled(
    fitting: _Fitting, trials: Trials, aim: int, exceptions: Mapping[str, PictureException]
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
            fitting.source, fitting.sheet, uncoded, fitting.cache, for_good=True
        ):
            coded[part_id] = made
            share = (number + len(coded) / len(uncoded)) / _MOST_ROUNDS
            fitting.progress(_ROUNDS_SHARE * share)
        trials = trials.with_pictures(coded)
        fitted = fit(fitting.sheet, trials, aim, fitting.order.rules, exceptions)
    return fitted, trials


def _uncoded(sheet: WeightSheet, fitted: Fit, trials: Trials) -> dict[str, tuple[Decision, ...]]:
    """The decisions on pictures that nobody has coded for good yet."""
    uncoded: dict[str, tuple[Decision, ...]] = {}
    for part, decision in zip(sheet.parts, fitted.plan.decisions, strict=True):
        if is_treated_picture(part, decision):
            trial = trials.of(decision)
            if trial is None or not trial.is_final:
                uncoded[part.id] = (decision,)
    return uncoded


def _refusal(fitting: _Fitting, fitted: Fit) -> DoesNotFitError:
    """What can be reached, what is in the way, and what to do."""
    pictures = sum(choice.size_bytes for choice in fitted.chosen)
    others = fitted.size_bytes - pictures
    if others > pictures:
        dominant = f"{_size(others)} of it are fonts, drawing and other content that is no picture"
    else:
        dominant = f"{_size(pictures)} of it are pictures at the least they may look"
    lightest, limit = fitted.lightest_bytes, fitting.order.limit_bytes
    split = "split the document, " if format_named(fitting.sheet.format).offers.can_split else ""
    return DoesNotFitError(
        f"{fitting.source.name}: cannot be brought to {_size(limit)} by these rules; the lightest "
        f"copy is about {_size(lightest)}, and {dominant}. Let pictures look worse, allow more "
        f"ways, {split}or hand it over by a link.",
        lightest_bytes=lightest,
    )


def _size(size_bytes: float) -> str:
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.0f} kB"
    return f"{size_bytes / 1_000_000:.1f} MB"
