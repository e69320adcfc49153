"""One picture of a PDF made lighter; runs in a worker process."""

import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.formats.pdf.stored_pictures import StoredPicture, decode, glimpse
from lighten.pictures.classify import classify, is_without_colour
from lighten.pictures.encode import (
    BEST_OF_QUICK,
    CodedPicture,
    Coding,
    encode,
    encode_exactly,
    exact_palette,
    exact_weight,
)
from lighten.pictures.resample import resample
from lighten.plans import Action
from lighten.weights import PictureClass

__all__ = ["LookJob", "RecodeJob", "Recoded", "look_at", "recode"]

# Coding again costs a little sharpness each time, so it must be worth it.
_LEAST_LOSSY_GAIN = 0.06
# Fewer pixels of a picture with few colours soften its edges.
_WORTH_SMOOTHING = 0.6
# An exact picture as light as that is not worth smoothing at all.
_LIGHT_BITS_A_PIXEL = 0.25
# Reduced decoding is followed by our own resampling from a little more than the target.
_DECODE_MARGIN = 1.3


@dataclass(frozen=True, slots=True, kw_only=True)
class RecodeJob:
    """What to do with one picture and the soft mask that follows it.

    target_px, mask_target_px: width and height to resample to, or None.
    quality: of JPEG, or None for exact codings only. stored_bytes: of the coded picture now.
    """

    picture: StoredPicture
    mask: StoredPicture | None
    is_page_scan: bool
    target_px: tuple[int, int] | None
    mask_target_px: tuple[int, int] | None
    quality: int | None
    floor: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoded:
    """What came of it: the new picture and mask, each None where the old one stays."""

    action: Action
    reason: str
    picture: CodedPicture | None = None
    mask: CodedPicture | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LookJob:
    """A picture to be told the class of."""

    picture: StoredPicture
    is_page: bool


def look_at(job: LookJob) -> PictureClass | None:
    """The class of a picture by its pixels; None if they cannot be decoded."""
    try:
        pixels = glimpse(job.picture)
    except (ValueError, OSError, MemoryError, zlib.error):
        return None
    # Two tones in a part of it are a hint only.
    if (
        not job.picture.is_lossy
        and exact_palette(pixels, most=2) is not None
        and exact_palette(decode(job.picture), most=2) is not None
    ):
        return PictureClass.TWO_TONE
    return classify(pixels, is_page=job.is_page)


def recode(job: RecodeJob) -> Recoded:
    """The picture as the job asks, or as it was, with the reason; never heavier, never raises."""
    try:
        return _recode(job)
    except (ValueError, OSError, MemoryError, zlib.error) as error:
        return Recoded(
            action=Action.KEEP, reason=f"left as it is: its bytes cannot be decoded ({error})"
        )


def _recode(job: RecodeJob) -> Recoded:
    coded, resampled = _best_coding(job)
    now = len(job.picture.data)
    enough = now if coded.likeness == 1.0 and not resampled else now * (1 - _LEAST_LOSSY_GAIN)
    mask = _recode_mask(job)
    if coded.weight >= enough:
        reason = "left as it is: no coding of it is lighter"
        if mask is not None:
            return Recoded(action=Action.RECODE, reason=f"its soft mask only; {reason}", mask=mask)
        return Recoded(action=Action.KEEP, reason=reason)
    return Recoded(
        action=Action.RESAMPLE if resampled else Action.RECODE,
        reason=_reason(job, coded, resampled=resampled),
        picture=coded,
        mask=mask,
    )


def _best_coding(job: RecodeJob) -> tuple[CodedPicture, bool]:
    """The lightest coding that is good enough, and whether it has fewer pixels."""
    is_free = not job.picture.is_stretched
    if job.quality is None:
        pixels = _without_idle_colour(job, decode(job.picture))
        return encode_exactly(pixels, may_have_palette=is_free), False
    pixels = _without_idle_colour(job, decode(job.picture, at_least=_decoded_size(job)))
    small = resample(pixels, job.target_px) if job.target_px else pixels
    palette = exact_palette(pixels) if is_free and not job.picture.is_lossy else None
    if palette is not None:
        return _best_of_few_colours(pixels, small, is_two_tone=palette.size <= 2)
    best = encode(
        small,
        quality=job.quality,
        floor=job.floor,
        may_have_palette=is_free,
        is_page_scan=job.is_page_scan,
    )
    # What was coded exactly may be lightest so, at all its pixels.
    if not job.picture.is_lossy and exact_weight(pixels) * BEST_OF_QUICK < best.weight:
        return encode_exactly(pixels, may_have_palette=is_free), False
    return best, job.target_px is not None


def _best_of_few_colours(
    pixels: NDArray[np.uint8], small: NDArray[np.uint8], *, is_two_tone: bool
) -> tuple[CodedPicture, bool]:
    """Exact at full size, which is often lighter than smoothed at a smaller one; else smoothed."""
    exact = encode_exactly(pixels)
    is_light = exact.weight * 8 < _LIGHT_BITS_A_PIXEL * exact.width_px * exact.height_px
    if small is pixels or is_light or is_two_tone:
        return exact, False
    if exact_weight(small) < exact.weight * _WORTH_SMOOTHING:
        return encode_exactly(small), True
    return exact, False


def _without_idle_colour(job: RecodeJob, pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Plain grey where red, green and blue are equal throughout and mean nothing else."""
    is_bound = job.picture.has_own_colours or job.picture.is_stretched
    if pixels.ndim == 3 and not is_bound and is_without_colour(pixels):
        return np.ascontiguousarray(pixels[..., 0])
    return pixels


def _decoded_size(job: RecodeJob) -> tuple[int, int] | None:
    if job.target_px is None:
        return None
    width, height = job.target_px
    return round(width * _DECODE_MARGIN), round(height * _DECODE_MARGIN)


def _recode_mask(job: RecodeJob) -> CodedPicture | None:
    """The soft mask at the picture's new fineness, coded exactly; None if it stays."""
    if job.mask is None or job.mask.bits == 16:
        return None
    try:
        pixels = decode(job.mask)
    except (ValueError, OSError):
        return None
    if pixels.ndim != 2:
        return None
    if job.mask_target_px:
        pixels = resample(pixels, job.mask_target_px)
    # A mask is plain grey, without a palette (ISO 32000-1, 11.6.5.3).
    coded = encode_exactly(pixels, may_have_palette=False)
    return coded if coded.weight < len(job.mask.data) else None


def _reason(job: RecodeJob, coded: CodedPicture, *, resampled: bool) -> str:
    steps = []
    if resampled:
        steps.append(f"{coded.width_px} x {coded.height_px} pixels")
    if job.picture.has_colour and coded.colours == 1:
        steps.append("to grey: no colour in it")
    if coded.palette is not None:
        entries = len(coded.palette) // coded.colours
        steps.append(f"{entries} colours, exact")
    elif coded.coding is Coding.JPEG:
        steps.append("JPEG")
    else:
        steps.append("packed tighter, every pixel kept" if not resampled else "exact coding")
    return ", ".join(steps)
