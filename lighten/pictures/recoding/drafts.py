"""Pictures coded in several ways each, quickly or for good: what they would weigh and look like."""

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import ColourChange
from lighten.parallel import Workers
from lighten.pictures.coding.coded import Holder
from lighten.pictures.coding.decode import UNREADABLE, decode, decode_on_white
from lighten.pictures.pixels.resample import resample
from lighten.pictures.recoding.candidates import DECODE_MARGIN
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.judge_recoded import (
    UNCHANGED,
    can_be_judged,
    judge_of,
    judged_size,
    score_of,
)
from lighten.pictures.recoding.recode import Recoded, RecodeJob, recode, saved_bytes
from lighten.pictures.recoding.recoded_bytes import job_key
from lighten.pictures.scores.visible_loss import Judge
from lighten.pictures.words.readable_size import readable_px

__all__ = ["Draft", "DraftJob", "draft_all"]

# A draft looks that much better than its final coding, which throws away more of what hardly
# shows: 4.2 at quality 45, 1.9 at 85, give or take 2 (118 codings of pictures of 8 documents).
_FLATTERY_AT_NONE, _FLATTERY_SLOPE = 6.8, 0.058
_FLATTERY_OF_DRAWINGS = 1.6

Pixels = NDArray[np.uint8]
Size = tuple[int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftJob:
    """One picture and the codings to make of it.

    codings: drafts, or for good, as each says itself. shown_px: width and height to judge them at,
    or None not to. seeks_words: how many pixels its words need is to be found out. words_px: so
    many, where that is known.
    """

    codings: tuple[RecodeJob, ...]
    shown_px: Size | None
    seeks_words: bool = False
    words_px: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """saved_bytes: off the part. score: by SSIMULACRA2, or None where nobody can say.

    recoded: what came of it, where it was coded for good. words_px: see `Trial`.
    """

    saved_bytes: int
    score: float | None
    recoded: Recoded | None = None
    words_px: int = 0


def draft_all(
    jobs: Iterable[DraftJob], workers: Workers, cache: CodingCache | None
) -> Iterator[tuple[Draft, ...]]:
    """Yield the results of the codings of each job, in order, from the cache where possible."""
    waiting: list[tuple[list[str], list[Draft | None]]] = []

    def jobs_to_do() -> Iterator[DraftJob]:
        for job in jobs:
            keys = [
                _key(coding, job.shown_px) if cache is not None else "" for coding in job.codings
            ]
            kept = [_recall(cache, key) for key in keys]
            waiting.append((keys, kept))
            missing = zip(job.codings, kept, strict=True)
            yield replace(job, codings=tuple(coding for coding, draft in missing if draft is None))

    for made in workers.in_threads(_draft_picture, jobs_to_do()):
        keys, kept = waiting.pop(0)
        fresh = list(made)
        drafts = []
        for key, kept_draft in zip(keys, kept, strict=True):
            draft = kept_draft or fresh.pop(0)
            if kept_draft is None and cache is not None:
                _remember(cache, key, draft)
            drafts.append(draft)
        yield tuple(drafts)


def _key(coding: RecodeJob, shown_px: Size | None) -> str:
    """Return the cache key; scores depend on the shown size."""
    key = job_key(coding)
    return f"{key}:{shown_px}:3" if key else ""


def _recall(cache: CodingCache | None, key: str) -> Draft | None:
    kept = cache.get(key) if cache is not None and key else None
    if kept is None:
        return None
    saved, score, words_px = json.loads(kept)
    return Draft(saved_bytes=saved, score=score, words_px=words_px)


def _remember(cache: CodingCache, key: str, draft: Draft) -> None:
    if not key:
        return
    cache.put(key, json.dumps((draft.saved_bytes, draft.score, draft.words_px)).encode())
    if draft.recoded is not None:
        cache.keep(key.partition(":")[0], draft.recoded)


def _draft_picture(job: DraftJob) -> tuple[Draft, ...]:
    """Every coding of one picture, which is decoded once for all."""
    if not job.codings:
        return ()
    decoded = _decoded_for_all(job.codings, job.shown_px)
    words_px = job.words_px
    if job.seeks_words:
        words_px = readable_px(replace(job.codings[0], cut=None))
    judges: dict[bool, Judge] = {}
    smaller: list[Pixels] = [] if decoded is None else [decoded]
    drafts = []
    for coding in job.codings:
        pixels = decoded
        if decoded is not None and coding.treatment.coding is PictureCoding.JPEG:
            # Several qualities of one size are resampled once.
            pixels = _smaller(smaller, coding.target_px)
        # For good, each is decoded as the copy would have it decoded.
        if coding.cut is None and coding.words_px is None:
            coding = replace(coding, words_px=words_px)  # noqa: PLW2901
        at_hand = replace(coding, decoded=pixels, reference=decoded)
        recoded = recode(at_hand if coding.is_draft else coding)
        score = None
        if decoded is not None and job.shown_px is not None and can_be_judged(coding):
            is_grey = coding.treatment.colour is ColourChange.GREY
            if is_grey not in judges:
                judges[is_grey] = judge_of(
                    decoded, job.shown_px, is_grey=is_grey, profile=coding.picture.profile
                )
            score = score_of(
                recoded,
                judges[is_grey],
                judged_size(decoded, job.shown_px),
                coding.picture.profile,
            )
            if coding.is_draft and score < UNCHANGED:
                score -= _flattery(coding)
        drafts.append(
            Draft(
                saved_bytes=saved_bytes(coding, recoded),
                score=score,
                recoded=None if coding.is_draft else recoded,
                words_px=words_px or 0,
            )
        )
    return tuple(drafts)


def _flattery(coding: RecodeJob) -> float:
    """Return the score that a draft has over its final coding."""
    points = max(0.0, _FLATTERY_AT_NONE - _FLATTERY_SLOPE * (coding.treatment.quality or 100))
    is_drawn = coding.picture_class is PictureClass.GRAPHIC
    return points * _FLATTERY_OF_DRAWINGS if is_drawn else points


def _decoded_for_all(codings: tuple[RecodeJob, ...], shown_px: Size | None) -> Pixels | None:
    """Decode at the resolution that the finest encoding and the judge need.

    None where each decodes for itself.
    """
    picture = codings[0].picture
    if picture.colour_key is not None or any(
        coding.cut or coding.replacement for coding in codings
    ):
        return None
    targets = [coding.target_px for coding in codings if coding.target_px is not None]
    at_least = None
    if len(targets) == len(codings):
        # A judge of less than is shown would not see what is lost.
        width, height = max([*targets, shown_px or (1, 1)])
        at_least = (round(width * DECODE_MARGIN), round(height * DECODE_MARGIN))
    try:
        if picture.has_opacity and codings[0].holder is Holder.FILE:
            return decode_on_white(picture)
        return decode(picture, at_least=at_least)
    except UNREADABLE:
        return None


def _smaller(made: list[Pixels], size: Size | None) -> Pixels:
    """The picture at that size, from the smallest made before that is no smaller; it is added."""
    if size is None:
        return made[0]
    larger = [
        larger_pixels
        for larger_pixels in made
        if larger_pixels.shape[1] >= size[0] and larger_pixels.shape[0] >= size[1]
    ]
    resampled = resample(
        min(larger, key=lambda larger_pixels: larger_pixels.size, default=made[0]), size
    )
    made.append(resampled)
    return resampled
