"""What a copy may lack because a person chose so."""

from collections import Counter
from dataclasses import dataclass

from lighten.plans import Action, Outcome
from lighten.weights import ExtraKind, PartKind, WeightSheet

__all__ = ["Leave", "leave_given"]

_PROMISES = {
    ExtraKind.ATTACHMENTS: ("attachments", "annotations"),
    ExtraKind.NOTES: ("annotations",),
    ExtraKind.MARKINGS: ("annotations",),
    ExtraKind.TYPED_TEXT: ("annotations",),
    ExtraKind.DRAWN_MARKS: ("annotations",),
    ExtraKind.STAMPS: ("annotations",),
    ExtraKind.MEDIA: ("annotations",),
    ExtraKind.FORM_FIELDS: ("form fields", "annotations"),
    ExtraKind.HIDDEN_LAYERS: ("layers", "annotations", "links"),
    ExtraKind.LAYERS: ("layers", "annotations", "links"),
    ExtraKind.BOOKMARKS: ("bookmarks",),
    ExtraKind.TAGS: ("tags",),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Leave:
    """dropped: the extras that the copy was made without.

    is_redrawn: lines were given other widths.
    """

    dropped: frozenset[ExtraKind] = frozenset()
    is_redrawn: bool = False

    def is_kept(self, kind: str, before: tuple[str, ...], after: tuple[str, ...]) -> bool:
        """What the copy promises under `kind` is the same, or less where less was asked for."""
        if any(kind in _PROMISES.get(extra, ()) for extra in self.dropped):
            return not Counter(after) - Counter(before)
        return before == after

    def is_text_kept(self, before: str, after: str) -> bool:
        """Values of fields become text of their page; the text of hidden layers goes."""
        if before == after:
            return True
        gains = ExtraKind.FORM_FIELDS in self.dropped
        loses = bool(self.dropped & {ExtraKind.HIDDEN_LAYERS, ExtraKind.LAYERS})
        old, new = Counter(before.split()), Counter(after.split())
        return (gains or loses) and (gains or not new - old) and (loses or not old - new)


def leave_given(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> Leave:
    """The leave that came with those outcomes."""
    gone = {outcome.part_id for outcome in outcomes if outcome.action is Action.DROP}
    return Leave(
        dropped=frozenset(part.extra for part in sheet.parts if part.extra and part.id in gone),
        is_redrawn=any(
            part.kind is PartKind.DRAWING and outcome.changes_looks
            for part, outcome in zip(sheet.parts, outcomes, strict=True)
        ),
    )
