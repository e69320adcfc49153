"""Choice of a coding: the one that a treatment asks for, or the lightest of those good enough."""

import numpy as np
from numpy.typing import NDArray

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import ColourChange
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.coding.encode import encode, encode_as_jpeg, encode_as_jpeg2000
from lighten.pictures.coding.encode_exactly import encode_exactly, exact_palette, exact_weight
from lighten.pictures.coding.stored import StoredPicture
from lighten.pictures.recoding.recode_job import RecodeJob

__all__ = ["LIGHT_BITS_A_PIXEL", "code_restyled", "lightest_coding"]

# Fewer pixels of a picture with few colours soften its edges.
_WORTH_SMOOTHING = 0.5
# An exact picture as light as that is not worth smoothing at all.
LIGHT_BITS_A_PIXEL = 0.25
# Packing tighter what is packed leaves no less of it than that.
_LEAST_REPACKED_SHARE = 0.4
_DEFAULT_QUALITY = 80

Pixels = NDArray[np.uint8]


def lightest_coding(job: RecodeJob, pixels: Pixels, small: Pixels) -> tuple[CodedPicture, bool]:
    """The coding that was asked for, or the best, and whether it has fewer pixels.

    pixels: the whole; small: at the size that was asked for, the same object where that is its own.
    """
    may_have_palette, treatment = not job.picture.is_stretched, job.treatment
    quality = _quality(job)
    is_smaller = small is not pixels
    if treatment.coding is PictureCoding.JPEG:
        return _as_jpeg(job, small), is_smaller
    if _is_jpeg_2000(job) and not job.picture.is_foreign:
        return encode_as_jpeg2000(small, quality=quality, floor=treatment.floor), is_smaller
    if job.is_exact:
        return _exactly(job, small, may_have_palette=may_have_palette), is_smaller
    palette = exact_palette(pixels) if may_have_palette and not job.picture.is_lossy else None
    if palette is not None:
        return _best_of_few_colours(job, pixels, small, is_bitonal=palette.size <= 2)
    best = encode(
        small,
        quality=quality,
        floor=treatment.floor,
        may_have_palette=may_have_palette,
        is_page_scan=job.picture_class is PictureClass.PAGE_SCAN,
        was_lossy=job.picture.is_lossy,
        holder=job.holder,
        is_draft=job.is_draft,
    )
    if _may_be_lighter_exactly(job.picture, best) and exact_weight(pixels) < best.weight:
        return _exactly(job, pixels, may_have_palette=may_have_palette), False
    return best, is_smaller


def code_restyled(pixels: Pixels, job: RecodeJob) -> CodedPicture:
    """Encode pixels whose colours or look were changed, as the treatment asks."""
    is_small_palette = job.treatment.colour in (ColourChange.COLOURS_256, ColourChange.COLOURS_16)
    if is_small_palette or job.is_exact:
        return _exactly(job, pixels)
    if job.treatment.coding is PictureCoding.JPEG:
        return _as_jpeg(job, pixels)
    if _is_jpeg_2000(job):
        return encode_as_jpeg2000(pixels, quality=_quality(job), floor=job.treatment.floor)
    return encode(
        pixels,
        quality=_quality(job),
        floor=job.treatment.floor,
        is_page_scan=job.picture_class is PictureClass.PAGE_SCAN,
        holder=job.holder,
        is_draft=job.is_draft,
    )


def _best_of_few_colours(
    job: RecodeJob, pixels: Pixels, small: Pixels, *, is_bitonal: bool
) -> tuple[CodedPicture, bool]:
    """Encode a picture of few colours exactly at full size, which is often lighter than smoothed at
    a smaller one; else smoothed.

    Photos and shaded maps brought to a palette become JPEG, finely, where that halves them.
    """
    exact = _exactly(job, pixels)
    enough = exact.weight * _WORTH_SMOOTHING
    is_light = exact.weight * 8 < LIGHT_BITS_A_PIXEL * exact.width_px * exact.height_px
    if is_light or is_bitonal:
        return exact, False
    if job.picture_class is PictureClass.PHOTO:
        jpeg = _as_jpeg(job, small, has_edges=True)
        if jpeg.weight < enough:
            return jpeg, small is not pixels
    if small is not pixels and exact_weight(small) < enough:
        return _exactly(job, small), True
    return exact, False


def _may_be_lighter_exactly(picture: StoredPicture, best: CodedPicture) -> bool:
    """Return whether a picture that was coded exactly may be lightest so, with all its pixels."""
    is_tight = picture.is_packed and picture.weight * _LEAST_REPACKED_SHARE > best.weight
    return not picture.is_lossy and not is_tight


def _quality(job: RecodeJob) -> int:
    return job.treatment.quality or _DEFAULT_QUALITY


def _is_jpeg_2000(job: RecodeJob) -> bool:
    return job.treatment.coding is PictureCoding.JPEG_2000 and job.holder is Holder.STREAM


def _as_jpeg(job: RecodeJob, pixels: Pixels, *, has_edges: bool = False) -> CodedPicture:
    return encode_as_jpeg(
        pixels,
        quality=_quality(job),
        floor=job.treatment.floor,
        has_edges=has_edges,
        holder=job.holder,
        is_draft=job.is_draft,
    )


def _exactly(job: RecodeJob, pixels: Pixels, *, may_have_palette: bool = True) -> CodedPicture:
    return encode_exactly(
        pixels,
        may_have_palette=may_have_palette,
        may_be_jbig2=job.may_be_jbig2,
        holder=job.holder,
        effort=job.effort,
        is_draft=job.is_draft,
    )
