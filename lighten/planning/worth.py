"""What each switch is worth on a document, from its weight sheet alone."""

from dataclasses import replace

from lighten.planning.decide import plan
from lighten.planning.estimate import part_estimate
from lighten.presets import Preset
from lighten.treatments import DrawingTreatment, FontTreatment, Treatment
from lighten.weights import PartKind, WeightSheet

__all__ = ["worth"]

_SUBSET = Treatment(fonts=FontTreatment(subset=True))
_NO_STANDARD = Treatment(fonts=FontTreatment(drops_standard=True))
_PLAIN = Treatment()
_PEN = Treatment(drawing=DrawingTreatment(tolerance_pt=0.1))


def worth(sheet: WeightSheet) -> dict[str, int]:
    """Bytes that come off by each switch alone.

    Keys: "fonts.subset", "fonts.drops_standard", "drawing", and "extra." with a kind of extra.
    """
    found = {
        f"extra.{part.extra}": part.size_bytes for part in sheet.parts if part.extra is not None
    }
    found["extra.unused"] = sum(
        part.size_bytes
        for part in sheet.parts
        if part.picture and not part.picture.placements and not part.picture.untouchable
    )
    found["fonts.subset"] = _saved(sheet, _SUBSET, PartKind.FONT)
    found["fonts.drops_standard"] = _saved(sheet, _NO_STANDARD, PartKind.FONT)
    # Packing the rest tighter needs no switch.
    found["drawing"] = _saved(sheet, _PEN, PartKind.DRAWING) - _saved(
        sheet, _PLAIN, PartKind.DRAWING
    )
    return found


def _saved(sheet: WeightSheet, treatment: Treatment, kind: PartKind) -> int:
    own = replace(
        sheet,
        parts=tuple(part for part in sheet.parts if part.kind is kind),
        size_bytes=sum(part.size_bytes for part in sheet.parts if part.kind is kind),
    )
    decisions = plan(own, Preset(name="", title="", description="", treatment=treatment)).decisions
    left = sum(
        part_estimate(part, decision) for part, decision in zip(own.parts, decisions, strict=True)
    )
    return max(0, own.size_bytes - round(left))
