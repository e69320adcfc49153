"""The verdict on a copy."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from lighten.contract import PagedReading
from lighten.errors import LightenError
from lighten.parallel import open_workers
from lighten.plans import Action, Outcome
from lighten.proofs import PageProof, PictureProof, Proof, Verdict
from lighten.proving.pages import PageBatch, TreatedBox, compare_pages
from lighten.proving.permitted_losses import PermittedLosses, permitted_losses
from lighten.proving.pictures import PicturePair, compare_pictures
from lighten.proving.treated import intent_of, is_treated
from lighten.registry import format_named
from lighten.source import Progress, Source, no_progress
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
_MANY_PAGES, _MANY_PICTURES = 4, 4

Promises = Mapping[str, tuple[str, ...]]
Sizes = tuple[tuple[float, float], ...]


def prove(
    original: Source,
    copy: Source,
    sheet: WeightSheet,
    outcomes: tuple[Outcome, ...],
    progress: Progress = no_progress,
    *,
    known_pages: tuple[PageProof, ...] = (),
) -> Proof:
    """Compare a copy with its original: structure, text, looks.

    sheet: of the original. outcomes: tell which pictures were treated, and so may differ a little.
    known_pages: that an earlier copy showed by the same decisions; they are not drawn again.
    """
    format_ = format_named(sheet.format)
    permitted = permitted_losses(sheet, outcomes)
    sizes: tuple[Sizes, Sizes] = ((), ())
    try:
        with format_.read(original) as before, format_.read(copy) as after:
            promises = before.promises, after.promises
            if isinstance(before, PagedReading) and isinstance(after, PagedReading):
                sizes = before.page_sizes, after.page_sizes
    except LightenError as error:
        fault = f"the copy cannot be opened by a second reader: {error.message}"
        return Proof(verdict=Verdict.LOOK, reasons=(fault,), faults=(fault,))
    faults = [*_broken_promises(*promises, permitted), *_other_sizes(*sizes)]
    pages: tuple[PageProof, ...] = ()
    pictures: tuple[PictureProof, ...] = ()
    if not format_.offers.has_pages:
        pictures = _pictures(original, copy, sheet, outcomes, progress)
    elif len(sizes[0]) == len(sizes[1]):
        pages = _pages(
            original,
            copy,
            sheet,
            outcomes,
            len(sizes[0]),
            progress=progress,
            proofs_before=known_pages,
        )
    return replace(_verdict(tuple(faults), pages, pictures), counts=_counts(*promises))


def _other_sizes(before: Sizes, after: Sizes) -> Iterator[str]:
    are_same = len(before) == len(after) and all(
        abs(side - other_side) < 0.01
        for size, other_size in zip(before, after, strict=True)
        for side, other_side in zip(size, other_size, strict=True)
    )
    if not are_same:
        yield (f"the copy has {len(after)} pages of other sizes than the original's {len(before)}")


def _broken_promises(
    before: Promises, after: Promises, permitted: PermittedLosses
) -> Iterator[str]:
    for kind, promised in before.items():
        kept = after.get(kind, ())
        if not permitted.is_kept(kind, promised, kept):
            yield f"{kind}: {len(promised)} in the original, {len(kept)} in the copy, not the same"


def _counts(before: Promises, after: Promises) -> dict[str, tuple[int, int]]:
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
    proofs_before: tuple[PageProof, ...],
) -> tuple[PageProof, ...]:
    boxes = _treated_boxes(sheet, outcomes)
    jobs = [
        PageBatch(
            format=sheet.format,
            original=original,
            copy=copy,
            pages=tuple((page, tuple(boxes.get(page, ()))) for page in pages),
            permitted=permitted_losses(sheet, outcomes),
        )
        for pages in _in_batches(count, {proof.page for proof in proofs_before})
    ]
    proofs = list(proofs_before)
    with open_workers(None if count - len(proofs_before) > _MANY_PAGES else 1) as workers:
        for batch in workers.run(compare_pages, jobs):
            proofs += batch
            progress(len(proofs) / count)
    return tuple(sorted(proofs, key=lambda proof: proof.page))


def _in_batches(count: int, done: set[int]) -> Iterator[list[int]]:
    pages = [page for page in range(1, count + 1) if page not in done]
    for start in range(0, len(pages), _PAGES_A_BATCH):
        yield pages[start : start + _PAGES_A_BATCH]


def _treated_boxes(
    sheet: WeightSheet, outcomes: tuple[Outcome, ...]
) -> dict[int, list[TreatedBox]]:
    """For each page, where it shows a picture that was treated with loss."""
    those = [outcome for outcome in outcomes if is_treated(outcome)]
    treated = {outcome.part_id: intent_of(outcome) for outcome in those}
    by_likeness = sorted(those, key=lambda outcome: (outcome.likeness or 1.0, outcome.part_id))
    scored = {outcome.part_id for outcome in by_likeness[:_MOST_SCORED]}
    boxes: dict[int, list[TreatedBox]] = {}
    for part in sheet.parts:
        if part.picture is None or part.id not in treated:
            continue
        for placement in part.picture.placements:
            if placement.page is not None and placement.box is not None:
                boxes.setdefault(placement.page, []).append(
                    TreatedBox(
                        part_id=part.id,
                        box=placement.box,
                        intent=treated[part.id],
                        is_scored=part.id in scored,
                        holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
                    )
                )
    return boxes


def _pictures(
    original: Source,
    copy: Source,
    sheet: WeightSheet,
    outcomes: tuple[Outcome, ...],
    progress: Progress,
) -> tuple[PictureProof, ...]:
    """Every picture that the copy has, treated or not: nothing else shows that it is whole."""
    pairs = [
        PicturePair(
            format=sheet.format,
            original=original,
            copy=copy,
            part_id=part.id,
            name=part.name,
            shown_pt=part.picture.largest_display_pt,
            intent=intent_of(outcome),
            holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
        )
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
        if part.picture is not None and outcome.action is not Action.DROP
    ]
    proofs = []
    with open_workers(None if len(pairs) > _MANY_PICTURES else 1) as workers:
        for proof in workers.run(compare_pictures, pairs):
            proofs.append(proof)
            progress(len(proofs) / len(pairs))
    return tuple(proofs)


def _verdict(
    faults: tuple[str, ...],
    pages: tuple[PageProof, ...],
    pictures: tuple[PictureProof, ...] = (),
) -> Proof:
    reasons = (
        *faults,
        *(fault for page in pages for fault in page.faults),
        *(fault for picture in pictures for fault in picture.faults),
    )
    if not reasons and not pages and not pictures:
        reasons = ("nothing in it could be compared with the original",)
    if reasons:
        return Proof(
            verdict=Verdict.LOOK, reasons=reasons, pages=pages, pictures=pictures, faults=faults
        )
    shown = (*pictures, *(picture for page in pages for picture in page.pictures))
    is_same = all(page.likeness >= _SAME_LIKENESS for page in pages) and all(
        picture.likeness >= _SAME_PICTURE_LIKENESS
        and (picture.score is None or picture.score >= _SAME_SCORE)
        for picture in shown
    )
    verdict = Verdict.SAME if is_same else Verdict.CLOSE
    reason = _reason(pages, pictures, is_same=is_same)
    return Proof(verdict=verdict, reasons=(reason,), pages=pages, pictures=pictures)


def _reason(
    pages: tuple[PageProof, ...], pictures: tuple[PictureProof, ...], *, is_same: bool
) -> str:
    if not pages:
        return "looks the same" if is_same else "a little softer than the original"
    if is_same:
        return "every page looks the same, text and links are equal"
    worst = min(pages, key=lambda page: page.likeness)
    return f"pictures are a little softer, most on page {worst.page}"
