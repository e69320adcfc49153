"""The coding of a picture that is lightest of those good enough, taken or not."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.flate import Effort
from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import ColourChange
from lighten.pictures.coding.choose_coding import code_restyled, lightest_coding
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.coding.decode import (
    decode,
    decode_colour_key,
    decode_deep,
    decode_inks,
    decode_opacity,
)
from lighten.pictures.coding.encode_exactly import (
    encode_deep,
    encode_exactly,
    encode_lines,
    encode_png_file,
    is_black_and_white,
)
from lighten.pictures.coding.stored import StoredCoding
from lighten.pictures.pixels.classify import is_without_colour
from lighten.pictures.pixels.colours import as_rgb, change_colours, plain_inks, through_profile
from lighten.pictures.pixels.filters import apply_filters
from lighten.pictures.pixels.resample import resample, resample_opaque, resample_seen
from lighten.pictures.recoding.recode_job import RecodeJob, cut_out, within_cut
from lighten.pictures.scores.keeps_strokes import keeps_strokes
from lighten.pictures.scores.likeness import likeness

__all__ = ["Candidate", "best_candidate", "can_be_exact", "exact_candidate"]

# Reduced decoding is followed by our own resampling. Twice as much is safe: below, some pictures
# lose looks before they are coded (342 to 250 pixels from a quarter: 63.8 against 88.1).
DECODE_MARGIN = 2.0
_OPAQUE = 255
# Where lines lose strokes at a size, what is tried next.
_FINER_LINES = 1.5
_DEEP_CODINGS = (StoredCoding.PNG, StoredCoding.TIFF)
_NEW_COLOURS = (
    ColourChange.RGB,
    ColourChange.GREY,
    ColourChange.BITONAL,
    ColourChange.COLOURS_256,
    ColourChange.COLOURS_16,
)

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A coding that may be taken. visible: the mask it needs besides, if it had none, or None."""

    coded: CodedPicture
    is_resampled: bool = False
    has_plain_colours: bool = False
    steps: list[str] = field(default_factory=list)
    visible: CodedPicture | None = None


def best_candidate(job: RecodeJob) -> Candidate:
    """The lightest coding that is good enough, with the mask it needs. Raises: as `decode`."""
    if job.replacement is not None:
        return _replacement(job, job.replacement)
    if job.picture.is_mask:
        return _lines_of(job, decode(job.picture))
    if job.holder is not Holder.STREAM and _keeps_16_bits(job):
        return _deep(job)
    if job.holder is Holder.FILE and job.picture.has_opacity:
        opacity = decode_opacity(job.picture)
        if opacity is not None and opacity.min() < _OPAQUE:
            return _with_opacity_inside(job, opacity)
        return _coloured(job)
    return _with_mask_for_opacity(job, _coloured(job))


def can_be_exact(job: RecodeJob) -> bool:
    """Return whether `exact_candidate` can encode the picture."""
    picture = job.picture
    is_plain = not (picture.is_mask or picture.has_opacity or picture.colour_key)
    return is_plain and picture.bits <= 8 and job.replacement is None


def exact_candidate(job: RecodeJob, effort: Effort) -> Candidate:
    """Code all pixels exactly; the job asks for no other size. Raises: as `decode`."""
    pixels, steps = _without_idle_colour(job, cut_out(job, _pixels(job)))
    coded = encode_exactly(
        pixels,
        may_have_palette=not job.picture.is_stretched,
        may_be_jbig2=job.may_be_jbig2,
        only_group4=job.treatment.coding is PictureCoding.GROUP_4,
        holder=job.holder,
        effort=effort,
        is_draft=job.is_draft,
    )
    return Candidate(coded=coded, steps=steps)


def _coloured(job: RecodeJob) -> Candidate:
    is_light = not job.picture.is_foreign
    if job.treatment.colour in _NEW_COLOURS or (job.treatment.filters and is_light):
        return _restyled(job)
    if job.picture.colour_key is not None:
        return _with_mask_for_key(job)
    return _plain(job)


