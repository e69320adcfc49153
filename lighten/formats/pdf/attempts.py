"""The coding of a picture that is lightest of those good enough, taken or not."""

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lighten.formats.pdf.decode_pictures import decode, decode_colour_key, decode_opacity
from lighten.formats.pdf.looks import decode_looks
from lighten.formats.pdf.stored_pictures import StoredPicture
from lighten.pictures.classify import is_without_colour
from lighten.pictures.colours import change_colours, through_profile
from lighten.pictures.encode import (
    CodedPicture,
    encode,
    encode_as_jpeg,
    encode_as_jpeg2000,
    encode_exactly,
    encode_lines,
    exact_palette,
    exact_weight,
)
from lighten.pictures.filters import apply_filters
from lighten.pictures.likeness import likeness
from lighten.pictures.resample import resample, resample_seen
from lighten.treatments import ColourChange, PictureCoding, PictureTreatment
from lighten.weights import PictureClass

__all__ = ["Attempt", "Cut", "RecodeJob", "cut_out", "make_attempt"]

# Fewer pixels of a picture with few colours soften its edges.
_WORTH_SMOOTHING = 0.5
# An exact picture as light as that is not worth smoothing at all.
_LIGHT_BITS_A_PIXEL = 0.25
# Packing tighter what is packed leaves no less of it than that.
_LEAST_REPACKED_SHARE = 0.4
# Reduced decoding is followed by our own resampling from a little more than the target.
_DECODE_MARGIN = 1.3
_QUALITY_IF_UNTOLD = 80
_OPAQUE = 255
_NEW_COLOURS = (
    ColourChange.RGB,
    ColourChange.GREY,
    ColourChange.TWO_TONE,
    ColourChange.COLOURS_256,
    ColourChange.COLOURS_16,
)
Cut = tuple[float, float, float, float]
Kind = TypeVar("Kind", np.uint8, np.bool_)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecodeJob:
    """What to do with one picture and the soft mask that follows it.

    looks: a PDF that shows the picture alone; set where new colours need a reader's eyes.
    has_matte: the picture is blended with its mask already, so both must stay in step.
    target_px, mask_target_px: width and height to resample to, or None; of what `cut` leaves.
    replacement: a picture file to take the pixels from instead.
    is_draft: coded quickly, to learn what it will weigh; decoded: its pixels, no fewer than the
        target's, where somebody has decoded them already.
    """

    picture: StoredPicture
    mask: StoredPicture | None
    looks: bytes = b""
    has_matte: bool = False
    picture_class: PictureClass
    target_px: tuple[int, int] | None
    mask_target_px: tuple[int, int] | None
    wanted: PictureTreatment
    cut: Cut | None = None
    replacement: Path | None = None
    is_draft: bool = False
    decoded: NDArray[np.uint8] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """A coding that may be taken. visible: the mask it needs besides, if it had none, or None."""

    coded: CodedPicture
    is_resampled: bool = False
    has_plain_colours: bool = False
    steps: list[str] = field(default_factory=list)
    visible: CodedPicture | None = None


def make_attempt(job: RecodeJob) -> Attempt:
    """The lightest coding that is good enough, with the mask it needs. Raises: as `decode`."""
    return _with_mask_for_opacity(job, _by_kind(job))


def _by_kind(job: RecodeJob) -> Attempt:
    if job.replacement is not None:
        return _replacement(job, job.replacement)
    if job.picture.is_stencil:
        return _lines_of(job, decode(job.picture))
    is_light = not job.picture.is_foreign
    if job.wanted.colour in _NEW_COLOURS or (job.wanted.filters and is_light):
        return _restyled(job)
    if job.picture.colour_key is not None:
        return _with_mask_for_key(job)
    return _plain(job)


