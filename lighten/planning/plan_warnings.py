"""Warnings to a person about a plan, before a copy is made."""

from collections.abc import Iterator

from lighten.model.extras import EXTRAS
from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.plans import Action, Decision
from lighten.model.treatments import READABLE_TEXT_PPI, ColourChange, Treatment
from lighten.model.weights import Rules, WeightSheet

__all__ = ["warnings_of", "withheld_by_rules"]

_CODING_TITLES = {PictureCoding.JPEG_2000: "JPEG 2000"}


def withheld_by_rules(rules: Rules, treatment: Treatment, allowed: Treatment) -> Iterator[str]:
    """Return the choices that are not carried out, so that the file keeps its standard."""
    if treatment.fonts != allowed.fonts:
        yield f"It is {rules.standard}: its fonts stay as that level asks."
    withheld = {
        treatment.for_class(picture_class).coding
        for picture_class in treatment.pictures
        if treatment.for_class(picture_class) != allowed.for_class(picture_class)
    }
    for coding in sorted(withheld):
        title = _CODING_TITLES.get(coding, str(coding))
        yield f"It is {rules.standard}, which has no {title}: other codings are used."


def warnings_of(
    sheet: WeightSheet, treatment: Treatment, decisions: tuple[Decision, ...]
) -> Iterator[str]:
    by_id = {decision.part_id: decision for decision in decisions}
    dropped_kinds = dict.fromkeys(
        part.extra_kind
        for part in sheet.parts
        if part.extra_kind is not None and by_id[part.id].action is Action.DROP
    )
    for kind in dropped_kinds:
        if EXTRAS[kind].warning:
            yield EXTRAS[kind].warning
    dropped = [part.font for part in sheet.parts if by_id[part.id].action is Action.DROP]
    if any(font and font.is_brought_along for font in dropped):
        yield "Fonts go that the document brings along: lines may break elsewhere without them."
    if any(font and font.can_be_spared and not font.is_standard for font in dropped):
        yield "Fonts are removed: readers show their text in others, and letters look different."
    if any(font and font.is_standard for font in dropped):
        yield "Standard fonts are left to the reader's own: letters may look a little different."
    coarse = [
        by_id[part.id].picture
        for part in sheet.parts
        if part.picture and part.picture.picture_class is PictureClass.PAGE_SCAN
    ]
    if any(
        treated and treated.finest_ppi and treated.finest_ppi < READABLE_TEXT_PPI
        for treated in coarse
    ):
        yield "Scanned pages go below 150 ppi: small print may be hard to read."
    if any(
        decision.picture is not None and decision.picture.colour is ColourChange.BITONAL
        for decision in decisions
    ):
        yield "Black and white loses thin strokes, the smooth edge of letters, and photos."
    if any(decision.cut is not None for decision in decisions):
        yield "What is hidden by cropping is cut away and cannot be brought back."
