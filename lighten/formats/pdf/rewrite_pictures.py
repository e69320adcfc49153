"""Pictures coded anew and put in their places."""

from collections.abc import Iterator
from typing import cast

import pikepdf

from lighten.coding_store import CodingStore
from lighten.contract import Progress
from lighten.formats.pdf.colour_spaces import read_colour
from lighten.formats.pdf.looks import picture_alone
from lighten.formats.pdf.recode import Recoded, RecodeJob, recode
from lighten.formats.pdf.spans import ObjectId
from lighten.formats.pdf.stored_codings import job_key, restore_recoded, store_recoded
from lighten.formats.pdf.stored_pictures import (
    StoredPicture,
    read_picture,
    why_untouchable,
)
from lighten.formats.pdf.weigh import part_object
from lighten.parallel import Workers
from lighten.pictures.encode import CodedPicture, Coding
from lighten.plans import Action, Decision, Outcome, Plan
from lighten.treatments import ColourChange
from lighten.weights import Part, WeightSheet

__all__ = ["recode_job", "recode_pictures", "saved_bytes"]

_PLAIN_SPACES = {
    1: pikepdf.Name.DeviceGray,
    3: pikepdf.Name.DeviceRGB,
    4: pikepdf.Name.DeviceCMYK,
}
_TREATED = (Action.RECODE, Action.RESAMPLE, Action.REPLACE)


def recode_pictures(
    pdf: pikepdf.Pdf,
    sheet: WeightSheet,
    plan: Plan,
    workers: Workers,
    progress: Progress,
    *,
    store: CodingStore | None,
) -> dict[str, Outcome]:
    """Recode what the plan says, unless it is in the store; what came of each of those parts."""
    decisions = plan.by_part()
    parts = [part for part in sheet.parts if part.picture and _is_treated(decisions[part.id])]
    masks_done: set[ObjectId] = set()
    outcomes: dict[str, Outcome] = {}

    known: list[tuple[str, Recoded | None]] = []

    def jobs() -> Iterator[RecodeJob | None]:
        for part in parts:
            job = recode_job(pdf, part, decisions[part.id], masks_done)
            key = job_key(job) if store is not None else ""
            known.append((key, _recall(store, key)))
            yield job if known[-1][1] is None else None

    for done, (part, fresh) in enumerate(
        zip(parts, workers.run(_recode_if_any, jobs()), strict=True)
    ):
        key, recalled = known[done]
        recoded = recalled or fresh
        assert recoded is not None
        if recalled is None and store is not None and key:
            store.put(key, store_recoded(recoded))
        known[done] = ("", None)
        decision = decisions[part.id]
        saved = _apply(pdf, cast(pikepdf.Stream, part_object(pdf, part.id)), recoded)
        changes_looks = recoded.action is not Action.KEEP and _changes_looks(decision)
        is_as_planned = recoded.action in (Action.RESAMPLE, Action.REPLACE) or changes_looks
        said = (decision.reason if is_as_planned else "", recoded.reason, decision.remark)
        outcomes[part.id] = Outcome(
            part_id=part.id,
            action=recoded.action,
            reason=", ".join(filter(None, said)),
            bytes_before=part.size_bytes,
            bytes_after=part.size_bytes - saved,
            likeness=recoded.picture.likeness if recoded.picture else None,
            changes_looks=changes_looks,
        )
        progress((done + 1) / len(parts))
    return outcomes


def _recode_if_any(job: RecodeJob | None) -> Recoded | None:
    return None if job is None else recode(job)


def _recall(store: CodingStore | None, key: str) -> Recoded | None:
    stored = store.get(key) if store is not None and key else None
    try:
        return None if stored is None else restore_recoded(stored)
    except (ValueError, KeyError, TypeError):
        return None


def _is_treated(decision: Decision) -> bool:
    return decision.action in _TREATED and decision.picture is not None


def _changes_looks(decision: Decision) -> bool:
    is_restyled = decision.picture is not None and decision.picture.changes_looks
    return is_restyled or decision.replacement is not None


def recode_job(
    pdf: pikepdf.Pdf, part: Part, decision: Decision, masks_done: set[ObjectId]
) -> RecodeJob:
    """The decision with all it needs from the file. masks_done: not to be done again; grows."""
    assert part.picture is not None and decision.picture is not None
    picture = cast(pikepdf.Stream, part_object(pdf, part.id))
    stored = read_picture(picture)
    mask = _mask_to_recode(picture, masks_done)
    target = _within_cut(decision.target_px, decision.cut)
    has_matte = isinstance(picture.get("/SMask"), pikepdf.Stream) and "/Matte" in picture.SMask
    needs_looks = decision.picture.colour is not ColourChange.KEEP and (
        (stored.is_foreign and not stored.profile) or stored.is_stretched
    )
    return RecodeJob(
        picture=stored,
        mask=mask,
        looks=picture_alone(picture) if needs_looks else b"",
        has_matte=has_matte,
        picture_class=part.picture.picture_class,
        target_px=target,
        mask_target_px=_mask_target(stored, mask, target, decision, is_bound=has_matte),
        wanted=decision.picture,
        cut=decision.cut,
        replacement=decision.replacement,
    )


