"""Angle by which straightening turns a picture."""

from dataclasses import replace

from lighten.model.treatments import FilterKind
from lighten.pictures.coding.decode import UNREADABLE, decode
from lighten.pictures.pixels.filters import skew_degrees
from lighten.pictures.recoding.recode_job import RecodeJob

__all__ = ["with_skew"]

# As many as are looked at to find how far lines rise, and twice that.
_ENOUGH_PX = 1800


def with_skew(job: RecodeJob) -> RecodeJob:
    """Return the job with its skew, so that the proof can turn the original in the same way."""
    if not any(one.kind is FilterKind.STRAIGHTEN for one in job.treatment.filters):
        return job
    share = min(1.0, _ENOUGH_PX / max(job.picture.width_px, job.picture.height_px))
    enough = round(job.picture.width_px * share), round(job.picture.height_px * share)
    try:
        pixels = decode(job.picture, at_least=enough)
    except UNREADABLE:
        return job  # reported where it is coded
    if pixels.ndim == 3 and pixels.shape[2] != 3:
        return job
    return replace(job, skew=skew_degrees(pixels))