def _plain(job: RecodeJob) -> Attempt:
    """The same colours, in whatever coding is lightest."""
    is_free = not job.picture.is_stretched
    is_exact = job.wanted.quality is None or job.wanted.coding is PictureCoding.LOSSLESS
    pixels, steps = _without_idle_colour(job, cut_out(job, _pixels(job)))
    if is_exact and job.target_px is None:
        coded = encode_exactly(pixels, may_have_palette=is_free, is_draft=job.is_draft)
        return Attempt(coded=coded, steps=steps)
    if job.picture_class is PictureClass.TWO_TONE and _is_black_and_white(pixels):
        return _lines_of(job, pixels)
    small = resample(pixels, job.target_px) if job.target_px else pixels
    coded, is_resampled = _lightest(job, pixels, small)
    return Attempt(coded=coded, is_resampled=is_resampled, steps=steps)


def _lightest(
    job: RecodeJob, pixels: NDArray[np.uint8], small: NDArray[np.uint8]
) -> tuple[CodedPicture, bool]:
    """The coding that was asked for, or the best, and whether it has fewer pixels."""
    is_free, wanted = not job.picture.is_stretched, job.wanted
    quality = wanted.quality or _QUALITY_IF_UNTOLD
    is_smaller = small is not pixels
    if wanted.coding is PictureCoding.JPEG:
        jpeg = encode_as_jpeg(small, quality=quality, floor=wanted.floor, is_draft=job.is_draft)
        return jpeg, is_smaller
    if wanted.coding is PictureCoding.JPEG_2000 and not job.picture.is_foreign:
        return encode_as_jpeg2000(small, quality=quality, floor=wanted.floor), is_smaller
    if wanted.quality is None or wanted.coding is PictureCoding.LOSSLESS:
        exact = encode_exactly(small, may_have_palette=is_free, is_draft=job.is_draft)
        return exact, is_smaller
    palette = exact_palette(pixels) if is_free and not job.picture.is_lossy else None
    if palette is not None:
        return _best_of_few_colours(job, pixels, small, is_two_tone=palette.size <= 2)
    best = encode(
        small,
        quality=quality,
        floor=wanted.floor,
        may_have_palette=is_free,
        is_page_scan=job.picture_class is PictureClass.PAGE_SCAN,
        is_draft=job.is_draft,
    )
    if _may_be_lighter_exactly(job.picture, best) and exact_weight(pixels) < best.weight:
        return encode_exactly(pixels, may_have_palette=is_free, is_draft=job.is_draft), False
    return best, is_smaller


def _may_be_lighter_exactly(picture: StoredPicture, best: CodedPicture) -> bool:
    """What was coded exactly may be lightest so, at all its pixels."""
    is_packed = picture.filters[-1:] == ("FlateDecode",)
    return not picture.is_lossy and not (
        is_packed and picture.weight * _LEAST_REPACKED_SHARE > best.weight
    )


def _best_of_few_colours(
    job: RecodeJob, pixels: NDArray[np.uint8], small: NDArray[np.uint8], *, is_two_tone: bool
) -> tuple[CodedPicture, bool]:
    """Exact at full size, which is often lighter than smoothed at a smaller one; else smoothed.

    Photos and shaded maps brought to a palette become JPEG, finely, where that halves them.
    """
    exact = encode_exactly(pixels, is_draft=job.is_draft)
    enough = exact.weight * _WORTH_SMOOTHING
    is_light = exact.weight * 8 < _LIGHT_BITS_A_PIXEL * exact.width_px * exact.height_px
    if is_light or is_two_tone:
        return exact, False
    if job.picture_class is PictureClass.PHOTO:
        quality, floor = job.wanted.quality or _QUALITY_IF_UNTOLD, job.wanted.floor
        jpeg = encode_as_jpeg(
            small, quality=quality, floor=floor, has_edges=True, is_draft=job.is_draft
        )
        if jpeg.weight < enough:
            return jpeg, small is not pixels
    if small is not pixels and exact_weight(small) < enough:
        return encode_exactly(small, is_draft=job.is_draft), True
    return exact, False


