"""The decision for each part of one document, with its reason."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from lighten.pictures.sizes import grown, target_size
from lighten.plans import Action, Decision, PictureException, Plan
from lighten.presets import Preset
from lighten.treatments import (
    FEWEST_TEXT_PPI,
    LOSSLESS,
    READABLE_TEXT_PPI,
    ColourChange,
    DrawingTreatment,
    FontTreatment,
    PictureCoding,
    PictureTreatment,
    Treatment,
)
from lighten.weights import (
    ExtraKind,
    FontCoding,
    FontFacts,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    WeightSheet,
)

__all__ = ["plan"]

_LOSSY_CODINGS = ("DCT", "JPX")
_DEEP_BITS = 16  # coded anew they have 8
_WORTH_CUTTING = 0.9
# What clipping leaves in sight is known to a fraction of a pixel only, and edges are smoothed.
_CUT_MARGIN = 0.01
_CANNOT_PACK = "left as it is: its coding cannot be packed tighter without loss"
_LOSSES = {
    ExtraKind.METADATA: "Title, author and other descriptions go.",
    ExtraKind.ATTACHMENTS: "Attached files go.",
    ExtraKind.SCRIPTS: "Scripts go; forms may no longer calculate or check what is typed.",
    ExtraKind.NOTES: "Notes and answers to them go.",
    ExtraKind.MARKINGS: "Highlighting and other markings of text go.",
    ExtraKind.TYPED_TEXT: "Text that was typed onto pages goes.",
    ExtraKind.DRAWN_MARKS: "Lines, shapes and handwriting that were drawn onto pages go.",
    ExtraKind.STAMPS: "Stamps go.",
    ExtraKind.MEDIA: "Sound, films and solid models go.",
    ExtraKind.HIDDEN_LAYERS: "Layers that are switched off go and cannot be switched on again.",
    ExtraKind.LAYERS: "All layers become one; those switched off go.",
    ExtraKind.FORM_FIELDS: "Form fields become plain content and can no longer be filled in.",
    ExtraKind.BOOKMARKS: "Bookmarks go.",
    ExtraKind.TAGS: "Tags go: screen readers no longer know headings, tables and reading order.",
}


def plan(
    sheet: WeightSheet,
    preset: Preset,
    *,
    exceptions: Mapping[str, PictureException] | None = None,
    may_end_signature: bool = False,
    may_blur_text: bool = False,
) -> Plan:
    """What `preset` does to each part of the document of `sheet`.

    exceptions: by part id, pictures that are treated otherwise.
    may_blur_text: pages held as pictures may go below what text can be read at.
    """
    treatment = _allowed(sheet, preset.treatment)
    chosen = exceptions or {}
    decisions = tuple(
        _decide(part, treatment, chosen.get(part.id), sheet, may_blur_text=may_blur_text)
        for part in sheet.parts
    )
    return Plan(
        preset=preset.name,
        size_bytes=sheet.size_bytes,
        decisions=decisions,
        fonts=treatment.fonts,
        drawing=treatment.drawing,
        is_linearized=treatment.is_linearized,
        may_end_signature=may_end_signature,
        warnings=(
            *_withheld(sheet, preset.treatment, treatment),
            *_warnings(sheet, treatment, decisions),
        ),
    )


def _allowed(sheet: WeightSheet, treatment: Treatment) -> Treatment:
    """The treatment without what would end the archive level that the document claims."""
    fonts, pictures = treatment.fonts, treatment.pictures
    if sheet.standard:
        # ISO 19005-1, 6.3.4 and its successors: all fonts are embedded.
        fonts = replace(fonts, drops_standard=False)
    if sheet.standard.startswith("PDF/A-1"):
        # 6.3.5: a subset lists its glyphs; a font may not lose some and keep the list.
        fonts = FontTreatment()
        pictures = {one: _without_jpeg_2000(wanted) for one, wanted in pictures.items()}
    return replace(treatment, fonts=fonts, pictures=pictures)


def _without_jpeg_2000(wanted: PictureTreatment) -> PictureTreatment:
    """ISO 19005-1 is PDF 1.4, which has no JPEG 2000."""
    if wanted.coding is PictureCoding.JPEG_2000:
        return replace(wanted, coding=PictureCoding.AUTOMATIC)
    return wanted


def _decide(
    part: Part,
    treatment: Treatment,
    exception: PictureException | None,
    sheet: WeightSheet,
    *,
    may_blur_text: bool,
) -> Decision:
    match part.kind:
        case PartKind.PICTURE:
            assert part.picture is not None
            return _decide_picture(
                part.id, part.picture, treatment, exception, may_blur_text=may_blur_text
            )
        case PartKind.EXTRA:
            return _decide_extra(part, treatment, sheet)
        case PartKind.FONT:
            assert part.font is not None
            return _decide_font(part.id, part.font, treatment.fonts)
        case PartKind.DRAWING:
            return _decide_drawing(part.id, treatment.drawing)
        case _:
            return Decision(part_id=part.id, action=Action.PACK, reason="unchanged, packed tighter")


def _decide_picture(
    part_id: str,
    facts: PictureFacts,
    treatment: Treatment,
    exception: PictureException | None,
    *,
    may_blur_text: bool,
) -> Decision:
    if exception is not None and exception.is_exempt:
        return Decision(part_id=part_id, action=Action.KEEP, reason="left as it is: exempted")
    if facts.untouchable:
        return Decision(part_id=part_id, action=Action.KEEP, reason=facts.untouchable)
    wanted = treatment.for_class(facts.picture_class)
    if exception is not None and exception.replacement is not None:
        return Decision(
            part_id=part_id,
            action=Action.REPLACE,
            reason="replaced by a picture you brought",
            picture=wanted if wanted.quality else replace(wanted, quality=90),
            replacement=exception.replacement,
        )
    if exception is not None and exception.treatment is not None:
        wanted = exception.treatment
    elif not facts.placements and ExtraKind.UNUSED in treatment.dropped_extras:
        return Decision(
            part_id=part_id,
            action=Action.DROP,
            reason="no page shows it",
            picture=_as_lines(facts, wanted),
        )
    return _decide_treated(part_id, facts, _as_lines(facts, wanted), may_blur_text=may_blur_text)


def _as_lines(facts: PictureFacts, wanted: PictureTreatment) -> PictureTreatment:
    """Stencils and pictures of two tones have no use for greys and colours."""
    if facts.picture_class is PictureClass.STENCIL:
        wanted = replace(wanted, colour=ColourChange.KEEP, quality=None)
    if wanted.coding is PictureCoding.GROUP_4 and facts.picture_class not in (
        PictureClass.STENCIL,
        PictureClass.TWO_TONE,
    ):
        return replace(wanted, colour=ColourChange.TWO_TONE)
    return wanted


def _decide_treated(
    part_id: str, facts: PictureFacts, wanted: PictureTreatment, *, may_blur_text: bool
) -> Decision:
    cut = _cut(facts) if wanted.cuts_hidden else None
    asked_ppi = wanted.finest_ppi
    if facts.picture_class is PictureClass.PAGE_SCAN and not may_blur_text and asked_ppi:
        wanted = replace(wanted, finest_ppi=max(asked_ppi, FEWEST_TEXT_PPI))
    target = _target(facts, wanted)
    is_lossy_now = facts.coding.split(" ")[-1] in _LOSSY_CODINGS
    is_exact = wanted.quality is None or wanted.coding is PictureCoding.LOSSLESS
    is_same_look = target is None and cut is None and not wanted.changes_looks
    if is_exact and is_same_look and (is_lossy_now or facts.bits == _DEEP_BITS):
        return Decision(part_id=part_id, action=Action.KEEP, reason=_CANNOT_PACK)
    return Decision(
        part_id=part_id,
        action=Action.RECODE if target is None else Action.RESAMPLE,
        reason=_reason(facts, wanted, target, is_exact=is_exact and is_same_look),
        target_px=target,
        picture=wanted,
        cut=cut,
    )


def _target(facts: PictureFacts, wanted: PictureTreatment) -> tuple[int, int] | None:
    """The size to resample to, of the whole picture; None if it stays."""
    stored = (facts.width_px, facts.height_px)
    shown = facts.largest_display_pt
    target = None
    if shown is not None and wanted.finest_ppi is not None:
        is_fine = wanted.above_ppi is None or (facts.ppi or 0) > wanted.above_ppi
        target = target_size(shown, stored, wanted.finest_ppi) if is_fine else None
    width, height = target or stored
    if wanted.scale_percent is not None:
        share = wanted.scale_percent / 100
        width = min(width, max(1, round(stored[0] * share)))
        height = min(height, max(1, round(stored[1] * share)))
    if wanted.largest_px is not None and max(width, height) > wanted.largest_px:
        share = wanted.largest_px / max(width, height)
        width, height = max(1, round(width * share)), max(1, round(height * share))
    if wanted.smallest_px is not None and max(width, height) < wanted.smallest_px:
        width, height = grown((width, height), wanted.smallest_px, stored)
    return None if (width, height) == stored else (width, height)


def _cut(facts: PictureFacts) -> tuple[float, float, float, float] | None:
    """The part to keep, with a margin; None where too little is hidden to be worth it."""
    left, top, right, bottom = facts.visible
    left, top = max(0.0, left - _CUT_MARGIN), max(0.0, top - _CUT_MARGIN)
    right, bottom = min(1.0, right + _CUT_MARGIN), min(1.0, bottom + _CUT_MARGIN)
    share = (right - left) * (bottom - top)
    return (left, top, right, bottom) if 0 < share < _WORTH_CUTTING else None


def _reason(
    facts: PictureFacts,
    wanted: PictureTreatment,
    target: tuple[int, int] | None,
    *,
    is_exact: bool,
) -> str:
    steps = []
    if target is not None and facts.ppi is not None:
        left = replace(facts, width_px=target[0], height_px=target[1])
        steps.append(f"{facts.ppi:.0f} to {left.ppi:.0f} ppi")
    elif target is not None:
        steps.append(f"to {target[0]} x {target[1]} pixels")
    elif is_exact:
        steps.append("packed tighter, every pixel kept")
    elif facts.ppi is not None:
        steps.append(f"{facts.ppi:.0f} ppi already, coded anew if that is lighter")
    else:
        steps.append("shown on no page, coded anew if that is lighter")
    if wanted.colour is not ColourChange.KEEP:
        steps.append(f"to {str(wanted.colour).replace('-', ' ')}")
    steps += [str(one.kind).replace("-", " ") for one in wanted.filters]
    return ", ".join(steps)


def _decide_font(part_id: str, facts: FontFacts, wanted: FontTreatment) -> Decision:
    if wanted.drops_standard and facts.is_standard:
        reason = "left out: one of the standard 14 that every reader brings"
        return Decision(part_id=part_id, action=Action.DROP, reason=reason)
    if wanted.subset and facts.coding is not FontCoding.OPENTYPE:
        reason = "only the letters in use stay"
        if facts.coding is FontCoding.TYPE_1:
            reason += ", in the tighter CFF form"
        return Decision(part_id=part_id, action=Action.RECODE, reason=reason)
    return Decision(part_id=part_id, action=Action.PACK, reason="same font, packed tighter")


def _decide_drawing(part_id: str, wanted: DrawingTreatment) -> Decision:
    if wanted.tolerance_pt is not None or wanted.constant_width:
        reason = "pen strokes simplified, the rest packed tighter"
        return Decision(part_id=part_id, action=Action.RECODE, reason=reason)
    return Decision(part_id=part_id, action=Action.PACK, reason="unchanged, packed tighter")


def _decide_extra(part: Part, treatment: Treatment, sheet: WeightSheet) -> Decision:
    if part.extra in treatment.dropped_extras:
        if needed := _archive_need(part.extra, sheet.standard):
            return Decision(part_id=part.id, action=Action.KEEP, reason=needed)
        return Decision(part_id=part.id, action=Action.DROP, reason="no page needs it")
    return Decision(part_id=part.id, action=Action.KEEP, reason="kept: not asked to drop it")


def _archive_need(extra: ExtraKind | None, standard: str) -> str:
    """Why an archive level needs the extra, or "" (ISO 19005: 6.7 metadata, 6.8 tags)."""
    if standard and (
        extra is ExtraKind.METADATA or (extra is ExtraKind.TAGS and standard.endswith("a"))
    ):
        return f"kept: {standard} asks for it"
    return ""


def _withheld(sheet: WeightSheet, asked: Treatment, allowed: Treatment) -> Iterator[str]:
    """What was asked for and is not done, so that the archive level stays."""
    if asked.fonts != allowed.fonts:
        yield f"It is {sheet.standard}: its fonts stay as that level asks."
    if any(
        asked.for_class(one).coding is not allowed.for_class(one).coding for one in asked.pictures
    ):
        yield f"It is {sheet.standard}, which has no JPEG 2000: other codings are used."


def _warnings(
    sheet: WeightSheet, treatment: Treatment, decisions: tuple[Decision, ...]
) -> Iterator[str]:
    by_id = {decision.part_id: decision for decision in decisions}
    for part in sheet.parts:
        is_dropped = by_id[part.id].action is Action.DROP
        if part.extra in _LOSSES and is_dropped:
            yield _LOSSES[part.extra]
    if any(part.font and by_id[part.id].action is Action.DROP for part in sheet.parts):
        yield "Standard fonts are left to the reader's own: letters may look a little different."
    coarse = [
        by_id[part.id].picture
        for part in sheet.parts
        if part.picture and part.picture.picture_class is PictureClass.PAGE_SCAN
    ]
    if any(one and one.finest_ppi and one.finest_ppi < READABLE_TEXT_PPI for one in coarse):
        yield "Scanned pages go below 150 ppi: small print may be hard to read."
    if any(
        one.picture is not None and one.picture.colour is ColourChange.TWO_TONE for one in decisions
    ):
        yield "Turning to two tones loses thin strokes, the smooth edge of letters, and photos."
    if treatment.pictures.get(PictureClass.PHOTO, LOSSLESS).cuts_hidden:
        yield "What is hidden by cropping is cut away and cannot be brought back."
