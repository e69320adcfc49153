"""A plan carried out: the new PDF, written beside the original."""

import warnings
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import cast

import pikepdf

from lighten.codecs.flate import pack
from lighten.contract import Progress, Source
from lighten.errors import SignedFileError
from lighten.formats.pdf.belongings import drawing_objects
from lighten.formats.pdf.documents import archive_standard, is_signed, open_pdf
from lighten.formats.pdf.recode import Recoded, RecodeJob, recode
from lighten.formats.pdf.spans import ObjectId
from lighten.formats.pdf.stored_pictures import (
    StoredPicture,
    read_colour,
    read_picture,
    why_untouchable,
)
from lighten.formats.pdf.weigh import part_object, part_object_id
from lighten.parallel import Workers, open_workers
from lighten.pictures.encode import CodedPicture, Coding
from lighten.plans import Action, Decision, Outcome, Plan
from lighten.weights import ExtraKind, Part, PartKind, PictureClass, WeightSheet

__all__ = ["write_pdf"]

# Starting other processes takes longer than packing less than that.
_MANY_BYTES = 1_000_000
_PACKED_TOGETHER = 40
_PLAIN_SPACES = {
    1: pikepdf.Name.DeviceGray,
    3: pikepdf.Name.DeviceRGB,
    4: pikepdf.Name.DeviceCMYK,
}


