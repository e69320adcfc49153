"""Copies that end just below a limit."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.api import make_copy, try_out
from lighten.coding_store import CodingStore
from lighten.contract import Progress, Source, no_progress
from lighten.errors import DoesNotFitError
from lighten.planning import Fit, FitRules, fit, is_treated_picture
from lighten.plans import Copy, Decision, PictureException
from lighten.proofs import Proof, Verdict
from lighten.proving import prove
from lighten.trials import Trials
from lighten.weights import WeightSheet

__all__ = ["make_fitted_copy"]

# Pictures are coded for good and the plan is made anew until so little of the copy is unknown.
_MOST_ROUNDS, _UNKNOWN_SHARE = 6, 0.01
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
class _Wanted:
    """All that stays the same while a copy is fitted."""

    source: Source
    sheet: WeightSheet
    limit_bytes: int
    rules: FitRules
    may_end_signature: bool
    place: Path
    store: CodingStore
    progress: Progress


def make_fitted_copy(
    source: Source,
    sheet: WeightSheet,
    trials: Trials,
    limit_bytes: int,
    out: Path,
    *,
    rules: FitRules | None = None,
    exceptions: Mapping[str, PictureException] | None = None,
    may_end_signature: bool = False,
    progress: Progress = no_progress,
    store: CodingStore | None = None,
) -> tuple[Copy, Proof | None, Fit]:
    """A proved copy of at most `limit_bytes`, as gentle as that allows.

    Pictures are coded for good and the plan is made anew with what they really weigh, until the
    copy lies close below the limit. Pictures that fail the proof are left out of it. No copy is
    made of what is no heavier than the limit already.
    Raises: FileExistsError; DoesNotFitError if none can be as light; SignedFileError.
    """
    if out.exists():
        raise FileExistsError(out)
    spared = dict(exceptions or {})
    with TemporaryDirectory(dir=out.parent, prefix=".fit-") as place:
        wanted = _Wanted(
            source=source,
            sheet=sheet,
            limit_bytes=limit_bytes,
            rules=rules or FitRules(),
            may_end_signature=may_end_signature,
            place=Path(place),
            # Attempts share most of their codings.
            store=store or CodingStore(Path(place) / "codings", most_bytes=2_000_000_000),
            progress=progress,
        )
        while True:
            best = _closest(wanted, trials, spared)
            if best.copy.path is None:
                return best.copy, None, best.fitted
            proof = prove(
                source,
                replace(source, path=best.copy.path),
                sheet,
                best.copy.outcomes,
                lambda share: progress(_ROUNDS_SHARE + _WRITING_SHARE + 0.25 * share),
            )
            suspects = proof.suspects - spared.keys()
            if proof.verdict is not Verdict.LOOK or not suspects:
                best.copy.path.replace(out)
                return replace(best.copy, path=out), proof, best.fitted
            spared |= dict.fromkeys(suspects, PictureException(is_exempt=True))


def _closest(
    wanted: _Wanted, trials: Trials, exceptions: Mapping[str, PictureException]
) -> _Attempt:
    """The heaviest attempt below the limit. Raises: DoesNotFitError."""
    limit, best = wanted.limit_bytes, None
    aim = limit * _FIRST_AIM
    for number in range(_MOST_COPIES):
        fitted, trials = _settled(wanted, trials, int(aim), exceptions)
        if not fitted.is_met and fitted.lightest_bytes > limit * _NEARLY_FITS:
            break
        copy = make_copy(
            wanted.source,
            wanted.sheet,
            replace(fitted.plan, may_end_signature=wanted.may_end_signature),
            wanted.place / f"attempt-{number}-{len(exceptions)}",
            lambda share: wanted.progress(_ROUNDS_SHARE + _WRITING_SHARE * share),
            store=wanted.store,
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
        raise _refusal(wanted.source, fitted, limit)
    return best


def _settled(
    wanted: _Wanted, trials: Trials, aim: int, exceptions: Mapping[str, PictureException]
) -> tuple[Fit, Trials]:
    """A plan whose pictures have been coded for good, bar a share that hardly weighs."""
    fitted = fit(wanted.sheet, trials, aim, wanted.rules, exceptions)
    for number in range(_MOST_ROUNDS):
        unknown = _unknown(wanted.sheet, fitted, trials)
        weights = {one.part_id: one.size_bytes for one in fitted.chosen}
        is_settled = sum(weights.get(part_id, 0) for part_id in unknown) <= _UNKNOWN_SHARE * aim
        is_hopeless = not fitted.is_met and fitted.lightest_bytes > aim * _NEARLY_FITS
        if is_settled or is_hopeless:
            break
        coded = {}
        for part_id, found in try_out(
            wanted.source, wanted.sheet, unknown, wanted.store, for_good=True
        ):
            coded[part_id] = found
            share = (number + len(coded) / len(unknown)) / _MOST_ROUNDS
            wanted.progress(_ROUNDS_SHARE * share)
        trials = trials.with_pictures(coded)
        fitted = fit(wanted.sheet, trials, aim, wanted.rules, exceptions)
    return fitted, trials


def _unknown(sheet: WeightSheet, fitted: Fit, trials: Trials) -> dict[str, tuple[Decision, ...]]:
    """The decisions on pictures that nobody has coded for good yet."""
    found: dict[str, tuple[Decision, ...]] = {}
    for part, decision in zip(sheet.parts, fitted.plan.decisions, strict=True):
        if is_treated_picture(part, decision):
            trial = trials.of(decision)
            if trial is None or not trial.is_final:
                found[part.id] = (decision,)
    return found


def _refusal(source: Source, fitted: Fit, limit_bytes: int) -> DoesNotFitError:
    """What can be reached, what is in the way, and what to do."""
    pictures = sum(one.size_bytes for one in fitted.chosen)
    rest = fitted.size_bytes - pictures
    if rest > pictures:
        dominant = f"{_size(rest)} of it are fonts, drawing and other content that is no picture"
    else:
        dominant = f"{_size(pictures)} of it are pictures at the least they may look"
    lightest = fitted.lightest_bytes
    return DoesNotFitError(
        f"{source.name}: cannot be brought to {_size(limit_bytes)} by these rules; the lightest "
        f"copy is about {_size(lightest)}, and {dominant}. Let pictures look worse, allow more "
        "ways, split the document, or hand it over by a link.",
        lightest_bytes=lightest,
    )


def _size(size_bytes: float) -> str:
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.0f} kB"
    return f"{size_bytes / 1_000_000:.1f} MB"
