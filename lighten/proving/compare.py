"""The verdict on a copy."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import partial

from lighten.contract import (
    FontsReading,
    Format,
    MembersReading,
    PagedReading,
    PicturesReading,
    Reading,
)
from lighten.damage import report_as_damage
from lighten.model.errors import LightenError
from lighten.model.kinds import PartKind, PictureClass
from lighten.model.plans import Action, Outcome
from lighten.model.proofs import PageProof, PictureProof, Proof, Verdict
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.weights import WeightSheet
from lighten.parallel import open_workers
from lighten.pictures.scans.failing_places import LAYERS_READ_PPI
from lighten.proving.laid_out import compare_laid_out, may_change_layout
from lighten.proving.page_batches import compare_all_pages
from lighten.proving.pages import PageBatch
from lighten.proving.permitted_losses import PermittedLosses, permitted_losses
from lighten.proving.pictures import PicturePair, compare_picture
from lighten.proving.read_picture import finest_provable_mm
from lighten.proving.treated import Intent, intent_of
from lighten.proving.treated_boxes import copy_ppi, picture_pairs, shown_area, treated_boxes
from lighten.proving.undrawn import UndrawnPages, undrawn_pages
from lighten.proving.verdict import proof_from
from lighten.registry import format_named

__all__ = ["prove"]

# Promises of a package without which no reader shows all of it, whatever else is equal.
_STRUCTURE = ("broken references", "pictures in use")
# Of the whole time, where pages are laid out as well.
_PICTURES_SHARE = 0.4

_SAME_LAYOUT = "pages were not laid out: only pictures and what no page shows have changed"
_LAID_OUT_BY = "laid-out pages: LibreOffice, drawn by pdfium"
_NOT_DRAWN = "pages with the same contents in both files: qpdf; these were not drawn"

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
    lays_out: bool = False,
) -> Proof:
    """Compare a copy with its original: structure, text, looks.

    sheet: of the original. outcomes: name the treated pictures, which may differ a little.
    lays_out: what has no pages of its own is laid out to some, where an office suite is installed
    and anything changed that its layout may depend on.
    known_pages: that an earlier copy showed by the same decisions; they are not drawn again.
    """
    format_ = format_named(sheet.format)
    permitted = permitted_losses(sheet, outcomes)
    sizes: tuple[Sizes, Sizes] = ((), ())
    boxes = treated_boxes(sheet, outcomes) if format_.offers.has_pages else {}
    undrawn = UndrawnPages()
    pictures: tuple[PictureProof, ...] = ()
    can_be_laid_out = lays_out and format_.offers.can_be_laid_out
    is_laid_out = can_be_laid_out and may_change_layout(sheet, outcomes)
    share = _PICTURES_SHARE if is_laid_out else 1.0
    if fault := _why_unreadable(copy, format_, sheet.pages):
        return _unsound(fault)
    try:
        with (
            report_as_damage(original),
            format_.read(original) as before,
            format_.read(copy) as after,
        ):
            if fault := _malformed(before, after):
                return _unsound(fault)
            preserved_features = before.preserved_features(), after.preserved_features()
            readers = before.readers
            fonts = _changed_fonts(before, copy, permitted)
            if isinstance(before, PagedReading) and isinstance(after, PagedReading):
                sizes = before.page_sizes, after.page_sizes
                if not (fonts or known_pages):
                    undrawn = undrawn_pages(before, copy, sheet, boxes, permitted)
            elif isinstance(before, PicturesReading) and isinstance(after, PicturesReading):
                pairs = picture_pairs(sheet, outcomes)
                pictures = _pictures(pairs, before, after, share_of(progress, 0, share))
    except LightenError as error:
        fault = f"a second reader cannot compare it with the original: {error.message}"
        return Proof(verdict=Verdict.CHECK, reasons=(fault,), faults=(fault,))
    if len(sizes[0]) != len(sizes[1]):
        fault = _other_count(len(sizes[0]), len(sizes[1]))
        return _unsound(fault)
    faults = [*_broken_promises(*preserved_features, permitted), *_other_sizes(*sizes), *fonts]
    pages: tuple[PageProof, ...] = ()
    remarks: tuple[str, ...] = (_SAME_LAYOUT,) if can_be_laid_out and not is_laid_out else ()
    if is_laid_out:
        laid_out = compare_laid_out(original, copy, sheet, share_of(progress, share, 1))
        pages, remarks = laid_out.pages, laid_out.remarks
        faults += laid_out.faults
    elif format_.offers.has_pages:
        batch = PageBatch(
            format=sheet.format,
            original=original,
            copy=copy,
            pages=tuple((page, tuple(boxes.get(page, ()))) for page in range(1, len(sizes[0]) + 1)),
            permitted=permitted,
            text_only=undrawn.text_only,
        )
        pages = compare_all_pages(batch, progress, (*known_pages, *undrawn.proofs))
    has_text = any(preserved_features[0].values())
    unprovable = (
        *_left_to_readers(sheet, outcomes),
        *_proved_apart(sheet, outcomes),
        *_unprovable(sheet, outcomes),
    )
    is_sound = not any(fault.startswith(_STRUCTURE) for fault in faults)
    proof = proof_from(
        tuple(faults), pages, pictures, has_text=has_text, may_be_same=not unprovable
    )
    return replace(
        proof,
        counts=_counts(*preserved_features),
        remarks=(*remarks, *unprovable),
        is_sound=is_sound,
        readers=(
            *readers,
            *((_LAID_OUT_BY,) if is_laid_out and pages else ()),
            *((_NOT_DRAWN,) if undrawn.proofs or undrawn.text_only else ()),
        ),
    )


def _why_unreadable(copy: Source, format_: Format, pages: int | None) -> str:
    """Return what keeps a second reader from opening the copy, or from finding its pages; or ""."""
    try:
        with report_as_damage(copy), format_.read(copy) as reading:
            reading.preserved_features()
            found = len(reading.page_sizes) if isinstance(reading, PagedReading) else None
    except LightenError as error:
        return f"the copy cannot be opened by a second reader: {error.message}"
    return "" if found in (None, pages) else _other_count(pages or 0, found or 0)


def _malformed(before: Reading, after: Reading) -> str:
    """A member of the copy that no reader can parse, and that was sound in the original; or ""."""
    if not (isinstance(before, MembersReading) and isinstance(after, MembersReading)):
        return ""
    # The original is searched only where there is something to report.
    wrong = after.malformed and after.malformed - before.malformed
    return f"{min(wrong)} in the copy cannot be read" if wrong else ""


def _changed_fonts(before: Reading, copy: Source, permitted: PermittedLosses) -> tuple[str, ...]:
    if not isinstance(before, FontsReading):
        return ()
    return before.changed_fonts(copy.path, may_lack_files=permitted.may_lack_fonts)


def _unsound(fault: str) -> Proof:
    return Proof(verdict=Verdict.CHECK, reasons=(fault,), faults=(fault,), is_sound=False)


def _other_count(before: int, after: int) -> str:
    return f"the copy has {after} pages, the original {before}"


def _other_sizes(before: Sizes, after: Sizes) -> Iterator[str]:
    are_same = all(
        abs(side - other_side) < 0.01
        for size, other_size in zip(before, after, strict=True)
        for side, other_side in zip(size, other_size, strict=True)
    )
    if not are_same:
        yield "pages of the copy have other sizes than the original's"


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


def _pictures(
    pairs: list[PicturePair], before: PicturesReading, after: PicturesReading, progress: Progress
) -> tuple[PictureProof, ...]:
    """Compare pictures in threads, as decoding releases the interpreter's lock; both documents are
    opened once.
    """
    proofs: list[PictureProof] = []
    with open_workers() as workers:
        for proof in workers.in_threads(partial(_compare, before, after), pairs):
            proofs.append(proof)
            progress(len(proofs) / len(pairs))
    return tuple(proofs)


def _compare(before: PicturesReading, after: PicturesReading, pair: PicturePair) -> PictureProof:
    return compare_picture(pair, before, after)


def _left_to_readers(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> Iterator[str]:
    """Return the remarks about content that each reader shows in its own way from now on."""
    other_fonts = sum(
        part.font is not None and outcome.action is Action.DROP and outcome.changes_looks
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
    )
    if other_fonts:
        what = "a font that was" if other_fonts == 1 else f"{other_fonts} fonts that were"
        yield f"text in {what} removed looks as each reader's own fonts do"


def _proved_apart(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> Iterator[str]:
    """Return the parts that a proof of their own found the same or close."""
    inside = sum(
        part.kind is PartKind.EMBEDDED and outcome.action is Action.RECODE
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
    )
    if inside:
        what = "a document" if inside == 1 else f"{inside} documents"
        yield f"{what} inside became lighter, each proved by itself"


def _unprovable(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> tuple[str, ...]:
    """Return the detail that is too fine to be proved on scanned pages that have become coarser."""
    coarsest = math.inf
    for part, outcome in zip(sheet.parts, outcomes, strict=True):
        facts = part.picture
        if facts is None or facts.picture_class is not PictureClass.PAGE_SCAN:
            continue
        is_coarser = outcome.action is Action.RESAMPLE or outcome.is_layered
        if not is_coarser or intent_of(outcome) is Intent.OTHER_PICTURE:
            continue
        largest = max(facts.placements, key=shown_area, default=None)
        ppi = copy_ppi(facts, outcome, largest) if largest is not None else None
        if outcome.is_layered:
            ppi = min(ppi or LAYERS_READ_PPI, LAYERS_READ_PPI)
        coarsest = min(coarsest, ppi or math.inf)
    if math.isinf(coarsest):
        return ()
    return (
        f"on scanned pages, dots under {finest_provable_mm(coarsest)} mm are too fine to prove at "
        f"{coarsest:.0f} ppi",
    )
