"""Green Satchel's core: says what is heavy in a document and makes lighter, proved copies.

path -> weigh -> WeightSheet -> plan -> Plan -> estimate | make_copy -> Copy -> prove -> Proof
"""

from lighten.api import make_copy, make_proved_copy, weigh
from lighten.contract import Source
from lighten.errors import LightenError
from lighten.limits import Carrier, Limit, message_bytes
from lighten.planning import Estimate, estimate, plan
from lighten.plans import Action, Copy, Decision, Outcome, PictureException, Plan
from lighten.presets import DEFAULT_PRESET, PRESETS, Preset, preset_named
from lighten.proofs import PageProof, PictureProof, Proof, Verdict
from lighten.proving import prove
from lighten.registry import FORMATS
from lighten.treatments import (
    ColourChange,
    DrawingTreatment,
    Filter,
    FilterKind,
    FontTreatment,
    PictureCoding,
    PictureTreatment,
    Treatment,
    TwoToneMethod,
)
from lighten.weights import (
    ExtraKind,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    Placement,
    WeightSheet,
)

__all__ = [
    "DEFAULT_PRESET",
    "FORMATS",
    "PRESETS",
    "Action",
    "Carrier",
    "ColourChange",
    "Copy",
    "Decision",
    "DrawingTreatment",
    "Estimate",
    "ExtraKind",
    "Filter",
    "FilterKind",
    "FontTreatment",
    "LightenError",
    "Limit",
    "Outcome",
    "PageProof",
    "Part",
    "PartKind",
    "PictureClass",
    "PictureCoding",
    "PictureException",
    "PictureFacts",
    "PictureProof",
    "PictureTreatment",
    "Placement",
    "Plan",
    "Preset",
    "Proof",
    "Source",
    "Treatment",
    "TwoToneMethod",
    "Verdict",
    "WeightSheet",
    "estimate",
    "make_copy",
    "make_proved_copy",
    "message_bytes",
    "plan",
    "preset_named",
    "prove",
    "weigh",
]
