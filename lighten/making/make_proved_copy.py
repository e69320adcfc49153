"""A copy that is proved before it is offered; what may be behind a failed proof goes back."""

import logging
import os
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from lighten.making.make_copy import make_copy
from lighten.making.retreats import DOCUMENT_RETREATS, PICTURE_RETREATS
from lighten.model.errors import LightenError, UnsoundCopyError
from lighten.model.kinds import PartKind
from lighten.model.plans import Copy, Plan
from lighten.model.proofs import PageProof, Proof, Verdict
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.weights import WeightSheet
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.proving.compare import prove

__all__ = ["STRICT_SETTING", "check_sound", "is_own_fault", "make_proved_copy"]

# The environment's name for a switch: errors of our own writing code end the making of a copy
# instead of leaving a step out. Tests and the fuzz program set it.
STRICT_SETTING = "GREEN_SATCHEL_STRICT"
_log = logging.getLogger(__name__)
# Of the whole time, what writing takes; the rest is proof.
_WRITING_SHARE = 0.6
# Most copies are sound at the first attempt.
_FIRST_SHARE = 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class _Making:
    """State that stays the same while a copy is attempted."""

    source: Source
    sheet: WeightSheet
    out: Path
    cache: CodingCache | None
    lays_out: bool


def make_proved_copy(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress = no_progress,
    *,
    cache: CodingCache | None = None,
    lays_out: bool = False,
) -> tuple[Copy, Proof | None]:
    """Make a copy and prove it before it stands at `out`; no proof where there is no copy.

    If it fails, pictures that failed are coded finer, then finely and at all their pixels, then
    go back to their originals; then, step by step, so do drawing, fonts and removals. The copy is
    made again each time; what fails still is marked `Verdict.CHECK`. A step of ours that raises an
    error nobody foresaw is left out in the same way, and logged. cache: saves coding again what
    did not fail. lays_out: as in `prove`.
    Raises: as `make_copy`; UnsoundCopyError.
    """
    if out.exists():
        raise FileExistsError(out)
    unproved = out.with_name(f"{out.name}.unproved")
    making = _Making(source=source, sheet=sheet, out=unproved, cache=cache, lays_out=lays_out)
    try:
        copy, proof = _made(making, plan, progress)
        progress(1.0)
        if proof is None:
            return copy, None
        check_sound(source, proof)
        unproved.replace(out)
    finally:
        unproved.unlink(missing_ok=True)
    return replace(copy, path=out), proof


def _made(making: _Making, plan: Plan, progress: Progress) -> tuple[Copy, Proof | None]:
    """Return the first attempt that passes its proof, or the last one."""
    earlier: tuple[Copy, Proof] | None = None
    number = 0
    plans = _Plans(plan, making.sheet)
    while True:
        share = _share_of_attempt(progress, number)
        making.out.unlink(missing_ok=True)
        try:
            copy, proof = _attempt(making, plans.now, share, earlier)
        except Exception as error:
            if not is_own_fault(error) or not plans.retreat(None):
                raise
            _log.exception("a step of writing failed and is skipped")
            earlier = None
        else:
            if proof is None or proof.verdict is not Verdict.CHECK:
                return copy, proof
            if not plans.retreat(proof):
                return copy, proof
            earlier = copy, proof
        number += 1


class _Plans:
    """The plan of each attempt: every retreat is tried once, if it changes anything."""

    def __init__(self, plan: Plan, sheet: WeightSheet) -> None:
        self.now = plan
        self._sheet = sheet
        self._of_pictures = iter(PICTURE_RETREATS)
        self._of_document = iter(DOCUMENT_RETREATS)

    def retreat(self, proof: Proof | None) -> bool:
        """Go one step back; return False if none is left. proof: None if nothing was written."""
        for gentler in self._gentler(proof):
            if gentler != self.now:
                self.now = gentler
                return True
        return False

    def _gentler(self, proof: Proof | None) -> Iterator[Plan]:
        if proof is not None:
            for of_pictures in self._of_pictures:
                yield of_pictures(self.now, proof, self._sheet)
        for of_document in self._of_document:
            yield of_document(self.now, self._sheet)


def is_own_fault(error: Exception) -> bool:
    """Return True for an error of our writing code that a copy can be made without.

    Not for errors that are reported to people, or are the machine's. Never if `STRICT_SETTING` is
    set.
    """
    is_foreseen = isinstance(error, LightenError | OSError | MemoryError | ImportError)
    return not is_foreseen and not os.environ.get(STRICT_SETTING)


def check_sound(source: Source, proof: Proof) -> None:
    """Check that the copy can be handed out. Raises: UnsoundCopyError, whatever its proof would
    say.
    """
    if not proof.is_sound:
        raise UnsoundCopyError(
            f"{source.name}: there is no copy of it, as {proof.reasons[0].rstrip('.')}. The file "
            "is damaged inside. Open it in the program that made it, save it again, and try that."
        )


def _share_of_attempt(progress: Progress, number: int) -> Progress:
    """Return the progress of an attempt: of what the first leaves, each has half of the rest."""
    if number == 0:
        return share_of(progress, 0, _FIRST_SHARE)
    left = 1 - _FIRST_SHARE
    return share_of(progress, 1 - left * 0.5 ** (number - 1), 1 - left * 0.5**number)


def _attempt(
    making: _Making, plan: Plan, progress: Progress, earlier: tuple[Copy, Proof] | None
) -> tuple[Copy, Proof | None]:
    """Write a copy by `plan` and prove it. earlier: the attempt before, by a like plan."""
    source, sheet = making.source, making.sheet
    writing = share_of(progress, 0, _WRITING_SHARE)
    copy = make_copy(source, sheet, plan, making.out, writing, cache=making.cache)
    if copy.path is None:
        return copy, None
    proof = prove(
        source,
        replace(source, path=copy.path),
        sheet,
        copy.outcomes,
        share_of(progress, _WRITING_SHARE, 1, "proving"),
        known_pages=_unaffected(sheet, copy, *earlier) if earlier else (),
        lays_out=making.lays_out,
    )
    return copy, proof


def _unaffected(
    sheet: WeightSheet, copy: Copy, earlier: Copy, proof: Proof
) -> tuple[PageProof, ...]:
    """Return sound pages without parts whose outcomes changed.

    Same input and same decisions give the same bytes, so that they look as they did.
    """
    changed = [
        part
        for part, now, before in zip(sheet.parts, copy.outcomes, earlier.outcomes, strict=True)
        if now != before and part.kind not in (PartKind.STRUCTURE, PartKind.EXTRA)
    ]
    if any(part.picture is None for part in changed):
        return ()
    pages = {page for part in changed if part.picture for page in part.picture.pages}
    return tuple(page for page in proof.pages if page.page not in pages and not page.faults)