def _lines_of(job: RecodeJob, pixels: NDArray[np.uint8]) -> Attempt:
    """Black and white stays so: fewer pixels are divided anew at the middle."""
    pixels = cut_out(job, pixels)
    only_group4 = job.wanted.coding is PictureCoding.GROUP_4
    if job.target_px is None:
        return Attempt(coded=encode_lines(pixels, only_group4=only_group4))
    small = resample(pixels, job.target_px)
    lines = np.where(small > 127, 255, 0).astype(np.uint8)
    coded = encode_lines(lines, only_group4=only_group4)
    alike = likeness(small, lines)
    if alike < job.wanted.floor:
        return Attempt(coded=encode_lines(pixels, only_group4=only_group4))
    return Attempt(coded=replace(coded, likeness=alike), is_resampled=True)


def _restyled(job: RecodeJob) -> Attempt:
    """New colours and filters, on plain grey or sRGB."""
    pixels, is_plain = _seen_pixels(job)
    pixels, steps = _without_idle_colour(job, cut_out(job, pixels), is_plain=is_plain)
    small = resample(pixels, job.target_px) if job.target_px else pixels
    restyled = change_colours(apply_filters(small, job.wanted.filters), job.wanted)
    if job.wanted.colour is ColourChange.TWO_TONE:
        only_group4 = job.wanted.coding is PictureCoding.GROUP_4
        coded = encode_lines(restyled, only_group4=only_group4)
    else:
        coded = _coded_as_asked(restyled, job)
    if job.wanted.filters or job.wanted.colour is not ColourChange.RGB:
        coded = replace(coded, likeness=min(coded.likeness, _grey_likeness(small, restyled)))
    return Attempt(
        coded=coded, is_resampled=small is not pixels, has_plain_colours=is_plain, steps=steps
    )


def _grey_likeness(before: NDArray[np.uint8], after: NDArray[np.uint8]) -> float:
    """Of a picture to its restyled self; below 1 wherever something has changed."""
    return 1.0 if before is after else min(0.9999, likeness(_as_rgb(before), _as_rgb(after)))


