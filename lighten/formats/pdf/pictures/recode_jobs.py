"""Recoding jobs for pictures of a PDF, with everything that the engine needs."""

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.part_ids import part_object
from lighten.formats.pdf.pictures.read_pictures import read_picture, why_untouchable
from lighten.model.kinds import PictureCoding
from lighten.model.plans import Action, Decision
from lighten.model.treatments import LOSSLESS, ColourChange
from lighten.model.weights import Part
from lighten.pictures.coding.stored import StoredPicture
from lighten.pictures.pixels.sizes import screen_px
from lighten.pictures.recoding.recode_job import RecodeJob, within_cut

__all__ = ["recode_job"]


def recode_job(
    pdf: pikepdf.Pdf,
    part: Part,
    decision: Decision,
    mask_owners: dict[ObjectId, str],
    *,
    may_be_jbig2: bool,
) -> RecodeJob:
    """The decision with all it needs from the file.

    mask_owners: which picture a shared soft mask is recoded with, the first that asks; it grows.
    Raises: KeyError for a part that is no picture.
    """
    picture = part_object(pdf, part.id)
    if part.picture is None or not isinstance(picture, pikepdf.Stream):
        raise KeyError(part.id)
    treatment = decision.picture or LOSSLESS
    changes_colour = treatment.colour is not ColourChange.KEEP or bool(part.picture.untouchable)
    # What is kept as it is, is drawn to be recognised.
    is_drawn = changes_colour or decision.action is Action.KEEP
    stored = read_picture(picture, with_rendering=is_drawn)
    mask = _mask_to_recode(picture, part.id, mask_owners)
    target = within_cut(decision.target_px, decision.cut)
    has_matte = isinstance(picture.get("/SMask"), pikepdf.Stream) and "/Matte" in picture.SMask
    return RecodeJob(
        picture=stored,
        mask=mask,
        has_matte=has_matte,
        picture_class=part.picture.picture_class,
        target_px=target,
        mask_target_px=_mask_target(stored, mask, target, decision, is_bound=has_matte),
        treatment=treatment,
        cut=decision.cut,
        replacement=decision.replacement,
        shown_px=screen_px(part.picture),
        may_repack=part.picture.may_repack,
        may_be_layers=True,
        may_be_jbig2=may_be_jbig2 and treatment.coding is not PictureCoding.GROUP_4,
    )


def _mask_target(
    stored: StoredPicture,
    mask: StoredPicture | None,
    target_px: tuple[int, int] | None,
    decision: Decision,
    *,
    is_bound: bool,
) -> tuple[int, int] | None:
    """A mask may be finer than its picture: it is brought to no less than the picture's own."""
    if mask is None or target_px is None or decision.target_px is None:
        return None
    if is_bound:  # ISO 32000-1, table 146: Matte asks for equal sizes
        return target_px
    shrink = max(
        target / now
        for target, now in zip(decision.target_px, (stored.width_px, stored.height_px), strict=True)
    )
    whole = (
        min(mask.width_px, max(decision.target_px[0], round(mask.width_px * shrink))),
        min(mask.height_px, max(decision.target_px[1], round(mask.height_px * shrink))),
    )
    return within_cut(whole, decision.cut)


def _mask_to_recode(
    picture: pikepdf.Stream, part_id: str, mask_owners: dict[ObjectId, str]
) -> StoredPicture | None:
    """Return the soft mask to re-encode; None if it is shared or has no exact form."""
    mask = picture.get("/SMask")
    if not isinstance(mask, pikepdf.Stream):
        return None
    if mask_owners.setdefault(mask.objgen, part_id) != part_id or why_untouchable(mask):
        return None
    stored = read_picture(mask)
    return None if stored.is_lossy else stored
