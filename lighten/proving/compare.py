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
from lighten.model.plans import Action, Outcome
from lighten.model.proofs import PageProof, PictureProof, Proof, Verdict
from lighten.model.source import Progress, Source, no_progress, share_of
from lighten.model.weights import PartKind, PictureClass, PictureFacts, Placement, WeightSheet
from lighten.parallel import open_workers
from lighten.pictures.faults.find_faults import MOST_READ_PPI
from lighten.pictures.scans.failing_places import LAYERS_READ_PPI
from lighten.proving.laid_out import compare_laid_out
from lighten.proving.page_batches import compare_all_pages
from lighten.proving.pages import PageBatch, TreatedBox
from lighten.proving.permitted_losses import PermittedLosses, permitted_losses
from lighten.proving.pictures import PicturePair, compare_picture
from lighten.proving.read_picture import finest_provable_mm
from lighten.proving.treated import Intent, intent_of, is_treated
from lighten.registry import format_named

__all__ = ["prove", "verdict_of_page"]

# A page this alike looks like its original on a screen.
_SAME_LIKENESS = 0.995
_SAME_PICTURE_LIKENESS = 0.97
# From 90 on pictures are indistinguishable (SSIMULACRA2's own scale); a few places of a picture
# score some points lower than the whole.
_SAME_SCORE = 85.0
_POINTS_PER_INCH = 72.0
# Promises of a package without which no reader shows all of it, whatever else is equal.
_STRUCTURE = ("broken references", "pictures in use")
_LINES = (PictureClass.BITONAL, PictureClass.MASK)
# Of the whole time, where pages are laid out as well.
_PICTURES_SHARE = 0.4

