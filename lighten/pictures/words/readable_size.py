"""The size at which the words of a picture stay readable, for a picture that is made lighter."""

from dataclasses import replace

from lighten.model.kinds import PictureClass
from lighten.pictures.coding.decode import UNREADABLE, decode
from lighten.pictures.pixels.sizes import SCREEN_PPI
from lighten.pictures.recoding.recode_job import RecodeJob, cut_out, within_cut
from lighten.pictures.words.legibility import ENOUGH_PPI, READ_PPI, at_reading_size, readable_share

# Letters so small that a picture needs all its pixels are kept clear of ringing: on photos, the
# share of words that tesseract reads as before rises from .75 at 57 to .91.
_QUALITY_OF_SMALL_PRINT = 88

__all__ = ["readable_px", "with_readable_size"]


def with_readable_size(job: RecodeJob) -> tuple[RecodeJob, str]:
    """Return the job with as many pixels as its words need, and the reason; "" where it had them.

    Only where the treatment keeps words, and fewer pixels were asked for.
    """
    target = job.target_px
    if not job.treatment.keeps_words or target is None or job.shown_px is None:
        return job, ""
    shown = within_cut(job.shown_px, job.cut) or job.shown_px
    if target[0] / shown[0] * SCREEN_PPI >= ENOUGH_PPI:
        return job, ""
    needed = readable_px(job) if job.words_px is None else job.words_px
    if needed <= target[0]:
        return job, ""
    whole = within_cut((job.picture.width_px, job.picture.height_px), job.cut)
    assert whole is not None
    is_all = needed >= whole[0]
    size = None if is_all else (needed, max(1, round(target[1] * needed / target[0])))
    ppi = min(needed, whole[0]) / shown[0] * SCREEN_PPI
    mask = job.mask_target_px if size is not None else None
    if size is not None and mask is not None and mask[0] < size[0]:
        mask = size
    treatment = job.treatment
    if is_all and treatment.quality is not None:
        # What was coded with loss is kept as it is coded, where letters are hardly read any more.
        is_exact = needed > whole[0] and job.picture.is_lossy
        quality = None if is_exact else max(treatment.quality, _QUALITY_OF_SMALL_PRINT)
        treatment = replace(treatment, quality=quality)
    # What was decoded for fewer pixels is too coarse.
    return (
        replace(
            job,
            target_px=size,
            mask_target_px=mask,
            treatment=treatment,
            decoded=None,
            reference=None,
        ),
        f"{ppi:.0f} ppi: small print",
    )


def readable_px(job: RecodeJob) -> int:
    """Return the fewest pixels across, of the part within the cut, that keep its words readable.

    More than it has where these should not be coded with loss either. 0 where it has none, or
    where that is unknown: inks and tables of other meanings.
    """
    picture, shown = job.picture, job.shown_px
    if shown is None or picture.is_foreign or picture.is_stretched or picture.is_mask:
        return 0
    enough = tuple(round(side * READ_PPI / SCREEN_PPI) for side in shown)
    try:
        pixels = cut_out(job, decode(picture, at_least=(enough[0], enough[1])))
    except UNREADABLE:
        return 0
    whole = within_cut((picture.width_px, picture.height_px), job.cut)
    shown = within_cut(shown, job.cut)
    assert whole is not None and shown is not None
    light = at_reading_size(pixels, shown, SCREEN_PPI)
    share = readable_share(light, is_photo=job.picture_class is PictureClass.PHOTO)
    # At the reading size a whole picture may have fewer pixels than are stored.
    return round(share * int(light.shape[1])) + (share > 1)
