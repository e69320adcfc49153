"""One picture made lighter; runs in a worker process."""

from dataclasses import dataclass, replace

from lighten.codecs.flate import Effort
from lighten.codecs.jpeg import coarseness, coarseness_at
from lighten.model.kinds import PictureCoding
from lighten.model.plans import Action
from lighten.model.treatments import ColourChange, PictureTreatment
from lighten.pictures.coding.coded import CodedPicture, Coding
from lighten.pictures.coding.decode import UNREADABLE, decode
from lighten.pictures.coding.encode_exactly import encode_exactly
from lighten.pictures.coding.layered import LayeredPicture
from lighten.pictures.coding.repack import repack
from lighten.pictures.coding.stored import StoredCoding
from lighten.pictures.pixels.filters import LEAST_SKEW_DEGREES
from lighten.pictures.pixels.resample import resample
from lighten.pictures.recoding.candidates import (
    Candidate,
    best_candidate,
    can_be_exact,
    exact_candidate,
)
from lighten.pictures.recoding.raise_quality_to_score import raise_quality_to_score
from lighten.pictures.recoding.recode_job import Cut, RecodeJob, cut_out
from lighten.pictures.scans.code_layers import code_layers
from lighten.pictures.words.readable_size import with_readable_size

__all__ = ["RecodeJob", "Recoded", "recode", "saved_bytes", "worth_coding_below"]

