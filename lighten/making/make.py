"""From a file to its weight sheet, and from an order to a proved copy."""

from pathlib import Path

from lighten.damage import report_as_damage
from lighten.making.fit_to_limit import make_fitted_copy
from lighten.making.make_proved_copy import make_proved_copy
from lighten.making.orders import Order, OrderResult, Piece
from lighten.making.run_trials import run_trials
from lighten.making.split_pages import make_pieces
from lighten.model.errors import DoesNotFitError
from lighten.model.kinds import PartKind
from lighten.model.plans import Copy, Plan
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.trials import Trials
from lighten.model.weights import WeightSheet
from lighten.parallel import SECONDS_A_FONT, SECONDS_A_PAGE, keep_workers, open_workers
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.planning.decide import plan
from lighten.registry import format_named, format_of

__all__ = ["copy_ending", "make", "plan_order", "weigh"]

_TRIALS_SHARE = 0.3


def weigh(source: Source, progress: Progress = no_progress) -> WeightSheet:
    """Weigh a file: list its parts, which add up to its size to the byte. Only reads the file.

    Raises: UnreadableFileError, PasswordNeededError, UnsupportedFileError, LimitExceededError.
    """
    with report_as_damage(source):
        return format_of(source).weigh(source, progress)


def plan_order(sheet: WeightSheet, order: Order) -> Plan:
    """Return the plan of an order for a preset."""
    return plan(
        sheet,
        order.preset,
        exceptions=order.exceptions,
        may_end_signature=order.may_end_signature,
        may_blur_text=order.may_blur_text,
    )


def make(
    source: Source,
    sheet: WeightSheet,
    order: Order,
    out: Path,
    progress: Progress = no_progress,
    *,
    trials: Trials | None = None,
    cache: CodingCache | None = None,
) -> OrderResult:
    """Make the ordered copy at `out`, prove it, and split it where that was asked.

    trials: made before, for a limit; what is missing is tried first. cache: of codings.
    Raises: FileExistsError; DoesNotFitError; SignedFileError; UnsoundCopyError;
    WrongDecisionError.
    """
    with report_as_damage(source), keep_workers(), open_workers() as workers:
        fonts = sum(part.kind is PartKind.FONT for part in sheet.parts)
        workers.expect(SECONDS_A_PAGE * (sheet.pages or 0) + SECONDS_A_FONT * fonts)
        return _make(source, sheet, order, out, progress, trials=trials, cache=cache)


def _make(
    source: Source,
    sheet: WeightSheet,
    order: Order,
    out: Path,
    progress: Progress,
    *,
    trials: Trials | None,
    cache: CodingCache | None,
) -> OrderResult:
    if order.fit is None:
        copy, proof = make_proved_copy(
            source,
            sheet,
            plan_order(sheet, order),
            out,
            progress,
            cache=cache,
            lays_out=order.lays_out,
        )
        return OrderResult(copy=copy, proof=proof, name=_name(source, sheet, order, copy))
    known_trials = trials or Trials()
    trying = run_trials(source, sheet, None, out.parent, cache=cache, earlier=known_trials)
    for share, so_far in trying:
        progress(share * _TRIALS_SHARE, "trying codings")
        known_trials = so_far
    return _make_fitted(
        source,
        sheet,
        order,
        out,
        share_of(progress, _TRIALS_SHARE, 1),
        trials=known_trials,
        cache=cache,
    )


def copy_ending(name: str, format_name: str, media_type: str) -> str:
    """Return the copy's file extension, with the dot, by its media type."""
    return format_named(format_name).offers.kind_of(media_type).suffix_for(name)


def _make_fitted(
    source: Source,
    sheet: WeightSheet,
    order: Order,
    out: Path,
    progress: Progress,
    *,
    trials: Trials,
    cache: CodingCache | None,
) -> OrderResult:
    """Make the gentlest copy within the limit, or pieces where it cannot be met and they are
    wanted.
    """
    assert order.fit is not None
    pieces: tuple[Piece, ...] = ()
    try:
        copy, proof, fitted = make_fitted_copy(
            source, sheet, trials, order, out, progress=progress, cache=cache
        )
    except DoesNotFitError as error:
        if not (order.fit.may_split and format_named(sheet.format).offers.can_split):
            raise
        copy, proof, fitted, pieces = make_pieces(
            source,
            sheet,
            trials,
            order,
            out,
            progress=progress,
            lightest_bytes=error.lightest_bytes,
            cache=cache,
        )
    name = _name(source, sheet, order, copy)
    return OrderResult(copy=copy, proof=proof, name=name, fit=fitted, pieces=pieces)


def _name(source: Source, sheet: WeightSheet, order: Order, copy: Copy) -> str:
    ending = copy_ending(source.name, sheet.format, copy.media_type)
    return order.naming.copy_name(source.name, ending)
