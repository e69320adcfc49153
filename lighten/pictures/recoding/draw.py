"""Pixels of a picture as a reader shows them, before and after it is coded anew."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.coding.coded import Holder, decode_coded
from lighten.pictures.coding.decode import decode_inks, decode_on_white
from lighten.pictures.pixels.colours import is_srgb, plain_inks, through_profile
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.scans.compose import compose

__all__ = ["draw_original", "draw_recoded"]

Pixels = NDArray[np.uint8]


def draw_original(job: RecodeJob, *, at_least: tuple[int, int] | None = None) -> Pixels:
    """Decode a stored picture, as it is stored: (height, width) or (height, width, 3) uint8, sRGB.

    at_least: width and height that suffice, where a decoder can save time. Raises: as `decode`.
    """
    stored = job.picture
    if stored.rendering is not None:
        return stored.rendering.pixels(stored.width_px, stored.height_px)
    if job.holder is Holder.FILE and stored.has_opacity:
        return _in_rgb(decode_on_white(stored), stored.profile)
    return _in_rgb(decode_inks(stored, at_least=at_least), stored.profile)


def draw_recoded(job: RecodeJob, recoded: Recoded) -> Pixels:
    """Decode the result of a job, or its original where that stays; as `draw_original`."""
    if recoded.layers is not None:
        return compose(recoded.layers)
    if recoded.picture is None:
        return draw_original(job)
    coded = recoded.picture
    profile = b"" if recoded.has_plain_colours else job.picture.profile
    return _in_rgb(decode_coded(coded), profile)


def _in_rgb(pixels: Pixels, profile: bytes) -> Pixels:
    if profile and not is_srgb(profile):
        try:
            return through_profile(pixels, profile)
        except ValueError:
            pass  # of another colour space: readers ignore it
    return pixels if pixels.ndim == 2 or pixels.shape[2] == 3 else plain_inks(pixels)
