"""A PDF opened to be changed, and written anew beside the original."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import cast

import pikepdf

from lighten.codecs.flate import pack
from lighten.contract import FileKind
from lighten.formats.pdf.extras.drop_extras import drop_extras
from lighten.formats.pdf.fonts.rewrite_fonts import rewrite_fonts
from lighten.formats.pdf.kind import PDF
from lighten.formats.pdf.objects.classify_objects import drawing_objects
from lighten.formats.pdf.objects.object_graph import reachable_objects
from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.open_file import is_signed, open_pdf
from lighten.formats.pdf.objects.part_ids import part_object, part_object_id
from lighten.formats.pdf.objects.values import text_of
from lighten.formats.pdf.objects.write_file import save_pdf
from lighten.formats.pdf.pages.simplify_paths import simplify_strokes
from lighten.formats.pdf.pictures.inline_pictures import lift_inline_pictures
from lighten.formats.pdf.pictures.put_pictures import put_picture
from lighten.formats.pdf.pictures.recode_jobs import recode_job
from lighten.formats.pdf.pictures.straightened_scans import can_turn, turn_along
from lighten.model.errors import SignedFileError, UnreadableFileError
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.plans import Action, Decision, Outcome, Plan
from lighten.model.source import Source
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers
from lighten.pictures.pixels.find_skew import with_skew
from lighten.pictures.recoding.recode import Recoded
from lighten.pictures.recoding.recode_job import RecodeJob

__all__ = ["PdfEditing", "edit_pdf"]

# Starting other processes takes longer than packing less than that.
_MANY_BYTES = 1_000_000
_PACKED_TOGETHER = 40


@contextmanager
def edit_pdf(source: Source, sheet: WeightSheet) -> Iterator["PdfEditing"]:
    """The file opened; nothing is written before `save`. Raises: as `open_pdf`."""
    with open_pdf(source) as pdf:
        yield PdfEditing(pdf, source, sheet)


class PdfEditing:
    """See `lighten.contract.Editing`."""

    def __init__(self, pdf: pikepdf.Pdf, source: Source, sheet: WeightSheet) -> None:
        self._pdf, self._source, self._sheet = pdf, source, sheet
        self._mask_owners: dict[ObjectId, str] = {}
        self._has_lifted = False

    def leave_out(self, plan: Plan) -> Mapping[str, Outcome]:
        """Drop the plan's dropped objects; return outcomes of pictures that something in the file
        still holds.
        """
        if is_signed(self._pdf) and not plan.may_end_signature:
            raise SignedFileError(
                f"{self._source.name}: it is signed, or carries rights a signature grants, and any "
                "change ends that. Allow it explicitly to make a copy all the same."
            )
        if _treats_inline_pictures(self._sheet, plan):
            self._lift()
        _drop_extras(self._pdf, self._sheet, plan)
        return _still_held(self._pdf, self._sheet, plan)

    def job(self, part: Part, decision: Decision) -> RecodeJob:
        if part.picture is not None and part.picture.is_inline:
            self._lift()
        try:
            job = recode_job(
                self._pdf,
                part,
                decision,
                self._mask_owners,
                may_be_jbig2=self._sheet.rules.allows_jbig2,
            )
            return with_skew(job) if can_turn(part) else job
        except pikepdf.PdfError as error:
            raise UnreadableFileError(f"{part.name}: cannot be read ({error}).") from error

    def put(self, part: Part, recoded: Recoded) -> int:
        picture = cast(pikepdf.Stream, part_object(self._pdf, part.id))
        saved = put_picture(self._pdf, picture, recoded)
        if recoded.turned_degrees:
            turn_along(self._pdf, part, recoded.turned_degrees)
        return saved

    def apply_rest(self, plan: Plan, workers: Workers) -> Mapping[str, Outcome]:
        """Apply the plan to fonts, drawing and packing."""
        outcomes = dict(rewrite_fonts(self._pdf, self._sheet, plan, workers))
        saved_on_drawing = simplify_strokes(self._pdf, plan.drawing)
        saved = _pack_streams(self._pdf, workers)
        saved_on_drawing += sum(saved.get(object_id, 0) for object_id in drawing_objects(self._pdf))
        decisions = plan.by_part()
        for part in self._sheet.parts:
            if part.kind in (PartKind.STRUCTURE, PartKind.PICTURE) or part.id in outcomes:
                continue
            packed = saved_on_drawing
            if part.kind is PartKind.FONT:
                packed = saved.get(part_object_id(part.id), 0)
            outcome = _plain_outcome(part, decisions[part.id], packed)
            if part.kind is PartKind.DRAWING:
                outcome = replace(outcome, changes_looks=plan.drawing.constant_width)
            outcomes[part.id] = outcome
        return outcomes

    def save(self, plan: Plan, out: Path) -> FileKind:
        save_pdf(self._pdf, out, is_linearized=plan.is_linearized)
        return PDF

    def _lift(self) -> None:
        """Turn pictures inside page drawing into objects, once."""
        if not self._has_lifted:
            lift_inline_pictures(self._pdf)
            self._has_lifted = True


def _treats_inline_pictures(sheet: WeightSheet, plan: Plan) -> bool:
    """Return whether inline pictures are re-encoded, or stored once where they repeat."""
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
    dropped = plan.dropped_extras(sheet)
    if any(part.picture and decisions[part.id].action is Action.DROP for part in sheet.parts):
        dropped.add(ExtraKind.UNUSED)
    drop_extras(pdf, dropped)


def _still_held(pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan) -> dict[str, Outcome]:
    """Return pictures that no page shows and that something else still refers to: they stay."""
    decisions = plan.by_part()
    dropped = [
        part for part in sheet.parts if part.picture and decisions[part.id].action is Action.DROP
    ]
    held = reachable_objects(pdf) if dropped else set()
    return {
        part.id: Outcome(
            part_id=part.id,
            action=Action.KEEP,
            reason="kept: no page shows it, but something in the file points to it",
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

    for batch in workers.in_threads(_pack_all, batches()):
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
    """Return plain and Flate streams with their content, without pictures and metadata.

    Descriptions (XMP) stay readable without a PDF reader, as ISO 32000-1, 14.3.2 advises.
    """
    for stream in list(pdf.objects):
        if not isinstance(stream, pikepdf.Stream) or stream.get("/Subtype") == "/Image":
            continue
        if text_of(stream.get("/Type", "")) in ("/Metadata", "/XRef", "/ObjStm"):
            continue
        if text_of(stream.get("/Filter", "/FlateDecode")) != "/FlateDecode":
            continue
        if "/F" in stream:
            continue
        try:
            content = stream.read_bytes()
        except pikepdf.PdfError:
            continue
        yield stream, content


def _plain_outcome(part: Part, decision: Decision, saved: int) -> Outcome:
    """Return the outcome of a part that is no treated picture; `saved` counts if packed."""
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