# Coding again costs a little sharpness each time, so it must be worth it; what was exact, and may
# be packed tighter as it is, loses more than that.
_LEAST_LOSSY_GAIN, _LEAST_GAIN_OF_EXACT = 0.06, 0.25
# Layers that weigh more of their page than that won little: strokes of coarse, worn print take as
# much as a picture of them does.
_WORTH_LAYING_APART = 0.65
# A quick packing estimates the slow one within 3 %: the slow one is tried where that share of the
# picture's bytes, or less, is estimated.
_WORTH_PACKING = 0.99
_JPEG_IF_BEST = (PictureCoding.AUTOMATIC, PictureCoding.JPEG)
_NOT_LIGHTER = "kept: re-encoding is not smaller"
_CODING_TITLES = {
    Coding.JPEG: "JPEG",
    Coding.JPEG_2000: "JPEG 2000",
    Coding.GROUP_4: "Group 4",
    Coding.JBIG2: "JBIG2",
    Coding.WEBP: "WebP",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoded:
    """Result of a job: the new picture and mask, each None where the old one stays.

    has_plain_colours: the picture left its colour space for plain grey or red, green, blue.
    has_new_mask: `mask` takes the place of a colour key, or of opacity inside the old coding.
    cut: the part of the old picture that the new one shows, or None for all of it.
    layers: what takes the place of the picture, instead of `picture`. turned_degrees: with the
    clock, where straightening turned it by the job's skew.
    """

    action: Action
    reason: str
    picture: CodedPicture | None = None
    mask: CodedPicture | None = None
    has_plain_colours: bool = False
    has_new_mask: bool = False
    cut: Cut | None = None
    layers: LayeredPicture | None = None
    turned_degrees: float = 0.0


def recode(job: RecodeJob) -> Recoded:
    """The picture as the job asks, or as it was, with the reason; never heavier, never raises."""
    try:
        layers = code_layers(job) if job.treatment.coding is PictureCoding.LAYERS else None
        if layers is not None and layers.weight < _WORTH_LAYING_APART * job.picture.weight:
            return replace(_layered(layers), turned_degrees=_turned(job))
        job, words = with_readable_size(job)
        recoded = _recode(job)
        reason = ", ".join(filter(None, (words, recoded.reason)))
        return replace(recoded, reason=reason, turned_degrees=_turned(job))
    except UNREADABLE as error:
        return Recoded(action=Action.KEEP, reason=f"kept: its bytes cannot be decoded ({error})")


def _turned(job: RecodeJob) -> float:
    skew = job.skew or 0.0
    return skew if abs(skew) >= LEAST_SKEW_DEGREES else 0.0


def worth_coding_below(treatment: PictureTreatment, *, is_lossy: bool) -> float:
    """Return the share of its bytes that a lossy encoding must stay below.

    is_lossy: it has been coded with loss before. For a limit, all that saves is worth it.
    """
    promises_looks = treatment.least_score > 0
    return 1 - (_LEAST_GAIN_OF_EXACT if promises_looks and not is_lossy else _LEAST_LOSSY_GAIN)


def saved_bytes(job: RecodeJob, recoded: Recoded) -> int:
    """Return the bytes saved by the result; below zero if it adds."""
    saved = 0
    if recoded.mask is not None:
        saved += 0 if recoded.has_new_mask or job.mask is None else job.mask.weight
        saved -= recoded.mask.weight
    if recoded.picture is not None:
        saved += job.picture.weight - recoded.picture.weight
    if recoded.layers is not None:
        saved += job.picture.weight - recoded.layers.weight
    return saved


def _recode(job: RecodeJob) -> Recoded:
    if job.may_repack and (_asks_nothing_new(job) or _is_coarse_enough(job)):
        return _repacked(job)
    candidate = raise_quality_to_score(job, best_candidate)
    coded = candidate.coded
    now = job.picture.weight
    is_exact = coded.likeness == 1.0 and not candidate.is_resampled
    is_asked_for = job.treatment.changes_looks or job.replacement is not None
    is_lossy = job.picture.is_lossy
    enough = now * (
        1.0 if is_exact or is_asked_for else worth_coding_below(job.treatment, is_lossy=is_lossy)
    )
    mask = candidate.visible or _recode_mask(job)
    new_weight = coded.weight + (candidate.visible.weight if candidate.visible else 0)
    if job.has_matte and (mask is None) != (not candidate.is_resampled):
        return Recoded(action=Action.KEEP, reason="kept: its edge is blended with its mask")
    # Trials that others are interpolated from must hold the result, lighter or not.
    is_probe = job.is_draft and job.treatment.coding is PictureCoding.JPEG
    if new_weight >= enough and job.replacement is None and not is_probe:
        # As tight a PNG has just been tried.
        is_tried = coded.coding is Coding.PNG and is_exact and job.picture.bits <= coded.bits
        if job.may_repack and not (is_tried and job.picture.coding is StoredCoding.PNG):
            return _repacked(job)
        if not (is_exact or is_asked_for or is_lossy or job.cut) and can_be_exact(job):
            return _packed_exactly(job)
        return _mask_only(job, mask if candidate.visible is None else None)
    return Recoded(
        action=_action(job, candidate),
        reason=", ".join(_steps(candidate)),
        picture=coded,
        mask=mask,
        has_plain_colours=candidate.has_plain_colours,
        has_new_mask=candidate.visible is not None,
        cut=job.cut,
    )


def _layered(layers: LayeredPicture) -> Recoded:
    steps = ["in layers"]
    if layers.kept:
        steps.append("a picture kept" if layers.kept == 1 else f"{layers.kept} pictures kept")
    if layers.undone:
        places = "a place" if layers.undone == 1 else f"{layers.undone} places"
        steps.append(f"{places} kept as picture, as strokes or colours would have changed")
    return Recoded(action=Action.RECODE, reason=", ".join(steps), layers=layers)


def _packed_exactly(job: RecodeJob) -> Recoded:
    """Code all pixels exactly, as tight as is possible in a short time."""
    # What was decoded for fewer pixels is too coarse.
    job = replace(job, target_px=None, mask_target_px=None, decoded=None)
    mask = None if job.has_matte else _recode_mask(job)
    draft = exact_candidate(replace(job, is_draft=True), Effort.THOROUGH)
    if draft.coded.weight >= _WORTH_PACKING * job.picture.weight:
        return _mask_only(job, mask)
    candidate = draft if job.is_draft else exact_candidate(job, Effort.THOROUGH)
    if candidate.coded.weight >= job.picture.weight:
        return _mask_only(job, mask)
    return Recoded(
        action=Action.RECODE,
        reason=", ".join(_steps(candidate)),
        picture=candidate.coded,
        mask=mask,
    )


def _asks_nothing_new(job: RecodeJob) -> bool:
    """Return whether the same pixels are to be packed tighter, and nothing else."""
    is_same = job.target_px is None and job.cut is None and job.replacement is None
    return job.is_exact and is_same and not job.treatment.changes_looks


def _is_coarse_enough(job: RecodeJob) -> bool:
    """Return whether a JPEG has the target size, and a quality at or below the target.

    Coding it anew would cost looks, and win hardly more than packing it tighter.
    """
    treatment = job.treatment
    keeps_pixels = job.target_px is None and job.cut is None and job.replacement is None
    is_jpeg = job.picture.coding is StoredCoding.JPEG and treatment.coding in _JPEG_IF_BEST
    if not (keeps_pixels and is_jpeg) or treatment.changes_looks or treatment.quality is None:
        return False
    is_probe = job.is_draft and treatment.coding is PictureCoding.JPEG
    if treatment.colour is not ColourChange.KEEP or is_probe:
        return False
    return coarseness(job.picture.data) >= coarseness_at(treatment.quality)


def _repacked(job: RecodeJob) -> Recoded:
    """Repack the picture in its own coding, and its mask."""
    packed = repack(job.picture, is_brief=not job.is_exact, is_draft=job.is_draft)
    if packed is not None and packed.weight >= job.picture.weight:
        packed = None
    mask = None if job.has_matte else _recode_mask(job)
    if packed is None:
        return _mask_only(job, mask)
    reason = "packed tighter, every pixel kept"
    return Recoded(action=Action.RECODE, reason=reason, picture=packed, mask=mask)


def _mask_only(job: RecodeJob, mask: CodedPicture | None) -> Recoded:
    if mask is not None and not job.has_matte and job.cut is None:
        reason = f"its soft mask only; {_NOT_LIGHTER}"
        return Recoded(action=Action.RECODE, reason=reason, mask=mask)
    return Recoded(action=Action.KEEP, reason=_NOT_LIGHTER)


def _action(job: RecodeJob, candidate: Candidate) -> Action:
    if job.replacement is not None:
        return Action.REPLACE
    return Action.RESAMPLE if candidate.is_resampled else Action.RECODE


def _recode_mask(job: RecodeJob) -> CodedPicture | None:
    """Resample the soft mask with its picture, exactly; None if it stays."""
    if job.mask is None or job.mask.bits == 16:
        return None
    try:
        pixels = cut_out(job, decode(job.mask))
    except UNREADABLE:
        if job.cut is not None:
            raise
        return None
    if pixels.ndim != 2:
        return None
    if job.mask_target_px:
        pixels = resample(pixels, job.mask_target_px)
    # A mask is plain grey, without a palette (ISO 32000-1, 11.6.5.3).
    coded = encode_exactly(pixels, may_have_palette=False, effort=job.effort, is_draft=job.is_draft)
    is_needed = job.cut is not None or (job.has_matte and job.target_px is not None)
    return coded if coded.weight < job.mask.weight or is_needed else None


def _steps(candidate: Candidate) -> list[str]:
    """Describe the steps in words."""
    coded = candidate.coded
    if coded.palette is not None:
        coding = f"{len(coded.palette) // coded.colours} colours, exact"
    else:
        is_same = not candidate.is_resampled and coded.likeness == 1.0
        exactly = "packed tighter, every pixel kept" if is_same else "exact coding"
        coding = _CODING_TITLES.get(coded.coding, exactly)
    return [*candidate.steps, coding]