_LAID_OUT_BY = "laid-out pages: LibreOffice, drawn by pdfium"

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
    lays_out: what has no pages of its own is laid out to some, where an office suite is installed.
    known_pages: that an earlier copy showed by the same decisions; they are not drawn again.
    """
    format_ = format_named(sheet.format)
    permitted = permitted_losses(sheet, outcomes)
    sizes: tuple[Sizes, Sizes] = ((), ())
    pictures: tuple[PictureProof, ...] = ()
    is_laid_out = lays_out and format_.offers.can_be_laid_out
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
            elif isinstance(before, PicturesReading) and isinstance(after, PicturesReading):
                pairs = _picture_pairs(sheet, outcomes)
                pictures = _pictures(pairs, before, after, share_of(progress, 0, share))
    except LightenError as error:
        fault = f"a second reader cannot compare it with the original: {error.message}"
        return Proof(verdict=Verdict.CHECK, reasons=(fault,), faults=(fault,))
    if len(sizes[0]) != len(sizes[1]):
        fault = _other_count(len(sizes[0]), len(sizes[1]))
        return _unsound(fault)
    faults = [*_broken_promises(*preserved_features, permitted), *_other_sizes(*sizes), *fonts]
    pages: tuple[PageProof, ...] = ()
    remarks: tuple[str, ...] = ()
    if is_laid_out:
        laid_out = compare_laid_out(original, copy, sheet, share_of(progress, share, 1))
        pages, remarks = laid_out.pages, laid_out.remarks
        faults += laid_out.faults
    elif format_.offers.has_pages:
        boxes = _treated_boxes(sheet, outcomes)
        batch = PageBatch(
            format=sheet.format,
            original=original,
            copy=copy,
            pages=tuple((page, tuple(boxes.get(page, ()))) for page in range(1, len(sizes[0]) + 1)),
            permitted=permitted,
        )
        pages = compare_all_pages(batch, progress, known_pages)
    has_text = any(preserved_features[0].values())
    unprovable = (
        *_left_to_readers(sheet, outcomes),
        *_proved_apart(sheet, outcomes),
        *_unprovable(sheet, outcomes),
    )
    is_sound = not any(fault.startswith(_STRUCTURE) for fault in faults)
    proof = _verdict(tuple(faults), pages, pictures, has_text=has_text, may_be_same=not unprovable)
    return replace(
        proof,
        counts=_counts(*preserved_features),
        remarks=(*remarks, *unprovable),
        is_sound=is_sound,
        readers=(*readers, *((_LAID_OUT_BY,) if is_laid_out and pages else ())),
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


def _treated_boxes(
    sheet: WeightSheet, outcomes: tuple[Outcome, ...]
) -> dict[int, list[TreatedBox]]:
    """Return, for each page, the boxes of pictures that were treated with loss."""
    treated = {outcome.part_id: outcome for outcome in outcomes if is_treated(outcome)}
    boxes: dict[int, list[TreatedBox]] = {}
    for part in sheet.parts:
        if part.picture is None or part.id not in treated:
            continue
        outcome = treated[part.id]
        placements = [at for at in part.picture.placements if at.page is not None and at.box]
        largest = max(placements, key=_area, default=None)
        for placement in placements:
            assert placement.page is not None and placement.box is not None
            boxes.setdefault(placement.page, []).append(
                TreatedBox(
                    part_id=part.id,
                    name=part.name,
                    box=placement.box,
                    visible_box=placement.visible_box or placement.box,
                    intent=intent_of(outcome),
                    # The same picture is read once, where it is largest.
                    read_px=_read_px(part.picture, outcome, placement)
                    if placement is largest
                    else None,
                    ppi=_ppi(part.picture, outcome, placement),
                    original_px=(part.picture.width_px, part.picture.height_px),
                    may_lose_words=outcome.may_lose_words,
                    is_plain=not part.picture.mask and not outcome.is_cut,
                    is_cut=outcome.is_cut,
                    holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
                    least_score=outcome.least_score,
                    is_layered=outcome.is_layered,
                    turned_degrees=outcome.turned_degrees,
                )
            )
    return boxes


def _area(placement: Placement) -> float:
    return placement.width_pt * placement.height_pt


def _read_px(facts: PictureFacts, outcome: Outcome, placement: Placement) -> tuple[int, int] | None:
    """Return the number of pixels to read a box at: that of the copy's picture if known."""
    ppi = _ppi(facts, outcome, placement)
    box = placement.visible_box if outcome.is_cut else placement.box
    if ppi is None or box is None or outcome.size_px is None:
        return None
    left, low, right, high = box
    width, height = outcome.size_px
    is_whole = not (outcome.is_cut or outcome.is_layered)
    if ppi <= MOST_READ_PPI and is_whole and facts.picture_class not in _LINES:
        sides = (placement.width_pt, placement.height_pt)
        if _are_near((right - left, high - low), sides):
            return width, height
        if _are_near((high - low, right - left), sides):
            return height, width
    ppi = min(ppi, LAYERS_READ_PPI if outcome.is_layered else MOST_READ_PPI)
    if facts.picture_class in _LINES:
        # Divided anew, edges lie up to half a pixel beside where they lay.
        ppi /= 2
    return (
        max(1, round((right - left) * ppi / _POINTS_PER_INCH)),
        max(1, round((high - low) * ppi / _POINTS_PER_INCH)),
    )


def _are_near(one: tuple[float, float], other: tuple[float, float]) -> bool:
    return all(abs(a - b) <= 0.01 * b for a, b in zip(one, other, strict=True))


def _ppi(facts: PictureFacts, outcome: Outcome, placement: Placement) -> float | None:
    """Return the resolution of the copy's picture in the box."""
    if outcome.size_px is None or not _area(placement):
        return None
    left, top, right, bottom = facts.visible if outcome.is_cut else (0.0, 0.0, 1.0, 1.0)
    shown = _area(placement) * (right - left) * (bottom - top)
    width, height = outcome.size_px
    return float(math.sqrt(width * height / shown)) * _POINTS_PER_INCH if shown else None