def _within_cut(
    target_px: tuple[int, int] | None, cut: tuple[float, float, float, float] | None
) -> tuple[int, int] | None:
    """The target of the whole picture, as that of the part that stays."""
    if target_px is None or cut is None:
        return target_px
    left, top, right, bottom = cut
    return (
        max(1, round(target_px[0] * (right - left))),
        max(1, round(target_px[1] * (bottom - top))),
    )


def _mask_target(
    stored: StoredPicture,
    mask: StoredPicture | None,
    target_px: tuple[int, int] | None,
    decision: Decision,
    *,
    is_bound: bool,
) -> tuple[int, int] | None:
    """A mask may be finer than its picture: it is brought to no less than the picture's own."""
    if mask is None or target_px is None or decision.target_px is None:
        return None
    if is_bound:  # ISO 32000-1, table 146: Matte asks for equal sizes
        return target_px
    shrink = max(
        target / now
        for target, now in zip(decision.target_px, (stored.width_px, stored.height_px), strict=True)
    )
    whole = (
        min(mask.width_px, max(decision.target_px[0], round(mask.width_px * shrink))),
        min(mask.height_px, max(decision.target_px[1], round(mask.height_px * shrink))),
    )
    return _within_cut(whole, decision.cut)


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


def _apply(pdf: pikepdf.Pdf, picture: pikepdf.Stream, recoded: Recoded) -> int:
    """Put the new bytes in place; how many fewer they are."""
    saved = 0
    if recoded.mask is not None and recoded.has_new_mask:
        mask = pdf.make_stream(b"", Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image)
        saved -= recoded.mask.weight
        _replace(mask, recoded.mask, is_plain=True)
        if "/Mask" in picture:
            del picture.Mask
        picture.SMask = mask
    elif recoded.mask is not None:
        saved += _replace(cast(pikepdf.Stream, picture.SMask), recoded.mask)
    if recoded.picture is not None:
        saved += _replace(picture, recoded.picture, is_plain=recoded.has_plain_colours)
    if recoded.cut is not None:
        _frame(pdf, picture, recoded.cut)
    return saved


def saved_bytes(job: RecodeJob, recoded: Recoded) -> int:
    """What putting the result in place takes off; below zero if it adds."""
    saved = 0
    if recoded.mask is not None:
        saved += 0 if recoded.has_new_mask or job.mask is None else job.mask.weight
        saved -= recoded.mask.weight
    if recoded.picture is not None:
        saved += job.picture.weight - recoded.picture.weight
    return saved


def _replace(stream: pikepdf.Stream, coded: CodedPicture, *, is_plain: bool = False) -> int:
    """The stream holds `coded` from now on; how many bytes lighter it became."""
    before = len(stream.read_raw_bytes())
    is_stencil = bool(stream.get("/ImageMask", False))
    if "/Decode" in stream and (coded.palette is not None or is_plain):
        del stream.Decode  # with a palette the usual one, which counts places otherwise
    for key in ("/DecodeParms", "/DP", "/F", "/SMaskInData"):
        if key in stream:
            del stream[key]
    stream.Width, stream.Height = coded.width_px, coded.height_px
    stream.BitsPerComponent = coded.bits
    if not is_stencil:
        space = read_colour(None if is_plain else stream.get("/ColorSpace"))
        stream.ColorSpace = _colour_object(space.base, space.colours, coded)
    _write(stream, coded)
    return before - coded.weight


def _write(stream: pikepdf.Stream, coded: CodedPicture) -> None:
    match coded.coding:
        case Coding.JPEG:
            stream.write(coded.data, filter=pikepdf.Name.DCTDecode)
        case Coding.JPEG_2000:
            stream.write(coded.data, filter=pikepdf.Name.JPXDecode)
        case Coding.GROUP_4:
            parameters = pikepdf.Dictionary(
                K=-1, Columns=coded.width_px, Rows=coded.height_px, EndOfBlock=True
            )
            stream.write(coded.data, filter=pikepdf.Name.CCITTFaxDecode, decode_parms=parameters)
        case Coding.FLATE if coded.predictor == 1:
            stream.write(coded.data, filter=pikepdf.Name.FlateDecode)
        case Coding.FLATE:
            parameters = pikepdf.Dictionary(
                Predictor=coded.predictor,
                Colors=1 if coded.palette is not None else coded.colours,
                BitsPerComponent=coded.bits,
                Columns=coded.width_px,
            )
            stream.write(coded.data, filter=pikepdf.Name.FlateDecode, decode_parms=parameters)


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


def _frame(
    pdf: pikepdf.Pdf, picture: pikepdf.Stream, cut: tuple[float, float, float, float]
) -> None:
    """The object becomes a form that shows the cut picture where it was in the whole one.

    Whatever draws it draws the form instead, so that no page content has to be changed.
    """
    inner = pdf.make_stream(picture.read_raw_bytes())
    for key in list(picture.keys()):
        if key != "/Length":
            inner[key] = picture[key]
            del picture[key]
    left, top, right, bottom = cut
    drawing = f"q {right - left:.6f} 0 0 {bottom - top:.6f} {left:.6f} {1 - bottom:.6f} cm /P Do Q"
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
    picture.BBox = pikepdf.Array([0, 0, 1, 1])
    picture.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=inner))
    if "/OC" in inner:
        picture.OC = inner.OC
        del inner.OC
    picture.write(drawing.encode())