def _plain(job: RecodeJob) -> Candidate:
    """Code the same colours in the lightest coding."""
    if job.is_exact and job.target_px is None:
        return exact_candidate(job, job.effort)
    pixels, steps = _without_idle_colour(job, cut_out(job, _pixels(job)))
    if (
        job.picture_class is PictureClass.BITONAL
        and pixels.ndim == 2
        and is_black_and_white(pixels)
    ):
        return _lines_of(job, pixels)
    small = resample(pixels, job.target_px) if job.target_px else pixels
    coded, is_resampled = lightest_coding(job, pixels, small)
    return Candidate(coded=coded, is_resampled=is_resampled, steps=steps)


def _lines_of(job: RecodeJob, pixels: Pixels) -> Candidate:
    """Resample black and white, with the threshold at the middle."""
    pixels = cut_out(job, pixels)
    for width, height in _line_sizes(job, pixels):
        small = resample(pixels, (width, height))
        lines = np.where(small > 127, 255, 0).astype(np.uint8)
        alike = likeness(small, lines)
        is_alike = alike >= job.treatment.floor
        if is_alike and keeps_strokes(pixels, lines, within_cut(job.shown_px, job.cut)):
            coded = _lines(job, lines)
            return Candidate(coded=replace(coded, likeness=alike), is_resampled=True)
    return Candidate(coded=_lines(job, pixels))


def _line_sizes(job: RecodeJob, pixels: Pixels) -> Iterator[tuple[int, int]]:
    """The size asked for, and one between it and all pixels."""
    if job.target_px is None:
        return
    yield job.target_px
    width, height = (round(side * _FINER_LINES) for side in job.target_px)
    if width < pixels.shape[1] and height < pixels.shape[0]:
        yield width, height


def _lines(job: RecodeJob, pixels: Pixels) -> CodedPicture:
    only_group4 = job.treatment.coding is PictureCoding.GROUP_4
    return encode_lines(
        pixels, only_group4=only_group4, may_be_jbig2=job.may_be_jbig2, holder=job.holder
    )


def _restyled(job: RecodeJob) -> Candidate:
    """Apply new colours and filters to plain grey or sRGB."""
    pixels, is_plain = _seen_pixels(job)
    pixels, steps = _without_idle_colour(job, cut_out(job, pixels), is_plain=is_plain)
    small = resample(pixels, job.target_px) if job.target_px else pixels
    filtered = apply_filters(small, job.treatment.filters, skew=job.skew)
    restyled = change_colours(filtered, job.treatment)
    if job.treatment.colour is ColourChange.BITONAL:
        coded = _lines(job, restyled)
    else:
        coded = code_restyled(restyled, job)
    if job.treatment.filters or job.treatment.colour is not ColourChange.RGB:
        coded = replace(coded, likeness=min(coded.likeness, _likeness_of(small, restyled)))
    return Candidate(
        coded=coded, is_resampled=small is not pixels, has_plain_colours=is_plain, steps=steps
    )


def _likeness_of(before: Pixels, after: Pixels) -> float:
    """Return the likeness of a picture to its restyled self; below 1 wherever something has
    changed.
    """
    return 1.0 if before is after else min(0.9999, likeness(as_rgb(before), as_rgb(after)))


def _seen_pixels(job: RecodeJob) -> tuple[Pixels, bool]:
    """The picture as grey or sRGB, and whether that is another colour space than its own."""
    picture = job.picture
    if picture.is_foreign or picture.is_stretched:
        if picture.profile and not picture.is_stretched:
            return through_profile(decode_inks(picture), picture.profile), True
        if picture.rendering is None:
            return plain_inks(decode_inks(picture)), True
        return picture.rendering.pixels(picture.width_px, picture.height_px), True
    is_new = job.treatment.colour in _NEW_COLOURS
    if picture.profile and is_new:
        return through_profile(_pixels(job), picture.profile), True
    return _pixels(job), is_new


def _pixels(job: RecodeJob) -> Pixels:
    """Decode the samples, at a reduced size where that is enough for the target."""
    return decode(job.picture, at_least=_decoded_size(job)) if job.decoded is None else job.decoded


def _with_mask_for_key(job: RecodeJob) -> Candidate:
    """A colour that is see-through becomes a mask: coding anew would blur it into the others."""
    if job.is_exact and job.target_px is None:
        raise ValueError("one of its colours is see-through, which packing anew would move")
    hidden = decode_colour_key(job.picture)
    if hidden is None:
        raise ValueError("its colour key does not fit its colours")
    pixels, visible = cut_out(job, decode(job.picture)), cut_out(job, ~hidden)
    size = job.target_px or (pixels.shape[1], pixels.shape[0])
    small, seen = resample_seen(pixels, visible, size)
    without_palette = replace(job, picture=replace(job.picture, is_stretched=True))
    coded, _ = lightest_coding(without_palette, small, small)
    return Candidate(
        coded=coded,
        is_resampled=job.target_px is not None,
        steps=["its see-through colour as a mask"],
        visible=encode_exactly(seen, may_have_palette=False, effort=job.effort),
    )


