"""The verdict on a copy."""

from collections.abc import Iterator
from dataclasses import replace

from lighten.contract import Progress, Source, no_progress
from lighten.errors import LightenError
from lighten.parallel import open_workers
from lighten.plans import Action, Outcome
from lighten.proofs import PageProof, Proof, Verdict
from lighten.proving.leave import Leave, leave_given
from lighten.proving.pages import Asked, PageBatch, TreatedBox, compare_pages
from lighten.registry import format_named
from lighten.weights import PictureClass, WeightSheet

__all__ = ["prove"]

# A page this alike cannot be told from its original on a screen.
_SAME_LIKENESS = 0.995
_SAME_PICTURE_LIKENESS = 0.97
# From 90 on nobody tells two pictures apart (SSIMULACRA2's own scale); a few places of a picture
# score some points lower than the whole.
_SAME_SCORE = 85.0
# Those that their coding changed most; where there are more, the others are more alike than these.
_MOST_SCORED = 48
_PAGES_A_BATCH = 6
_MANY_PAGES = 4


def prove(
    original: Source,
    copy: Source,
    sheet: WeightSheet,
    outcomes: tuple[Outcome, ...],
    progress: Progress = no_progress,
    *,
    known: tuple[PageProof, ...] = (),
) -> Proof:
    """Compare a copy with its original: structure, text, looks.

    sheet: of the original. outcomes: tell which pictures were treated, and so may differ a little.
    known: pages that an earlier copy showed by the same decisions; they are not drawn again.
    """
    format_ = format_named(sheet.format)
    leave = leave_given(sheet, outcomes)
    try:
        with format_.read(original) as before, format_.read(copy) as after:
            sizes = before.page_sizes
            counts = _counts(before.promises, after.promises)
            faults = list(_broken_promises(before.promises, after.promises, leave))
            if not _are_same_sizes(sizes, after.page_sizes):
                faults.append(
                    f"the copy has {len(after.page_sizes)} pages of other sizes than the "
                    f"original's {len(sizes)}"
                )
    except LightenError as error:
        fault = f"the copy cannot be opened by a second reader: {error.message}"
        return Proof(verdict=Verdict.LOOK, reasons=(fault,), pages=(), faults=(fault,))
    pages = (
        ()
        if len(sizes) != len(after.page_sizes)
        else _pages(original, copy, sheet, outcomes, len(sizes), progress=progress, known=known)
    )
    return replace(_verdict(tuple(faults), pages), counts=counts)


def _are_same_sizes(
    before: tuple[tuple[float, float], ...], after: tuple[tuple[float, float], ...]
) -> bool:
    return len(before) == len(after) and all(
        abs(one - other) < 0.01
        for size, other_size in zip(before, after, strict=True)
        for one, other in zip(size, other_size, strict=True)
    )


def _broken_promises(
    before: dict[str, tuple[str, ...]], after: dict[str, tuple[str, ...]], leave: Leave
) -> Iterator[str]:
    for kind, wanted in before.items():
        found = after.get(kind, ())
        if not leave.is_kept(kind, wanted, found):
            yield f"{kind}: {len(wanted)} in the original, {len(found)} in the copy, not the same"


def _counts(
    before: dict[str, tuple[str, ...]], after: dict[str, tuple[str, ...]]
) -> dict[str, tuple[int, int]]:
    kinds = [kind for kind in (*before, *after) if before.get(kind) or after.get(kind)]
    return {kind: (len(before.get(kind, ())), len(after.get(kind, ()))) for kind in kinds}


def _pages(
    original: Source,
    copy: Source,
    sheet: WeightSheet,
    outcomes: tuple[Outcome, ...],
    count: int,
    *,
    progress: Progress,
    known: tuple[PageProof, ...],
) -> tuple[PageProof, ...]:
    boxes = _treated_boxes(sheet, outcomes)
    jobs = [
        PageBatch(
            format=sheet.format,
            original=original,
            copy=copy,
            pages=tuple((page, tuple(boxes.get(page, ()))) for page in pages),
            leave=leave_given(sheet, outcomes),
        )
        for pages in _in_batches(count, {proof.page for proof in known})
    ]
    proofs = list(known)
    with open_workers(None if count - len(known) > _MANY_PAGES else 1) as workers:
        for batch in workers.run(compare_pages, jobs):
            proofs += batch
            progress(len(proofs) / count)
    return tuple(sorted(proofs, key=lambda proof: proof.page))


def _in_batches(count: int, known: set[int]) -> Iterator[list[int]]:
    pages = [page for page in range(1, count + 1) if page not in known]
    for start in range(0, len(pages), _PAGES_A_BATCH):
        yield pages[start : start + _PAGES_A_BATCH]


def _treated_boxes(
    sheet: WeightSheet, outcomes: tuple[Outcome, ...]
) -> dict[int, list[TreatedBox]]:
    """For each page, where it shows a picture that was treated with loss."""
    those = [
        outcome
        for outcome in outcomes
        if outcome.action in (Action.RECODE, Action.RESAMPLE, Action.REPLACE)
    ]
    treated = {outcome.part_id: _asked(outcome) for outcome in those}
    by_likeness = sorted(those, key=lambda one: (one.likeness or 1.0, one.part_id))
    scored = {outcome.part_id for outcome in by_likeness[:_MOST_SCORED]}
    boxes: dict[int, list[TreatedBox]] = {}
    for part in sheet.parts:
        if part.picture is not None and part.id in treated:
            for placement in part.picture.placements:
                boxes.setdefault(placement.page, []).append(
                    TreatedBox(
                        part_id=part.id,
                        box=placement.box,
                        asked=treated[part.id],
                        is_scored=part.id in scored,
                        holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
                    )
                )
    return boxes


def _asked(outcome: Outcome) -> Asked:
    if outcome.action is Action.REPLACE:
        return Asked.OTHER_PICTURE
    return Asked.OTHER_LOOKS if outcome.changes_looks else Asked.SAME_LOOKS


def _verdict(faults: tuple[str, ...], pages: tuple[PageProof, ...]) -> Proof:
    found = (*faults, *(fault for page in pages for fault in page.faults))
    if found:
        return Proof(verdict=Verdict.LOOK, reasons=found, pages=pages, faults=faults)
    pictures = [picture for page in pages for picture in page.pictures]
    is_same = all(page.likeness >= _SAME_LIKENESS for page in pages) and all(
        picture.likeness >= _SAME_PICTURE_LIKENESS
        and (picture.score is None or picture.score >= _SAME_SCORE)
        for picture in pictures
    )
    if is_same:
        return Proof(
            verdict=Verdict.SAME,
            reasons=("every page looks the same, text and links are equal",),
            pages=pages,
        )
    worst = min(pages, key=lambda page: page.likeness)
    return Proof(
        verdict=Verdict.CLOSE,
        reasons=(f"pictures are a little softer, most on page {worst.page}",),
        pages=pages,
    )
