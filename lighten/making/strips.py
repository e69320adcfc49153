"""One picture coded by several settings: what each would weigh, and what it would look like."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lighten.model.plans import Action, Decision
from lighten.model.source import Source
from lighten.model.treatments import ColourChange
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import open_workers
from lighten.pictures.coding.coded import Coding
from lighten.pictures.pixels.colours import to_grey
from lighten.pictures.pixels.filters import level
from lighten.pictures.pixels.sizes import pixels_at
from lighten.pictures.pixels.upright import upright, upright_box
from lighten.pictures.recoding.coding_cache import CodingCache
from lighten.pictures.recoding.draw import draw_original, draw_recoded
from lighten.pictures.recoding.judge_recoded import UNCHANGED, can_be_judged
from lighten.pictures.recoding.recode import Recoded, RecodeJob, saved_bytes
from lighten.pictures.recoding.recode_all import recode_all
from lighten.pictures.recoding.recode_job import cut_out, within_cut
from lighten.pictures.scores.places_seen import places_seen
from lighten.pictures.scores.visible_loss import Judge
from lighten.pictures.words.legibility import ENOUGH_PPI, READ_PPI, light_at, lost_words
from lighten.registry import format_named

__all__ = ["Strip", "make_strips", "write_light_strip", "write_strip"]

_POINTS_PER_INCH = 72.0
# Pictures above that are written as JPEG, whose loss at that quality no screen shows.
_MOST_EXACT_PX, _FINE_QUALITY = 4_000_000, 96
_LIGHT_QUALITY = 92

Pixels = NDArray[np.uint8]
Box = tuple[float, float, float, float]
_NOTHING: tuple[Box, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Strip:
    """One picture as one decision would leave it.

    pixels: (height, width) or (height, width, 3) uint8, sRGB. cut: the part of the original that
    they show, as shares of its sides: left, top, right, bottom; None for all of it. size_bytes: of
    the part. ppi: where it is shown largest; None if it is shown nowhere. quality: of JPEG, as
    ordered; None for other codings. score: SSIMULACRA2 at the shown size; None where colours or
    filters change the picture. words: pieces of text looked for; lost: boxes of those that can no
    longer be read, as shares of the sides of `pixels`.
    """

    action: Action
    reason: str
    pixels: Pixels
    size_bytes: int
    ppi: float | None
    quality: int | None
    score: float | None
    words: int = 0
    lost: tuple[Box, ...] = ()
    cut: Box | None = None


def make_strips(
    source: Source,
    sheet: WeightSheet,
    part_id: str,
    decisions: Sequence[Decision],
    cache: CodingCache | None = None,
) -> Iterator[Strip]:
    """Yield the picture `part_id` as each decision leaves it, coded as a copy would have it.

    cache: where coded pictures are kept for the copy. Raises: as `weigh`; KeyError for no such
    part; ValueError for a part that is no picture.
    """
    part = sheet.part(part_id)
    if part.picture is None:
        raise ValueError(f"{part_id} is not a picture")
    with (
        format_named(sheet.format).edit(source, sheet) as editing,
        open_workers() as workers,
    ):
        jobs = [editing.job(part, decision) for decision in decisions]
        original = draw_original(jobs[0])
        coded = iter(
            recode_all(
                [job for job, decision in zip(jobs, decisions, strict=True) if _is_coded(decision)],
                workers,
                cache,
            )
        )
        for job, decision in zip(jobs, decisions, strict=True):
            if _is_coded(decision):
                strip = _strip(part, decision, job, next(coded), original)
            else:
                strip = _unchanged(part, decision, original)
            yield _upright(strip, job.orientation)


def write_strip(strip: Strip, path: Path) -> str:
    """Write the pixels of a strip as a picture file that browsers show; its media type."""
    from PIL import Image

    image = Image.fromarray(strip.pixels)
    if strip.pixels.shape[0] * strip.pixels.shape[1] <= _MOST_EXACT_PX:
        image.save(path, "PNG", compress_level=1)
        return "image/png"
    image.save(path, "JPEG", quality=_FINE_QUALITY, subsampling=0)
    return "image/jpeg"


def write_light_strip(strip: Strip, path: Path) -> str:
    """Write the pixels of a strip as PNG or JPEG, whichever is lighter; its media type."""
    from PIL import Image

    image = Image.fromarray(strip.pixels)
    exact = path.with_name(f"{path.name}-exact")
    image.save(path, "JPEG", quality=_LIGHT_QUALITY, subsampling=0)
    image.save(exact, "PNG")
    if exact.stat().st_size > path.stat().st_size:
        exact.unlink()
        return "image/jpeg"
    exact.replace(path)
    return "image/png"


def _upright(strip: Strip, orientation: int) -> Strip:
    """Return a strip as readers turn it. Pictures that declare an orientation are never cut."""
    return replace(
        strip,
        pixels=upright(strip.pixels, orientation),
        lost=tuple(upright_box(box, orientation) for box in strip.lost),
    )


def _is_coded(decision: Decision) -> bool:
    return decision.picture is not None or decision.replacement is not None


def _unchanged(part: Part, decision: Decision, original: Pixels) -> Strip:
    return Strip(
        action=Action.KEEP,
        reason=decision.reason,
        pixels=original,
        size_bytes=part.size_bytes,
        ppi=_ppi(part, original, None),
        quality=None,
        score=UNCHANGED,
    )


def _strip(
    part: Part, decision: Decision, job: RecodeJob, recoded: Recoded, original: Pixels
) -> Strip:
    pixels = draw_recoded(job, recoded)
    seen = level(cut_out(replace(job, cut=recoded.cut), original), recoded.turned_degrees)
    is_new = recoded.picture is not None or recoded.layers is not None
    is_same = not is_new or (recoded.picture is not None and recoded.picture.likeness == 1.0)
    score = UNCHANGED if is_same else None
    words, lost = 0, _NOTHING
    if not is_same and can_be_judged(replace(job, cut=None)):
        is_grey = job.treatment.colour is ColourChange.GREY
        score = _score(job, recoded, seen, pixels, is_grey=is_grey)
        words, lost = _words(part, seen, pixels, recoded)
    treatment = decision.picture
    is_jpeg = recoded.picture is not None and recoded.picture.coding is Coding.JPEG
    return Strip(
        action=recoded.action,
        reason=recoded.reason,
        pixels=pixels,
        size_bytes=max(0, part.size_bytes - saved_bytes(job, recoded)),
        ppi=_ppi(part, pixels, recoded.cut),
        quality=treatment.quality if treatment is not None and is_jpeg else None,
        score=score,
        words=words,
        lost=lost,
        cut=recoded.cut,
    )


def _score(
    job: RecodeJob, recoded: Recoded, original: Pixels, copy: Pixels, *, is_grey: bool
) -> float | None:
    shown = within_cut(job.shown_px, recoded.cut)
    if shown is None:
        return None
    size = min(original.shape[1], shown[0]), min(original.shape[0], shown[1])
    before, after = places_seen(original, size), places_seen(copy, size)
    if is_grey:
        before, after = ([to_grey(piece) for piece in pieces] for pieces in (before, after))
    return Judge(before).score(after)


def _words(
    part: Part, original: Pixels, copy: Pixels, recoded: Recoded
) -> tuple[int, tuple[Box, ...]]:
    """Return the number of words looked for, and the boxes of those that cannot be read."""
    ppi = _ppi(part, copy, recoded.cut)
    if ppi is None or ppi >= ENOUGH_PPI:
        return 0, ()
    shown = _shown_pt(part, recoded.cut)
    assert shown is not None
    light = light_at(original, pixels_at(shown, READ_PPI))
    colours = copy if copy.ndim == 3 else np.repeat(copy[:, :, np.newaxis], 3, axis=2)
    lost, count = lost_words(light, colours)
    height, width = light.shape
    return count, tuple(
        (word.left / width, word.top / height, word.right / width, word.low / height)
        for word in lost
    )


def _ppi(part: Part, pixels: Pixels, cut: Box | None) -> float | None:
    shown = _shown_pt(part, cut)
    return None if shown is None else pixels.shape[1] / shown[0] * _POINTS_PER_INCH


def _shown_pt(part: Part, cut: Box | None) -> tuple[float, float] | None:
    """Return the largest size that what is kept is shown at, in points."""
    assert part.picture is not None
    shown = part.picture.largest_display_pt
    if shown is None or cut is None:
        return shown
    left, top, right, bottom = cut
    return shown[0] * (right - left), shown[1] * (bottom - top)
