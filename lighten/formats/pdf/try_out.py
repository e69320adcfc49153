"""Pictures coded quickly by several decisions each: what they would weigh and look like."""

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.coding_store import CodingStore
from lighten.contract import Source
from lighten.formats.pdf.decode_pictures import decode
from lighten.formats.pdf.documents import open_pdf
from lighten.formats.pdf.inline_pictures import lift_inline_pictures
from lighten.formats.pdf.recode import Recoded, RecodeJob, recode
from lighten.formats.pdf.rewrite_pictures import recode_job, saved_bytes
from lighten.formats.pdf.stored_codings import job_key, store_recoded
from lighten.parallel import open_workers
from lighten.pictures.encode import decode_coded
from lighten.pictures.resample import resample
from lighten.pictures.sizes import pixels_at
from lighten.pictures.visible_loss import Judge, tiles
from lighten.plans import Decision
from lighten.treatments import ColourChange, PictureCoding
from lighten.trials import Trial, decision_key, is_plain
from lighten.weights import Part, PictureClass, PictureFacts, WeightSheet

__all__ = ["try_out_pictures"]

# How fine a screen shows pages that are looked at closely.
_JUDGED_PPI = 150.0
_MANY_BYTES = 300_000
_UNCHANGED = 100.0
# A draft looks that much better than its final coding, which throws away more of what hardly
# shows: 4.2 at quality 45, 1.9 at 85, give or take 2 (118 codings of pictures of 8 documents).
_FLATTERY_AT_NONE, _FLATTERY_SLOPE = 6.8, 0.058
_FLATTERY_OF_DRAWINGS = 1.6
# A reduced decoding is resampled from a little more than it needs.
_DECODE_MARGIN = 1.3


@dataclass(frozen=True, slots=True, kw_only=True)
class _TryJob:
    """One picture and the codings to make of it.

    codings: with whether each is to be scored. shown_px: width and height to judge it at.
    """

    codings: tuple[tuple[RecodeJob, bool], ...]
    shown_px: tuple[int, int] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Tried:
    """saved_bytes: off the part. recoded: what came of it, where it was coded for good."""

    saved_bytes: int
    score: float | None
    recoded: Recoded | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """One decision, where the store keeps what it leads to, and that, if it is known."""

    decision: Decision
    key: str
    known: _Tried | None


def try_out_pictures(
    source: Source,
    sheet: WeightSheet,
    asked: Mapping[str, tuple[Decision, ...]],
    store: CodingStore | None,
    *,
    for_good: bool,
) -> Iterator[tuple[str, tuple[Trial, ...]]]:
    """The trials of each picture in `asked`, by part id, in its order.

    for_good: coded as a copy will have them, and kept in the store for it; else as drafts.
    """
    with (
        open_pdf(source) as pdf,
        open_workers(None if sheet.size_bytes > _MANY_BYTES else 1) as workers,
    ):
        parts = [sheet.part(part_id) for part_id in asked]
        if any(part.picture and part.picture.is_inline for part in parts):
            lift_inline_pictures(pdf)
        waiting: list[tuple[Part, list[_Asked]]] = []

        def jobs() -> Iterator[_TryJob]:
            for part in parts:
                job, entries = _prepare(pdf, part, asked[part.id], store, is_draft=not for_good)
                waiting.append((part, entries))
                yield job

        for fresh in workers.run(_try_picture, jobs()):
            part, entries = waiting.pop(0)
            yield part.id, tuple(_trials(part, entries, fresh, store, for_good=for_good))


def _prepare(
    pdf: pikepdf.Pdf,
    part: Part,
    decisions: tuple[Decision, ...],
    store: CodingStore | None,
    *,
    is_draft: bool,
) -> tuple[_TryJob, list[_Asked]]:
    """The codings that nobody has made before, and what is known of all."""
    assert part.picture is not None
    codings, entries = [], []
    for decision in decisions:
        job = replace(recode_job(pdf, part, decision, set()), is_draft=is_draft)
        key = job_key(job) if store is not None else ""
        known = _recall(store, key, part.picture)
        entries.append(_Asked(decision=decision, key=key, known=known))
        if known is None:
            codings.append((job, _can_be_judged(decision)))
    return _TryJob(codings=tuple(codings), shown_px=_shown_px(part.picture)), entries


def _can_be_judged(decision: Decision) -> bool:
    """What is meant to look otherwise cannot be held against its original, but for grey."""
    wanted = decision.picture
    if wanted is None or decision.cut is not None or decision.replacement is not None:
        return False
    return not wanted.filters and wanted.colour in (
        ColourChange.KEEP,
        ColourChange.RGB,
        ColourChange.GREY,
        ColourChange.EXACT_PALETTE,
    )


def _shown_px(facts: PictureFacts) -> tuple[int, int] | None:
    shown = facts.largest_display_pt
    return None if shown is None else pixels_at(shown, _JUDGED_PPI)


def _trials(
    part: Part,
    entries: list[_Asked],
    fresh: list[_Tried],
    store: CodingStore | None,
    *,
    for_good: bool,
) -> Iterator[Trial]:
    assert part.picture is not None
    for entry in entries:
        tried, decision = entry.known, entry.decision
        if tried is None:
            tried = fresh.pop(0)
            _remember(store, entry.key, part.picture, tried)
        assert decision.picture is not None
        yield Trial(
            key=decision_key(decision),
            size_bytes=max(0, part.size_bytes - tried.saved_bytes),
            width_px=(decision.target_px or (part.picture.width_px,))[0],
            quality=decision.picture.quality,
            is_plain=is_plain(decision),
            score=tried.score,
            is_final=for_good,
        )


def _figures_key(key: str, facts: PictureFacts) -> str:
    """Looks depend on the size it is shown at."""
    return f"{key}:{facts.largest_display_pt}"


