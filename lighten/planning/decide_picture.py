"""The decision on a picture, with its reason."""

from dataclasses import replace

from lighten.model.kinds import ExtraKind, PictureClass, PictureCoding
from lighten.model.plans import Action, Decision, PartException
from lighten.model.treatments import (
    ASSUMED_CM,
    FEWEST_TEXT_PPI,
    ColourChange,
    PictureTreatment,
    Treatment,
)
from lighten.model.weights import PictureFacts
from lighten.pictures.pixels.sizes import target_size, upscaled_to
from lighten.pictures.recoding.recode_job import Cut

__all__ = ["PLAIN_COLOURS", "cut_to_visible", "decide_picture"]

_DEEP_BITS = 16  # coded anew they have 8
_WORTH_CUTTING = 0.9
# What clipping leaves in sight is known to a fraction of a pixel only, and edges are smoothed.
_CUT_MARGIN = 0.01
PLAIN_COLOURS = (
    ColourChange.RGB,
    ColourChange.GREY,
    ColourChange.BITONAL,
    ColourChange.COLOURS_256,
    ColourChange.COLOURS_16,
)
# What is looked at by itself shows more than what stands on a page: the worst of eight photos rises
# from 73.7 to 76 (SSIMULACRA2) at 150 ppi and quality 81.
_FINER_ALONE, _FINEST_ALONE = 4, 95
# Profiles of screens and cameras weigh up to some kilobytes; those of printers go on to megabytes,
# and say on most of them how to print.
_HEAVY_PROFILE_BYTES = 30_000
_CANNOT_PACK = "kept: its coding cannot be packed tighter without loss"


def decide_picture(
    part_id: str,
    facts: PictureFacts,
    treatment: Treatment,
    exception: PartException | None,
    *,
    may_blur_text: bool,
) -> Decision:
    if facts.untouchable:
        return Decision(part_id=part_id, action=Action.KEEP, reason=facts.untouchable)
    facts = _at_assumed_size(facts, treatment)
    own = treatment.for_class(facts.picture_class)
    if exception is not None and exception.replacement is not None:
        return Decision(
            part_id=part_id,
            action=Action.REPLACE,
            reason="replaced by a picture you brought",
            picture=own if own.quality else replace(own, quality=90),
            replacement=exception.replacement,
        )
    if exception is not None and exception.treatment is not None:
        own = exception.treatment
    elif not facts.placements and ExtraKind.UNUSED in treatment.dropped_extras:
        return Decision(
            part_id=part_id,
            action=Action.DROP,
            reason="no page shows it",
            picture=_as_lines(facts, own),
        )
    return _decide_treated(part_id, facts, _as_lines(facts, own), may_blur_text=may_blur_text)


def _at_assumed_size(facts: PictureFacts, treatment: Treatment) -> PictureFacts:
    """Return the facts with the treatment's assumed size, for a picture without a size."""
    share = treatment.assumed_cm / ASSUMED_CM
    if not facts.has_assumed_size or share == 1:
        return facts
    return replace(
        facts,
        placements=tuple(
            replace(
                placement,
                width_pt=placement.width_pt * share,
                height_pt=placement.height_pt * share,
            )
            for placement in facts.placements
        ),
    )


def _as_lines(facts: PictureFacts, own: PictureTreatment) -> PictureTreatment:
    """Adapt a treatment to masks and bitonal pictures, which have no greys and colours."""
    if facts.picture_class is PictureClass.MASK:
        own = replace(own, colour=ColourChange.KEEP, quality=None)
    if own.coding is PictureCoding.GROUP_4 and facts.picture_class not in (
        PictureClass.MASK,
        PictureClass.BITONAL,
    ):
        return replace(own, colour=ColourChange.BITONAL)
    return own


