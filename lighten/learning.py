"""Trials made one after the other, so that estimates and fits rest on more and more of them."""

from collections.abc import Iterator, Mapping
from itertools import islice
from pathlib import Path

from lighten.api import try_out, try_rest
from lighten.coding_store import CodingStore
from lighten.contract import Source
from lighten.planning import GENTLY, decisions_beyond, decisions_to_try, plan, whole_fonts
from lighten.plans import Decision, Plan
from lighten.trials import Trial, Trials, rest_key
from lighten.weights import PartKind, WeightSheet

__all__ = ["learn"]

# As many of the heaviest pictures are coded for good: in small files drafts alone tell too little.
_CODED_FOR_GOOD = 12
_TOLD_EVERY = 8
_FONTS_SHARE = 0.05


def learn(
    source: Source,
    sheet: WeightSheet,
    chosen: Plan | None,
    folder: Path,
    *,
    store: CodingStore | None = None,
    known: Trials | None = None,
) -> Iterator[tuple[float, Trials]]:
    """Trials for `chosen` and for whatever else may be chosen, ever more, with the share done.

    chosen: None for those that a fit needs, alone. folder: for temporary files. known: what was
    learned before, to be added to. Raises: as `weigh`.
    """
    found = known or Trials()
    gentle = plan(sheet, GENTLY)
    rounds = [
        (asked, for_good)
        for asks, for_good in _rounds(sheet, chosen, has_store=store is not None)
        if (asked := _untried(asks, found, for_good=for_good))
    ]
    total = sum(len(asked) for asked, _ in rounds) + 1
    plans = [gentle, *([chosen] if chosen else [])]
    if chosen is not None and _fonts_weigh(sheet):
        plans.append(whole_fonts(sheet))
    for one in plans:
        if rest_key(sheet, one) not in found.rests:
            found = found.with_rest(rest_key(sheet, one), try_rest(source, sheet, one, folder))
            yield 1 / total, found
    done = 1
    for asked, for_good in rounds:
        fresh: dict[str, tuple[Trial, ...]] = {}
        for part_id, trials in try_out(source, sheet, asked, store, for_good=for_good):
            fresh[part_id] = trials
            done += 1
            if done % _TOLD_EVERY == 0:
                found, fresh = found.with_pictures(fresh), {}
                yield done / total, found
        found = found.with_pictures(fresh)
        yield done / total, found
    yield 1.0, found


def _fonts_weigh(sheet: WeightSheet) -> bool:
    """Whether what subsetting is worth is worth measuring."""
    return sheet.bytes_by_kind().get(PartKind.FONT, 0) > _FONTS_SHARE * sheet.size_bytes


def _rounds(
    sheet: WeightSheet, chosen: Plan | None, *, has_store: bool
) -> Iterator[tuple[Mapping[str, tuple[Decision, ...]], bool]]:
    """What to try, in turn, and whether for good: first what was asked for, then all else."""
    if chosen is not None:
        own = decisions_to_try(sheet, chosen, with_corners=False)
        yield own, False
    yield decisions_to_try(sheet), False
    yield decisions_beyond(sheet), False
    if chosen is not None and has_store:
        yield dict(islice(own.items(), _CODED_FOR_GOOD)), True


def _untried(
    asked: Mapping[str, tuple[Decision, ...]], known: Trials, *, for_good: bool
) -> dict[str, tuple[Decision, ...]]:
    """Without what is known already."""
    left: dict[str, tuple[Decision, ...]] = {}
    for part_id, decisions in asked.items():
        waiting = tuple(
            decision
            for decision in decisions
            if (trial := known.of(decision)) is None or (for_good and not trial.is_final)
        )
        if waiting:
            left[part_id] = waiting
    return left
