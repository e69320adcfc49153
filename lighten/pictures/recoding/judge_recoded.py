"""Scores of recoded pictures, at the size at which a page shows them."""

import numpy as np
from numpy.typing import NDArray

from lighten.model.treatments import ColourChange
from lighten.pictures.coding.coded import decode_coded
from lighten.pictures.pixels.colours import is_srgb, plain_inks, through_profile, to_grey
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.scans.compose import compose
from lighten.pictures.scores.places_seen import places_seen
from lighten.pictures.scores.visible_loss import Judge

__all__ = ["UNCHANGED", "as_light", "can_be_judged", "judge_of", "judged_size", "score_of"]

# Score of a picture that shows no difference.
UNCHANGED = 100.0

Pixels = NDArray[np.uint8]
Size = tuple[int, int]


def can_be_judged(coding: RecodeJob) -> bool:
    """Return False for changes that cannot be compared with the original, but for grey."""
    if coding.cut is not None or coding.replacement is not None or coding.treatment.filters:
        return False
    return coding.treatment.colour in (
        ColourChange.KEEP,
        ColourChange.RGB,
        ColourChange.GREY,
        ColourChange.EXACT_PALETTE,
    )


def judged_size(decoded: Pixels, shown_px: Size) -> Size:
    """Return the size at which it is judged: as shown, but no larger than stored."""
    height, width = decoded.shape[:2]
    return min(width, shown_px[0]), min(height, shown_px[1])


def judge_of(decoded: Pixels, shown_px: Size, *, is_grey: bool, profile: bytes = b"") -> Judge:
    """Return a judge of copies of a picture. profile: see `as_light`."""
    pieces = places_seen(as_light(decoded, profile), judged_size(decoded, shown_px))
    return Judge([to_grey(piece) for piece in pieces] if is_grey else pieces)


def score_of(recoded: Recoded, judge: Judge, size: Size, profile: bytes = b"") -> float:
    """Return the score of the new picture as the page shows it; 100 where the old one stays.

    profile: of the original.
    """
    if recoded.layers is not None:
        return judge.score(places_seen(compose(recoded.layers), size))
    if recoded.picture is None or recoded.picture.likeness == 1.0:
        return UNCHANGED
    kept = b"" if recoded.has_plain_colours else profile
    return judge.score(places_seen(as_light(decode_coded(recoded.picture), kept), size))


def as_light(pixels: Pixels, profile: bytes = b"") -> Pixels:
    """Convert colours to sRGB, inks approximately: enough to compare two encodings of one picture.

    profile: of grey or red, green, blue, where it is another than sRGB; else b"".
    """
    if profile and (pixels.ndim == 2 or pixels.shape[2] == 3) and not is_srgb(profile):
        try:
            return through_profile(pixels, profile)
        except ValueError:
            return pixels  # a profile of another colour space: readers ignore it
    if pixels.ndim == 2 or pixels.shape[2] == 3:
        return pixels
    if pixels.shape[2] == 4:
        return plain_inks(pixels)
    return np.asarray(255 - pixels.max(axis=2), np.uint8)