def _decide_treated(
    part_id: str, facts: PictureFacts, own: PictureTreatment, *, may_blur_text: bool
) -> Decision:
    cut = cut_to_visible(facts) if own.cuts_hidden else None
    if may_blur_text:
        own = replace(own, keeps_words=False)
    if facts.picture_class is PictureClass.PAGE_SCAN and not may_blur_text and own.finest_ppi:
        own = replace(own, finest_ppi=max(own.finest_ppi, FEWEST_TEXT_PPI))
    if facts.is_alone and own.quality is not None:
        own = replace(own, quality=min(_FINEST_ALONE, own.quality + _FINER_ALONE))
    if _profile_is_worth_it(facts, own):
        own = replace(own, colour=ColourChange.RGB)
    target = _target(facts, own)
    is_exact = own.quality is None or own.coding is PictureCoding.LOSSLESS
    is_same_look = target is None and cut is None and not own.changes_looks
    cannot_pack = (facts.is_lossy or facts.bits == _DEEP_BITS) and not facts.may_repack
    if is_exact and is_same_look and cannot_pack:
        return Decision(part_id=part_id, action=Action.KEEP, reason=_CANNOT_PACK)
    return Decision(
        part_id=part_id,
        action=Action.RECODE if target is None else Action.RESAMPLE,
        reason=_reason(facts, own, target, is_exact=is_exact and is_same_look, is_cut=bool(cut)),
        target_px=target,
        picture=own,
        cut=cut,
    )


def _profile_is_worth_it(facts: PictureFacts, own: PictureTreatment) -> bool:
    """Return whether a heavy profile is worth dropping where looks may change a little."""
    is_lossy = own.quality is not None and own.coding is not PictureCoding.LOSSLESS
    return (
        is_lossy
        and own.colour is ColourChange.KEEP
        and facts.rgb_profile_bytes > _HEAVY_PROFILE_BYTES
    )


def _target(facts: PictureFacts, own: PictureTreatment) -> tuple[int, int] | None:
    """Return the size to resample the whole picture to; None if it stays."""
    stored = (facts.width_px, facts.height_px)
    shown = facts.largest_display_pt
    target = None
    if shown is not None and own.finest_ppi is not None:
        is_fine = own.above_ppi is None or (facts.ppi or 0) > own.above_ppi
        target = target_size(shown, stored, own.finest_ppi) if is_fine else None
    width, height = target or stored
    if own.scale_percent is not None:
        share = own.scale_percent / 100
        width = min(width, max(1, round(stored[0] * share)))
        height = min(height, max(1, round(stored[1] * share)))
    if own.largest_px is not None and max(width, height) > own.largest_px:
        share = own.largest_px / max(width, height)
        width, height = max(1, round(width * share)), max(1, round(height * share))
    if own.smallest_px is not None and max(width, height) < own.smallest_px:
        width, height = upscaled_to((width, height), own.smallest_px, stored)
    return None if (width, height) == stored else (width, height)


def cut_to_visible(facts: PictureFacts) -> Cut | None:
    """Return the part of a picture that is in sight, with a margin, as shares of its sides.

    None where too little is hidden to be worth it.
    """
    left, top, right, bottom = facts.visible
    left, top = max(0.0, left - _CUT_MARGIN), max(0.0, top - _CUT_MARGIN)
    right, bottom = min(1.0, right + _CUT_MARGIN), min(1.0, bottom + _CUT_MARGIN)
    share = (right - left) * (bottom - top)
    return (left, top, right, bottom) if 0 < share < _WORTH_CUTTING else None


def _reason(
    facts: PictureFacts,
    own: PictureTreatment,
    target: tuple[int, int] | None,
    *,
    is_exact: bool,
    is_cut: bool,
) -> str:
    steps = ["cut to what shows"] if is_cut else []
    if own.coding is PictureCoding.LAYERS and facts.picture_class is PictureClass.PAGE_SCAN:
        steps.append("in layers where these show the same")
    if target is not None and facts.ppi is not None:
        left = replace(facts, width_px=target[0], height_px=target[1])
        steps.append(f"{facts.ppi:.0f} to {left.ppi:.0f} ppi")
    elif target is not None:
        steps.append(f"to {target[0]} x {target[1]} pixels")
    elif is_exact:
        steps.append("packed tighter, every pixel kept")
    elif facts.ppi is not None:
        steps.append(f"{facts.ppi:.0f} ppi already, re-encoded if that is smaller")
    else:
        steps.append("shown on no page, re-encoded if that is smaller")
    if own.colour is not ColourChange.KEEP:
        steps.append(f"to {str(own.colour).replace('-', ' ')}")
    steps += [str(filter_.kind).replace("-", " ") for filter_ in own.filters]
    return ", ".join(steps)