def _recall(store: CodingStore | None, key: str, facts: PictureFacts) -> _Tried | None:
    stored = store.get(_figures_key(key, facts)) if store is not None and key else None
    if stored is None:
        return None
    saved_bytes, score = json.loads(stored)
    return _Tried(saved_bytes=saved_bytes, score=score)


def _remember(store: CodingStore | None, key: str, facts: PictureFacts, tried: _Tried) -> None:
    if store is None or not key:
        return
    store.put(_figures_key(key, facts), json.dumps((tried.saved_bytes, tried.score)).encode())
    if tried.recoded is not None:
        store.put(key, store_recoded(tried.recoded))


def _try_picture(job: _TryJob) -> list[_Tried]:
    """Every coding of one picture, which is decoded once for all."""
    if not job.codings:
        return []
    decoded = _decoded_for_all([coding for coding, _ in job.codings], job.shown_px)
    judges: dict[bool, Judge] = {}
    smaller: list[NDArray[np.uint8]] = [] if decoded is None else [decoded]
    tried = []
    for coding, is_judged in job.codings:
        pixels = decoded
        if decoded is not None and coding.wanted.coding is PictureCoding.JPEG:
            # Several qualities of one size are resampled once.
            pixels = _smaller(smaller, coding.target_px)
        # For good, each is decoded as the copy would have it decoded.
        recoded = recode(replace(coding, decoded=pixels) if coding.is_draft else coding)
        score = None
        if is_judged and decoded is not None and job.shown_px is not None:
            is_grey = coding.wanted.colour is ColourChange.GREY
            if is_grey not in judges:
                judges[is_grey] = _judge(decoded, job.shown_px, is_grey=is_grey)
            score = _score(recoded, judges[is_grey], _size(decoded, job.shown_px))
            if coding.is_draft and score < _UNCHANGED:
                score -= _flattery(coding)
        tried.append(
            _Tried(
                saved_bytes=saved_bytes(coding, recoded),
                score=score,
                recoded=None if coding.is_draft else recoded,
            )
        )
    return tried


def _flattery(coding: RecodeJob) -> float:
    """How much better a draft looks than its final coding will."""
    points = max(0.0, _FLATTERY_AT_NONE - _FLATTERY_SLOPE * (coding.wanted.quality or 100))
    is_drawn = coding.picture_class is PictureClass.GRAPHIC
    return points * _FLATTERY_OF_DRAWINGS if is_drawn else points


def _decoded_for_all(
    codings: list[RecodeJob], shown_px: tuple[int, int] | None
) -> NDArray[np.uint8] | None:
    """The pixels, as fine as the finest coding and the judge need them.

    None where each decodes for itself.
    """
    picture = codings[0].picture
    if picture.colour_key is not None or any(one.cut or one.replacement for one in codings):
        return None
    targets = [one.target_px for one in codings if one.target_px is not None]
    at_least = None
    if len(targets) == len(codings):
        # A judge of less than is shown would not see what is lost.
        width, height = max([*targets, shown_px or (1, 1)])
        at_least = (round(width * _DECODE_MARGIN), round(height * _DECODE_MARGIN))
    try:
        return decode(picture, at_least=at_least)
    except (ValueError, OSError, MemoryError):
        return None


def _smaller(made: list[NDArray[np.uint8]], size: tuple[int, int] | None) -> NDArray[np.uint8]:
    """The picture at that size, from the smallest made before that is no smaller; it is added."""
    if size is None:
        return made[0]
    larger = [one for one in made if one.shape[1] >= size[0] and one.shape[0] >= size[1]]
    found = resample(min(larger, key=lambda one: one.size, default=made[0]), size)
    made.append(found)
    return found


def _size(decoded: NDArray[np.uint8], shown_px: tuple[int, int]) -> tuple[int, int]:
    """Where it is judged: as it is shown, but no larger than it is."""
    height, width = decoded.shape[:2]
    return min(width, shown_px[0]), min(height, shown_px[1])


def _judge(decoded: NDArray[np.uint8], shown_px: tuple[int, int], *, is_grey: bool) -> Judge:
    pieces = _seen(_as_light(decoded), _size(decoded, shown_px))
    return Judge([_grey(piece) for piece in pieces] if is_grey else pieces)


def _score(recoded: Recoded, judge: Judge, size: tuple[int, int]) -> float:
    """Of the new picture as the page shows it; 100 where the old one stays."""
    if recoded.picture is None or recoded.picture.likeness == 1.0:
        return 100.0
    return judge.score(_seen(_as_light(decode_coded(recoded.picture)), size))


def _seen(pixels: NDArray[np.uint8], size: tuple[int, int]) -> list[NDArray[np.uint8]]:
    """A few places of the picture, as a page viewer brings it to `size`."""
    from PIL import Image

    image = Image.fromarray(pixels)
    across, down = image.width / size[0], image.height / size[1]
    return [
        np.asarray(
            image.resize(
                (right - left, bottom - top),
                Image.Resampling.BICUBIC,
                box=(left * across, top * down, right * across, bottom * down),
            )
        )
        for left, top, right, bottom in tiles(size)
    ]


def _as_light(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Inks roughly as they look: enough to compare two codings of the same."""
    if pixels.ndim == 2 or pixels.shape[2] == 3:
        return pixels
    if pixels.shape[2] == 4:
        paper = 255 - pixels.astype(np.uint16)
        return (paper[..., :3] * paper[..., 3:] // 255).astype(np.uint8)
    return np.asarray(255 - pixels.max(axis=2), np.uint8)


def _grey(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    from PIL import Image

    if pixels.ndim == 2:
        return pixels
    return np.asarray(Image.fromarray(pixels).convert("L"))
