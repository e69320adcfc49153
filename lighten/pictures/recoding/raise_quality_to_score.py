"""More quality for a picture that looks worse than its treatment promises."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from lighten.pictures.coding.coded import Coding, Holder, decode_coded
from lighten.pictures.coding.decode import decode
from lighten.pictures.recoding.candidates import DECODE_MARGIN, Candidate
from lighten.pictures.recoding.recode_job import RecodeJob, cut_out, within_cut
from lighten.pictures.scores.places_seen import places_seen
from lighten.pictures.scores.visible_loss import Judge

__all__ = ["foresee_raised", "raise_quality_to_score"]

# What is tried in turn: sides by so much, quality by so much more; what quality alone may make up.
_STEPS = ((1.0, 8), (1.0, 18), (1.4, 0), (1.4, 12), (2.0, 0), (2.0, 12), (99.0, 8))
_TOP_QUALITY, _MOST_BY_QUALITY = 95, 14.0
_LEAST_JUDGED_PX = 24
# Readers resample each in their own way.
_MARGIN = 2.0


def raise_quality_to_score(job: RecodeJob, code: Callable[[RecodeJob], Candidate]) -> Candidate:
    """Recode with as much quality as `treatment.least_score` takes.

    Where quality is not enough, it keeps more pixels. Raises: as `code`.
    """
    quality, shown = job.treatment.quality, within_cut(job.shown_px, job.cut)
    if quality is None or shown is None or not _can_be_judged(job):
        return code(job)
    if job.decoded is None:
        job = replace(job, decoded=decode(job.picture, at_least=_enough(job, shown)))
    candidate = code(job)
    if candidate.coded.coding is not Coding.JPEG:
        return candidate
    assert job.decoded is not None
    original = cut_out(job, job.decoded if job.reference is None else job.reference)
    size = (min(original.shape[1], shown[0]), min(original.shape[0], shown[1]))
    if min(size) < _LEAST_JUDGED_PX:
        return candidate
    judge = Judge(places_seen(original, size))
    for finer in _finer_jobs(job):
        missing = (
            job.treatment.least_score
            + _MARGIN
            - judge.score(places_seen(decode_coded(candidate.coded), size))
        )
        if missing <= 0:
            break
        has_more_pixels = job.target_px is not None
        if has_more_pixels and finer.target_px == job.target_px and missing > _MOST_BY_QUALITY:
            continue
        candidate = code(finer)
    return candidate


def foresee_raised(
    score_at: Callable[[int, int], float],
    *,
    width_px: int,
    whole_px: int,
    quality: int,
    least_score: float,
) -> tuple[int, int]:
    """Return the width and quality that `raise_quality_to_score` is likely to end at.

    score_at: predicted score of a width and a quality. width_px: as ordered; whole_px: of the
    picture as it is stored.
    """
    ordered = width_px, quality
    for share, more in _STEPS:
        missing = least_score + _MARGIN - score_at(width_px, quality)
        is_whole = ordered[0] >= whole_px
        if missing <= 0 or (is_whole and share > 1):
            break
        finer = min(whole_px, round(ordered[0] * share))
        if not is_whole and finer == ordered[0] and missing > _MOST_BY_QUALITY:
            continue
        width_px, quality = finer, min(_TOP_QUALITY, ordered[1] + more)
    return width_px, quality


def _finer_jobs(job: RecodeJob) -> Iterator[RecodeJob]:
    """The job with more quality, then with more pixels."""
    quality, target = job.treatment.quality, job.target_px
    left, _, right, _ = job.cut or (0.0, 0.0, 1.0, 1.0)
    assert quality is not None
    for share, more in _STEPS:
        if target is None and share > 1:
            return
        finer = replace(job.treatment, quality=min(_TOP_QUALITY, quality + more))
        size = None
        if target is not None:
            width, height = (round(side * share) for side in target)
            size = (width, height) if width < (right - left) * job.picture.width_px else None
        # What was decoded for fewer pixels may be too coarse.
        decoded = job.decoded if size == target else job.reference
        yield replace(job, treatment=finer, target_px=size, decoded=decoded)


def _can_be_judged(job: RecodeJob) -> bool:
    """Return whether scores apply: no inks, and no changed look."""
    picture = job.picture
    is_plain = picture.colours in (1, 3) and not (
        picture.is_foreign
        or picture.is_stretched
        or picture.is_mask
        # In a file, what is see-through anywhere does not become JPEG.
        or (picture.has_opacity and job.holder is not Holder.FILE)
    )
    is_same = not job.treatment.changes_looks and job.replacement is None
    has_floor = job.treatment.least_score > 0 and not job.is_exact
    return has_floor and is_plain and is_same and picture.colour_key is None


def _enough(job: RecodeJob, shown: tuple[int, int]) -> tuple[int, int] | None:
    if job.target_px is None or job.cut is not None:
        return None
    width, height = (max(sides) for sides in zip(job.target_px, shown, strict=True))
    return round(width * DECODE_MARGIN), round(height * DECODE_MARGIN)
