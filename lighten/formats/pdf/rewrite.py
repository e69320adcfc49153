"""A plan carried out: the new PDF, written beside the original."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path

import pikepdf

from lighten.codecs.flate import pack
from lighten.coding_store import CodingStore
from lighten.contract import Progress, Source
from lighten.errors import SignedFileError
from lighten.formats.pdf.belongings import drawing_objects
from lighten.formats.pdf.documents import is_signed, open_pdf
from lighten.formats.pdf.drop_extras import drop_extras
from lighten.formats.pdf.inline_pictures import lift_inline_pictures
from lighten.formats.pdf.reach import reachable_objects
from lighten.formats.pdf.rewrite_fonts import rewrite_fonts
from lighten.formats.pdf.rewrite_pictures import recode_pictures
from lighten.formats.pdf.spans import ObjectId
from lighten.formats.pdf.strokes import simplify_strokes
from lighten.formats.pdf.weigh import part_object_id
from lighten.formats.pdf.write_file import save_pdf
from lighten.parallel import Workers, open_workers
from lighten.plans import Action, Decision, Outcome, Plan
from lighten.weights import ExtraKind, Part, PartKind, WeightSheet

__all__ = ["write_pdf"]

# Starting other processes takes longer than packing less than that.
_MANY_BYTES = 1_000_000
_PACKED_TOGETHER = 40
# Of the whole time of writing.
_PICTURES_SHARE = 0.8


def write_pdf(
    source: Source,
    sheet: WeightSheet,
    plan: Plan,
    out: Path,
    progress: Progress,
    *,
    store: CodingStore | None = None,
) -> tuple[Outcome, ...]:
    """Carry out `plan` into a new file at `out`; what came of each part, in the sheet's order.

    Raises: SignedFileError if a signature would end and the plan does not allow it.
    """
    with open_pdf(source) as pdf:
        if is_signed(pdf) and not plan.may_end_signature:
            raise SignedFileError(
                f"{source.name}: it is signed, or carries rights a signature grants, and any "
                "change ends that. Allow it explicitly to make a copy all the same."
            )
        if _treats_inline_pictures(sheet, plan):
            lift_inline_pictures(pdf)
        _drop_extras(pdf, sheet, plan)
        outcomes = _still_held(pdf, sheet, plan)
        with open_workers(None if sheet.size_bytes > _MANY_BYTES else 1) as workers:
            outcomes |= recode_pictures(
                pdf,
                sheet,
                plan,
                workers,
                lambda share: progress(share * _PICTURES_SHARE),
                store=store,
            )
            outcomes |= rewrite_fonts(pdf, sheet, plan, workers)
            saved_on_drawing = simplify_strokes(pdf, plan.drawing)
            saved = _pack_streams(pdf, workers)
        saved_on_drawing += sum(saved.get(one, 0) for one in drawing_objects(pdf))
        progress(0.95)
        save_pdf(pdf, out, is_linearized=plan.is_linearized)
        progress(1.0)
    decisions = plan.by_part()
    for part in sheet.parts:
        if part.id not in outcomes and part.kind is not PartKind.STRUCTURE:
            packed = saved_on_drawing
            if part.kind is PartKind.FONT:
                packed = saved.get(part_object_id(part.id), 0)
            outcome = _plain_outcome(part, decisions[part.id], packed)
            if part.kind is PartKind.DRAWING:
                outcome = replace(outcome, changes_looks=plan.drawing.constant_width)
            outcomes[part.id] = outcome
    return _in_order(sheet, decisions, outcomes, out.stat().st_size)


def _treats_inline_pictures(sheet: WeightSheet, plan: Plan) -> bool:
    """Pictures within page drawing are coded anew, or kept once where they repeat."""
    decisions = plan.by_part()
    if not any(part.picture and part.picture.is_inline for part in sheet.parts):
        return False
    return any(
        decisions[part.id].action is not Action.KEEP
        for part in sheet.parts
        if part.extra is ExtraKind.REPEATS or (part.picture and part.picture.is_inline)
    )


def _drop_extras(pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan) -> None:
    decisions = plan.by_part()
    dropped = {
        part.extra
        for part in sheet.parts
        if part.extra and decisions[part.id].action is Action.DROP
    }
    if any(part.picture and decisions[part.id].action is Action.DROP for part in sheet.parts):
        dropped.add(ExtraKind.UNUSED)
    drop_extras(pdf, dropped)


def _still_held(pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan) -> dict[str, Outcome]:
    """Pictures that no page shows and that something leads to all the same: they stay."""
    decisions = plan.by_part()
    dropped = [
        part for part in sheet.parts if part.picture and decisions[part.id].action is Action.DROP
    ]
    held = reachable_objects(pdf) if dropped else set()
    return {
        part.id: Outcome(
            part_id=part.id,
            action=Action.KEEP,
            reason="left as it is: no page shows it, but something in the file points to it",
            bytes_before=part.size_bytes,
            bytes_after=part.size_bytes,
        )
        for part in dropped
        if part_object_id(part.id) in held
    }


def _pack_streams(pdf: pikepdf.Pdf, workers: Workers) -> dict[ObjectId, int]:
    """Pack everything but pictures as tight as Deflate goes; the bytes saved on each stream."""
    saved: dict[ObjectId, int] = {}
    waiting: list[pikepdf.Stream] = []

    def batches() -> Iterator[list[bytes]]:
        batch: list[bytes] = []
        for stream, content in _packable(pdf):
            waiting.append(stream)
            batch.append(content)
            if len(batch) >= _PACKED_TOGETHER or sum(map(len, batch)) > _MANY_BYTES:
                yield batch
                batch = []
        if batch:
            yield batch

    for batch in workers.run(_pack_all, batches()):
        for data in batch:
            stream = waiting.pop(0)
            before = len(stream.read_raw_bytes())
            if len(data) < before:
                stream.write(data, filter=pikepdf.Name.FlateDecode)
                saved[stream.objgen] = before - len(data)
    return saved


def _pack_all(batch: list[bytes]) -> list[bytes]:
    return [pack(data) for data in batch]


def _packable(pdf: pikepdf.Pdf) -> Iterator[tuple[pikepdf.Stream, bytes]]:
    """Streams that are plain or in Flate with what they hold, but for pictures and descriptions.

    Descriptions (XMP) stay readable without a PDF reader, as ISO 32000-1, 14.3.2 advises.
    """
    for stream in list(pdf.objects):
        if not isinstance(stream, pikepdf.Stream) or stream.get("/Subtype") == "/Image":
            continue
        if str(stream.get("/Type", "")) in ("/Metadata", "/XRef", "/ObjStm"):
            continue
        if str(stream.get("/Filter", "/FlateDecode")) != "/FlateDecode":
            continue
        if "/F" in stream:
            continue
        try:
            content = stream.read_bytes()
        except pikepdf.PdfError:
            continue
        yield stream, content


def _plain_outcome(part: Part, decision: Decision, saved: int) -> Outcome:
    """What came of a part that is no treated picture; `saved` counts where it was packed."""
    after = part.size_bytes
    if decision.action is Action.DROP:
        after = 0
    elif decision.action is not Action.KEEP:
        after = max(0, part.size_bytes - saved)
    return Outcome(
        part_id=part.id,
        action=decision.action,
        reason=decision.reason,
        bytes_before=part.size_bytes,
        bytes_after=after,
    )


def _in_order(
    sheet: WeightSheet, decisions: Mapping[str, Decision], outcomes: dict[str, Outcome], size: int
) -> tuple[Outcome, ...]:
    """One outcome a part; structure takes what the others leave of the new file's size."""
    rest = max(0, size - sum(outcome.bytes_after for outcome in outcomes.values()))
    return tuple(
        outcomes.get(part.id)
        or Outcome(
            part_id=part.id,
            action=Action.PACK,
            reason=decisions[part.id].reason,
            bytes_before=part.size_bytes,
            bytes_after=rest,
        )
        for part in sheet.parts
    )