def _as_rgb(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels


def _coded_as_asked(pixels: NDArray[np.uint8], job: RecodeJob) -> CodedPicture:
    wanted = job.wanted
    quality = wanted.quality or _QUALITY_IF_UNTOLD
    is_small_palette = wanted.colour in (ColourChange.COLOURS_256, ColourChange.COLOURS_16)
    if is_small_palette or wanted.quality is None or wanted.coding is PictureCoding.LOSSLESS:
        return encode_exactly(pixels, is_draft=job.is_draft)
    if wanted.coding is PictureCoding.JPEG:
        return encode_as_jpeg(pixels, quality=quality, floor=wanted.floor, is_draft=job.is_draft)
    if wanted.coding is PictureCoding.JPEG_2000:
        return encode_as_jpeg2000(pixels, quality=quality, floor=wanted.floor)
    return encode(
        pixels,
        quality=quality,
        floor=wanted.floor,
        is_page_scan=job.picture_class is PictureClass.PAGE_SCAN,
        is_draft=job.is_draft,
    )


def _seen_pixels(job: RecodeJob) -> tuple[NDArray[np.uint8], bool]:
    """The picture as grey or sRGB, and whether that is another colour space than its own."""
    picture = job.picture
    if picture.is_foreign or picture.is_stretched:
        if picture.profile and not picture.is_stretched:
            return through_profile(decode(picture), picture.profile), True
        return decode_looks(job.looks, picture.width_px, picture.height_px), True
    is_new = job.wanted.colour in _NEW_COLOURS
    return _pixels(job), is_new


def _pixels(job: RecodeJob) -> NDArray[np.uint8]:
    """Its samples, at a reduced size where that is enough for the target."""
    return decode(job.picture, at_least=_decoded_size(job)) if job.decoded is None else job.decoded


def _with_mask_for_key(job: RecodeJob) -> Attempt:
    """A colour that is see-through becomes a mask: coding anew would blur it into the others."""
    is_exact = job.wanted.quality is None or job.wanted.coding is PictureCoding.LOSSLESS
    if is_exact and job.target_px is None:
        raise ValueError("one of its colours is see-through, which packing anew would move")
    hidden = decode_colour_key(job.picture)
    if hidden is None:
        raise ValueError("its colour key does not fit its colours")
    pixels, visible = cut_out(job, decode(job.picture)), cut_out(job, ~hidden)
    size = job.target_px or (pixels.shape[1], pixels.shape[0])
    small, seen = resample_seen(pixels, visible, size)
    coded, _ = _lightest(
        replace(job, picture=replace(job.picture, is_stretched=True)), small, small
    )
    return Attempt(
        coded=coded,
        is_resampled=job.target_px is not None,
        steps=["its see-through colour as a mask"],
        visible=encode_exactly(seen, may_have_palette=False),
    )


def _with_mask_for_opacity(job: RecodeJob, attempt: Attempt) -> Attempt:
    """Opacity that was inside the old coding becomes a mask; none where all is opaque."""
    opacity = None if job.replacement is not None else decode_opacity(job.picture)
    if opacity is None or opacity.min() == _OPAQUE:
        return attempt
    opacity = resample(cut_out(job, opacity), (attempt.coded.width_px, attempt.coded.height_px))
    return replace(
        attempt,
        steps=[*attempt.steps, "its transparency as a mask"],
        visible=encode_exactly(opacity, may_have_palette=False, is_draft=job.is_draft),
    )


def _replacement(job: RecodeJob, path: Path) -> Attempt:
    """The person's own picture, upright, no larger than the old one was stored."""
    from PIL import Image, ImageOps

    with Image.open(path) as image:
        upright = ImageOps.exif_transpose(image)
        pixels = np.asarray(upright.convert("L" if upright.mode in ("1", "L") else "RGB"))
    most = job.target_px or (job.picture.width_px, job.picture.height_px)
    if pixels.shape[1] > most[0] or pixels.shape[0] > most[1]:
        pixels = resample(pixels, most)
    return Attempt(coded=_coded_as_asked(pixels, job), has_plain_colours=True)


def cut_out(job: RecodeJob, pixels: NDArray[Kind]) -> NDArray[Kind]:
    """What `job.cut` leaves, whole pixels outwards."""
    if job.cut is None:
        return pixels
    height, width = pixels.shape[:2]
    left, top, right, bottom = job.cut
    rows = slice(round(top * height), max(round(top * height) + 1, round(bottom * height)))
    columns = slice(round(left * width), max(round(left * width) + 1, round(right * width)))
    return np.ascontiguousarray(pixels[rows, columns])


def _without_idle_colour(
    job: RecodeJob, pixels: NDArray[np.uint8], *, is_plain: bool = False
) -> tuple[NDArray[np.uint8], list[str]]:
    """Plain grey where red, green and blue are equal throughout and mean nothing else."""
    is_bound = (job.picture.has_own_colours or job.picture.is_stretched) and not is_plain
    if pixels.ndim == 3 and not is_bound and is_without_colour(pixels):
        return np.ascontiguousarray(pixels[..., 0]), ["to grey: no colour in it"]
    return pixels, []


def _is_black_and_white(pixels: NDArray[np.uint8]) -> bool:
    found = exact_palette(pixels, most=2) if pixels.ndim == 2 else None
    return found is not None and set(found.tolist()) <= {0, 255}


def _decoded_size(job: RecodeJob) -> tuple[int, int] | None:
    if job.target_px is None or job.cut is not None:
        return None
    width, height = job.target_px
    return round(width * _DECODE_MARGIN), round(height * _DECODE_MARGIN)
