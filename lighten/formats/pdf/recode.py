"""One picture of a PDF made lighter; runs in a worker process."""

from dataclasses import dataclass

from lighten.formats.pdf.attempts import Attempt, Cut, RecodeJob, cut_out, make_attempt
from lighten.formats.pdf.decode_pictures import UNREADABLE, decode
from lighten.pictures.encode import CodedPicture, Coding, encode_exactly
from lighten.pictures.resample import resample
from lighten.plans import Action
from lighten.treatments import PictureCoding

__all__ = ["RecodeJob", "Recoded", "recode"]

# Coding again costs a little sharpness each time, so it must be worth it.
_LEAST_LOSSY_GAIN = 0.06


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoded:
    """What came of it: the new picture and mask, each None where the old one stays.

    has_plain_colours: the picture left its colour space for plain grey or red, green, blue.
    has_new_mask: `mask` takes the place of a colour key, or of opacity inside the old coding.
    cut: the part of the old picture that the new one shows, or None for all of it.
    """

    action: Action
    reason: str
    picture: CodedPicture | None = None
    mask: CodedPicture | None = None
    has_plain_colours: bool = False
    has_new_mask: bool = False
    cut: Cut | None = None


def recode(job: RecodeJob) -> Recoded:
    """The picture as the job asks, or as it was, with the reason; never heavier, never raises."""
    try:
        return _recode(job)
    except UNREADABLE as error:
        return Recoded(
            action=Action.KEEP, reason=f"left as it is: its bytes cannot be decoded ({error})"
        )


def _recode(job: RecodeJob) -> Recoded:
    attempt = make_attempt(job)
    coded = attempt.coded
    now = job.picture.weight
    is_exact = coded.likeness == 1.0 and not attempt.is_resampled
    is_asked_for = job.wanted.changes_looks or job.replacement is not None
    enough = now if is_exact or is_asked_for else now * (1 - _LEAST_LOSSY_GAIN)
    mask = attempt.visible or _recode_mask(job)
    new_weight = coded.weight + (attempt.visible.weight if attempt.visible else 0)
    if job.has_matte and (mask is None) != (not attempt.is_resampled):
        return Recoded(
            action=Action.KEEP, reason="left as it is: its edge is blended with its mask"
        )
    # What others are told from must be what it would be, lighter or not.
    is_probe = job.is_draft and job.wanted.coding is PictureCoding.JPEG
    if new_weight >= enough and job.replacement is None and not is_probe:
        return _mask_only(job, mask if attempt.visible is None else None)
    return Recoded(
        action=_action(job, attempt),
        reason=", ".join([*attempt.steps, _coding_step(attempt)]),
        picture=coded,
        mask=mask,
        has_plain_colours=attempt.has_plain_colours,
        has_new_mask=attempt.visible is not None,
        cut=job.cut,
    )


def _mask_only(job: RecodeJob, mask: CodedPicture | None) -> Recoded:
    reason = "left as it is: no coding of it is lighter"
    if mask is not None and not job.has_matte and job.cut is None:
        return Recoded(action=Action.RECODE, reason=f"its soft mask only; {reason}", mask=mask)
    return Recoded(action=Action.KEEP, reason=reason)


def _action(job: RecodeJob, attempt: Attempt) -> Action:
    if job.replacement is not None:
        return Action.REPLACE
    return Action.RESAMPLE if attempt.is_resampled else Action.RECODE


def _recode_mask(job: RecodeJob) -> CodedPicture | None:
    """The soft mask at the picture's new fineness, coded exactly; None if it stays."""
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
    coded = encode_exactly(pixels, may_have_palette=False, is_draft=job.is_draft)
    is_needed = job.cut is not None or (job.has_matte and job.target_px is not None)
    return coded if coded.weight < job.mask.weight or is_needed else None


def _coding_step(attempt: Attempt) -> str:
    coded = attempt.coded
    if attempt.is_resampled:
        attempt.steps.insert(0, f"{coded.width_px} x {coded.height_px} pixels")
    if coded.palette is not None:
        return f"{len(coded.palette) // coded.colours} colours, exact"
    if coded.coding is Coding.JPEG:
        return "JPEG"
    if coded.coding is Coding.JPEG_2000:
        return "JPEG 2000"
    if coded.coding is Coding.GROUP_4:
        return "Group 4"
    return "exact coding" if attempt.is_resampled else "packed tighter, every pixel kept"