def _picture_pairs(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> list[PicturePair]:
    """Every picture that the copy has, treated or not: nothing else shows that it is whole."""
    return [
        PicturePair(
            part_id=part.id,
            name=part.name,
            shown_pt=_in_sight(part.picture),
            intent=intent_of(outcome),
            holds_text=part.picture.picture_class is PictureClass.PAGE_SCAN,
            is_framed=not part.picture.is_alone,
            least_score=outcome.least_score,
            turned_degrees=outcome.turned_degrees,
            may_lose_words=outcome.may_lose_words,
        )
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
        if part.picture is not None and outcome.action is not Action.DROP
    ]


def _pictures(
    pairs: list[PicturePair], before: PicturesReading, after: PicturesReading, progress: Progress
) -> tuple[PictureProof, ...]:
    """Both documents are read once for all; threads, since decoding lets go of the interpreter."""
    proofs: list[PictureProof] = []
    with open_workers() as workers:
        for proof in workers.in_threads(partial(_compare, before, after), pairs):
            proofs.append(proof)
            progress(len(proofs) / len(pairs))
    return tuple(proofs)


def _compare(before: PicturesReading, after: PicturesReading, pair: PicturePair) -> PictureProof:
    return compare_picture(pair, before, after)


def _in_sight(facts: PictureFacts) -> tuple[float, float] | None:
    """Return the shown size of the visible part of a picture."""
    shown, (left, top, right, bottom) = facts.largest_display_pt, facts.visible
    return None if shown is None else (shown[0] * (right - left), shown[1] * (bottom - top))


def _verdict(
    faults: tuple[str, ...],
    pages: tuple[PageProof, ...],
    pictures: tuple[PictureProof, ...] = (),
    *,
    has_text: bool = False,
    may_be_same: bool = True,
) -> Proof:
    """has_text: words and whatever hangs on them were compared, besides what is seen.

    may_be_same: nothing in it was too fine to be proved.
    """
    reasons = (
        *faults,
        *(fault for page in pages for fault in page.faults),
        *(fault for picture in pictures for fault in picture.faults),
    )
    if not reasons and not pages and not pictures and not has_text:
        reasons = ("nothing in it could be compared with the original",)
    if reasons:
        return Proof(
            verdict=Verdict.CHECK, reasons=reasons, pages=pages, pictures=pictures, faults=faults
        )
    is_same = (
        may_be_same
        and all(verdict_of_page(page) is Verdict.SAME for page in pages)
        and all(_is_same(picture) for picture in pictures)
    )
    verdict = Verdict.SAME if is_same else Verdict.CLOSE
    reason = _reason(pages, pictures, is_same=is_same)
    return Proof(verdict=verdict, reasons=(reason,), pages=pages, pictures=pictures)


def verdict_of_page(page: PageProof) -> Verdict:
    """Return the verdict of one page by itself."""
    if page.faults:
        return Verdict.CHECK
    is_same = page.likeness >= _SAME_LIKENESS and all(map(_is_same, page.pictures))
    return Verdict.SAME if is_same else Verdict.CLOSE


def _is_same(picture: PictureProof) -> bool:
    return (
        picture.likeness >= _SAME_PICTURE_LIKENESS
        and all(
            score is None or score >= _SAME_SCORE for score in (picture.score, picture.close_score)
        )
        and not picture.tint
    )


def _reason(
    pages: tuple[PageProof, ...], pictures: tuple[PictureProof, ...], *, is_same: bool
) -> str:
    if not pages and not pictures:
        return "text and all that hangs on it are equal"
    if is_same:
        return "every page looks the same, text and links are equal" if pages else "looks the same"
    tints = [
        (picture.tint, page.page) for page in pages for picture in page.pictures if picture.tint
    ]
    if tints:
        tint, number = tints[0]
        return f"nothing written is lost; colours are {tint}, first on page {number}"
    tint = next((picture.tint for picture in pictures if picture.tint), "")
    if tint:
        return f"nothing written is lost; colours are {tint}"
    shown = (*pictures, *(picture for page in pages for picture in page.pictures))
    scores = [picture for picture in shown if picture.score is not None]
    worst = min(scores, key=lambda picture: picture.score or 0.0, default=None)
    if worst is None or worst.score is None or worst.score >= _SAME_SCORE:
        return "nothing written is lost; pictures differ less than is seen"
    where = f", the worst on page {worst.page}" if worst.page else ""
    return (
        f"nothing written is lost; the lowest score of a picture is {worst.score:.0f} of 100{where}"
    )


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
        largest = max(facts.placements, key=_area, default=None)
        ppi = _ppi(facts, outcome, largest) if largest is not None else None
        if outcome.is_layered:
            ppi = min(ppi or LAYERS_READ_PPI, LAYERS_READ_PPI)
        coarsest = min(coarsest, ppi or math.inf)
    if math.isinf(coarsest):
        return ()
    return (
        f"on scanned pages, dots under {finest_provable_mm(coarsest)} mm are too fine to prove at "
        f"{coarsest:.0f} ppi",
    )
