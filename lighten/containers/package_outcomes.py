"""Outcomes of the parts of a package, by the weights of its members once they are packed."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from lighten.containers.archive import Archive
from lighten.containers.changes import (
    Changes,
)
from lighten.containers.pictures import MemberPicture
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.plans import Action, Decision, Outcome, Plan
from lighten.model.weights import Part, WeightSheet

__all__ = ["PackageOutcomes"]


@dataclass(frozen=True, kw_only=True)
class PackageOutcomes:
    """The weight sheet of a package, and what was changed in its members."""

    sheet: WeightSheet
    archive: Archive
    members_of: Callable[[ExtraKind], frozenset[str]]
    pictures: Mapping[str, MemberPicture]
    changes: Changes

    def after(self, plan: Plan, weights: Mapping[str, int]) -> Iterator[tuple[str, Outcome]]:
        """Yield the outcomes of members by their new weight, and of extras by their decisions."""
        decisions = plan.by_part()
        shared = sum(
            part.size_bytes for part in self.sheet.parts if part.extra in self._within_members
        )
        staying = [
            part
            for part in self.sheet.parts
            if part.extra in self._within_members and part.extra not in self.changes.dropped
        ]
        kept = sum(part.size_bytes for part in staying)
        kept_share, of_extras = kept / shared if shared else 0.0, 0
        for part in self.sheet.parts:
            if part.extra is ExtraKind.PICTURE_METADATA:
                yield part.id, self._metadata_outcome(part, decisions[part.id])
            decision = decisions[part.id]
            if part.picture is not None and decision.action is not Action.KEEP:
                continue
            members = self.members_of(part.extra) if part.extra else frozenset()
            if members and decision.action is not Action.DROP:
                left = sum(weights.get(name, 0) for name in members)
                yield part.id, _outcome(part, decision, left)
            if part.kind in (PartKind.STRUCTURE, PartKind.EXTRA, PartKind.NAME):
                continue
            member = self.pictures[part.id].member if part.picture else part.id
            within = self.archive.members[member].weight - part.size_bytes
            share = 1.0 if part.picture else kept_share
            # What is left of the member is shared out as the whole was, less what went.
            own = part.size_bytes / max(1.0, part.size_bytes + within * share)
            after = round(weights.get(member, 0) * own)
            of_extras += 0 if part.picture else weights.get(member, 0) - after
            action, reason = decision.action, decision.reason
            if member not in weights:
                action = Action.DROP
            elif part.kind is PartKind.EMBEDDED and member not in self.changes.replaced:
                action, reason = Action.PACK, "unchanged, packed tighter"
            done = replace(decision, action=action, reason=reason)
            yield part.id, _outcome(part, done, after)
        for part in staying:
            left = of_extras * part.size_bytes // max(1, kept)
            yield part.id, _outcome(part, decisions[part.id], left)

    def _metadata_outcome(self, part: Part, decision: Decision) -> Outcome:
        """Return the outcome of pictures' metadata: unchanged pictures keep theirs."""
        changes = self.changes
        left = sum(
            self.archive.members[picture.member].weight - other.size_bytes
            for other in self.sheet.parts
            if (picture := self.pictures.get(other.id)) is not None
            and picture.member not in changes.removed
            and (picture.member not in changes.replaced or part.extra not in changes.dropped)
        )
        return _outcome(part, decision, left)

    @cached_property
    def _within_members(self) -> frozenset[ExtraKind]:
        """Yield the outcomes of extras inside members that hold other content as well."""
        return frozenset(
            part.extra
            for part in self.sheet.parts
            if part.extra is not None
            and part.extra is not ExtraKind.PICTURE_METADATA
            and not self.members_of(part.extra)
        )


def _outcome(part: Part, decision: Decision, bytes_after: int) -> Outcome:
    return Outcome(
        part_id=part.id,
        action=decision.action,
        reason=decision.reason,
        bytes_before=part.size_bytes,
        bytes_after=bytes_after,
    )