def _with_mask_for_opacity(job: RecodeJob, candidate: Candidate) -> Candidate:
    """Turn opacity within the old coding into a mask; None if all is opaque."""
    opacity = decode_opacity(job.picture)
    if opacity is None or opacity.min() == _OPAQUE:
        return candidate
    size = (candidate.coded.width_px, candidate.coded.height_px)
    opacity = resample(cut_out(job, opacity), size)
    return replace(
        candidate,
        steps=[*candidate.steps, "its transparency as a mask"],
        visible=encode_exactly(
            opacity, may_have_palette=False, effort=job.effort, is_draft=job.is_draft
        ),
    )


def _with_opacity_inside(job: RecodeJob, opacity: Pixels) -> Candidate:
    """A picture file keeps how opaque its pixels are, exactly or at fewer pixels, as a PNG."""
    pixels, opacity = cut_out(job, decode(job.picture)), cut_out(job, opacity)
    if job.target_px:
        pixels, opacity = resample_opaque(pixels, opacity, job.target_px)
    filtered = apply_filters(pixels, job.treatment.filters, skew=job.skew)
    restyled = change_colours(filtered, job.treatment)
    coded = encode_png_file(restyled, opacity, is_brief=not job.is_exact, is_draft=job.is_draft)
    is_new = job.treatment.colour in _NEW_COLOURS
    if restyled is not pixels:
        coded = replace(coded, likeness=_likeness_of(pixels, restyled))
    return Candidate(
        coded=coded,
        is_resampled=job.target_px is not None,
        has_plain_colours=is_new,
        steps=["see-through as it was"],
    )


def _keeps_16_bits(job: RecodeJob) -> bool:
    """Return whether 16 bits stay: other colours, filters and JPEG have 8."""
    is_same = not job.treatment.changes_looks and job.treatment.coding is not PictureCoding.JPEG
    return job.picture.coding in _DEEP_CODINGS and job.picture.bits == 16 and is_same


def _deep(job: RecodeJob) -> Candidate:
    pixels, opacity = decode_deep(job.picture)
    pixels = cut_out(job, pixels)
    opacity = None if opacity is None else cut_out(job, opacity)
    if job.target_px:
        pixels = resample(pixels, job.target_px)
        opacity = None if opacity is None else resample(opacity, job.target_px)
    coded = encode_deep(pixels, opacity, job.holder, job.effort)
    return Candidate(
        coded=coded, is_resampled=job.target_px is not None, steps=["its 16 bits kept"]
    )


def _replacement(job: RecodeJob, path: Path) -> Candidate:
    """The person's own picture, upright, no larger than the old one was stored."""
    from PIL import Image, ImageOps

    with Image.open(path) as image:
        upright = ImageOps.exif_transpose(image)
        pixels = np.asarray(upright.convert("L" if upright.mode in ("1", "L") else "RGB"))
    most = job.target_px or (job.picture.width_px, job.picture.height_px)
    if pixels.shape[1] > most[0] or pixels.shape[0] > most[1]:
        pixels = resample(pixels, most)
    return Candidate(coded=code_restyled(pixels, job), has_plain_colours=True)


def _without_idle_colour(
    job: RecodeJob, pixels: Pixels, *, is_plain: bool = False
) -> tuple[Pixels, list[str]]:
    """Return plain grey where red, green and blue are equal throughout."""
    is_bound = (job.picture.has_own_colours or job.picture.is_stretched) and not is_plain
    if pixels.ndim == 3 and not is_bound and is_without_colour(pixels):
        return np.ascontiguousarray(pixels[..., 0]), ["to grey: no colour in it"]
    return pixels, []


def _decoded_size(job: RecodeJob) -> tuple[int, int] | None:
    if job.target_px is None or job.cut is not None:
        return None
    width, height = job.target_px
    return round(width * DECODE_MARGIN), round(height * DECODE_MARGIN)