def write_pdf(
    source: Source, sheet: WeightSheet, plan: Plan, out: Path, progress: Progress
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
        _drop_extras(pdf, sheet, plan)
        with open_workers(None if sheet.size_bytes > _MANY_BYTES else 1) as workers:
            outcomes = _recode_pictures(pdf, sheet, plan, workers, progress)
            saved = _pack_streams(pdf, workers)
        saved_on_drawing = sum(saved.get(one, 0) for one in drawing_objects(pdf))
        progress(0.95)
        _save(pdf, out)
        progress(1.0)
    decisions = plan.by_part()
    for part in sheet.parts:
        if part.id not in outcomes and part.kind is not PartKind.STRUCTURE:
            packed = saved_on_drawing
            if part.kind is PartKind.FONT:
                packed = saved.get(part_object_id(part.id), 0)
            outcomes[part.id] = _plain_outcome(part, decisions[part.id], packed)
    return _in_order(sheet, decisions, outcomes, out.stat().st_size)


def _drop_extras(pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan) -> None:
    """Cut the ties to what the plan drops; what nothing leads to is not written."""
    decisions = plan.by_part()
    dropped = {
        part.extra
        for part in sheet.parts
        if part.extra and decisions[part.id].action is Action.DROP
    }
    keys = []
    if ExtraKind.THUMBNAILS in dropped:
        keys.append("/Thumb")
    if ExtraKind.PRIVATE_DATA in dropped:
        keys.append("/PieceInfo")
    if not keys:
        return
    holders = [page.obj for page in pdf.pages] + [pdf.Root]
    forms = (value for value in pdf.objects if isinstance(value, pikepdf.Stream))
    holders += [form for form in forms if form.get("/Subtype") == "/Form"]
    for holder in holders:
        for key in keys:
            if key in holder:
                del holder[key]


def _recode_pictures(
    pdf: pikepdf.Pdf,
    sheet: WeightSheet,
    plan: Plan,
    workers: Workers,
    progress: Progress,
) -> dict[str, Outcome]:
    """Recode what the plan says; what came of each of those parts."""
    decisions = plan.by_part()
    parts = [
        part
        for part in sheet.parts
        if part.picture and decisions[part.id].action in (Action.RECODE, Action.RESAMPLE)
    ]
    masks_done: set[ObjectId] = set()
    outcomes: dict[str, Outcome] = {}

    def jobs() -> Iterator[RecodeJob]:
        for part in parts:
            yield _job(pdf, part, decisions[part.id], masks_done)

    for done, (part, recoded) in enumerate(zip(parts, workers.run(recode, jobs()), strict=True)):
        picture = cast(pikepdf.Stream, part_object(pdf, part.id))
        saved = _apply(picture, recoded)
        reason = recoded.reason
        if recoded.action is Action.RESAMPLE:
            reason = f"{decisions[part.id].reason}, {reason}"
        outcomes[part.id] = Outcome(
            part_id=part.id,
            action=recoded.action,
            reason=reason,
            bytes_before=part.size_bytes,
            bytes_after=part.size_bytes - saved,
            likeness=recoded.picture.likeness if recoded.picture else None,
        )
        progress(0.9 * (done + 1) / len(parts))
    return outcomes


def _job(pdf: pikepdf.Pdf, part: Part, decision: Decision, masks_done: set[ObjectId]) -> RecodeJob:
    assert part.picture is not None
    picture = cast(pikepdf.Stream, part_object(pdf, part.id))
    stored = read_picture(picture)
    mask = _mask_to_recode(picture, masks_done)
    mask_target = None
    if mask is not None and decision.target_px:
        shrink = max(
            target / now
            for target, now in zip(
                decision.target_px, (stored.width_px, stored.height_px), strict=True
            )
        )
        # A mask may be finer than its picture: it is brought to no less than the picture's own.
        mask_target = (
            min(mask.width_px, max(decision.target_px[0], round(mask.width_px * shrink))),
            min(mask.height_px, max(decision.target_px[1], round(mask.height_px * shrink))),
        )
    return RecodeJob(
        picture=stored,
        mask=mask,
        is_page_scan=part.picture.picture_class is PictureClass.PAGE_SCAN,
        target_px=decision.target_px,
        mask_target_px=mask_target,
        quality=decision.quality,
        floor=decision.floor,
    )


def _mask_to_recode(picture: pikepdf.Stream, masks_done: set[ObjectId]) -> StoredPicture | None:
    """The soft mask, unless it was done with another picture already, or has no exact form."""
    mask = picture.get("/SMask")
    if not isinstance(mask, pikepdf.Stream) or mask.objgen in masks_done:
        return None
    masks_done.add(mask.objgen)
    if why_untouchable(mask):
        return None
    stored = read_picture(mask)
    return None if stored.is_lossy else stored


def _apply(picture: pikepdf.Stream, recoded: Recoded) -> int:
    """Put the new bytes in place; how many fewer they are."""
    saved = 0
    if recoded.mask is not None:
        saved += _replace(cast(pikepdf.Stream, picture.SMask), recoded.mask)
    if recoded.picture is not None:
        saved += _replace(picture, recoded.picture)
    return saved


def _replace(stream: pikepdf.Stream, coded: CodedPicture) -> int:
    """The stream holds `coded` from now on; how many bytes lighter it became."""
    before = len(stream.read_raw_bytes())
    space = read_colour(stream.get("/ColorSpace"))
    if coded.palette is not None and "/Decode" in stream:
        del stream.Decode  # the usual one, which counts places in a palette otherwise
    for key in ("/DecodeParms", "/DP"):
        if key in stream:
            del stream[key]
    stream.Width, stream.Height = coded.width_px, coded.height_px
    stream.BitsPerComponent = coded.bits
    stream.ColorSpace = _colour_object(space.base, space.colours, coded)
    if coded.coding is Coding.JPEG:
        stream.write(coded.data, filter=pikepdf.Name.DCTDecode)
    elif coded.predictor == 1:
        stream.write(coded.data, filter=pikepdf.Name.FlateDecode)
    else:
        parameters = pikepdf.Dictionary(
            Predictor=coded.predictor,
            Colors=1 if coded.palette is not None else coded.colours,
            BitsPerComponent=coded.bits,
            Columns=coded.width_px,
        )
        stream.write(coded.data, filter=pikepdf.Name.FlateDecode, decode_parms=parameters)
    return before - coded.weight


def _colour_object(
    base: pikepdf.Object | None, base_colours: int, coded: CodedPicture
) -> pikepdf.Object:
    """The colour space of the new picture: its own, or plain grey where colour has gone."""
    if base is None or base_colours != coded.colours:
        base = _PLAIN_SPACES[coded.colours]
    if coded.palette is None:
        return base
    highest = len(coded.palette) // coded.colours - 1
    return pikepdf.Array([pikepdf.Name.Indexed, base, highest, pikepdf.String(coded.palette)])


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


def _save(pdf: pikepdf.Pdf, out: Path) -> None:
    has_object_streams = not archive_standard(pdf).startswith("PDF/A-1")
    pikepdf.settings.set_flate_compression_level(9)
    with warnings.catch_warnings():
        # About form widgets that were already on their own in the original.
        warnings.simplefilter("ignore", pikepdf.PageCopyWarning)
        _save_quietly(pdf, out, has_object_streams=has_object_streams)


def _save_quietly(pdf: pikepdf.Pdf, out: Path, *, has_object_streams: bool) -> None:
    pdf.save(
        out,
        object_stream_mode=(
            pikepdf.ObjectStreamMode.generate
            if has_object_streams  # ISO 19005-1, 6.1.4: part 1 is PDF 1.4, which has none
            else pikepdf.ObjectStreamMode.disable
        ),
        # The library would rewrite descriptions, and empty those it cannot read.
        fix_metadata_version=False,
        # Encryption draws random numbers; without it the same plan gives the same bytes.
        deterministic_id=not pdf.is_encrypted,
        encryption=True if pdf.is_encrypted else None,
    )


def _plain_outcome(part: Part, decision: Decision, saved: int) -> Outcome:
    """What came of a part that is no treated picture; `saved` counts where it was packed."""
    after = part.size_bytes
    if decision.action is Action.DROP:
        after = 0
    elif decision.action is Action.PACK:
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
