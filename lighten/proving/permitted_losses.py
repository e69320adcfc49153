"""Losses that a person has chosen."""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from lighten.model.extras import EXTRAS
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.plans import Action, Outcome
from lighten.model.weights import WeightSheet

__all__ = ["PermittedLosses", "permitted_losses"]

# What readings call files inside a document.
_INSIDE = "embedded files"
_NAMES = "names"
# References that lead nowhere: a copy may have fewer of them.
_BROKEN = "broken references"
# Features with a position on a page, written as its four sides.
_PLACED = ("links", "annotations")
_PLACE = re.compile(r"(?:-?[\d.]+ ){3}-?[\d.]+ ")
Promises = Mapping[str, tuple[str, ...]]


@dataclass(frozen=True, slots=True, kw_only=True)
class PermittedLosses:
    """dropped: the extras that the copy was made without.

    names: that were left out, by their parts' ids, which their promises begin with.
    is_redrawn: lines were given other widths, or text another font. has_lighter_inside: documents
    inside were made lighter, each proved by itself. has_turned: what lies on a page was moved with
    its straightened scan. may_lack_fonts: a person chose that some are no longer embedded.
    """

    dropped: frozenset[ExtraKind] = frozenset()
    names: frozenset[str] = frozenset()
    is_redrawn: bool = False
    has_lighter_inside: bool = False
    has_turned: bool = False
    may_lack_fonts: bool = False

    def is_kept(self, kind: str, before: tuple[str, ...], after: tuple[str, ...]) -> bool:
        """Return whether the features of the copy under `kind` are equal, or reduced only as
        chosen.
        """
        if kind == _BROKEN:
            return not Counter(after) - Counter(before)
        if self.has_lighter_inside and kind == _INSIDE:
            return len(before) == len(after)
        if self.has_turned and kind in _PLACED:
            before, after = (tuple(map(_without_place, entries)) for entries in (before, after))
        if any(kind in EXTRAS[extra].may_lack for extra in self.dropped):
            return not Counter(after) - Counter(before)
        if kind == _NAMES:
            before = tuple(entries for entries in before if entries.split(" ")[0] not in self.names)
        return before == after

    def is_text_kept(self, before: str, after: str) -> bool:
        """Return whether text is kept, allowing for flattened fields and hidden layers."""
        if before == after:
            return True
        gains = any(EXTRAS[extra].may_gain_text for extra in self.dropped)
        loses = any(EXTRAS[extra].may_lose_text for extra in self.dropped)
        old, new = Counter(before.split()), Counter(after.split())
        return (gains or loses) and (gains or not new - old) and (loses or not old - new)


def _without_place(entry: str) -> str:
    return _PLACE.sub("", entry, count=1)


def permitted_losses(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> PermittedLosses:
    """Return the losses that those outcomes permit."""
    gone = {outcome.part_id for outcome in outcomes if outcome.action is Action.DROP}
    return PermittedLosses(
        dropped=frozenset(
            part.extra_kind for part in sheet.parts if part.extra_kind and part.id in gone
        ),
        names=frozenset(part.id for part in sheet.parts if part.name_facts and part.id in gone),
        has_lighter_inside=any(
            part.kind is PartKind.EMBEDDED and outcome.action is Action.RECODE
            for part, outcome in zip(sheet.parts, outcomes, strict=True)
        ),
        has_turned=any(outcome.turned_degrees for outcome in outcomes),
        may_lack_fonts=any(part.font is not None and part.id in gone for part in sheet.parts),
        is_redrawn=any(
            part.kind in (PartKind.DRAWING, PartKind.FONT) and outcome.changes_looks
            for part, outcome in zip(sheet.parts, outcomes, strict=True)
        ),
    )
