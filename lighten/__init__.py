"""Green Satchel's core: says what is heavy in a document and makes lighter, proved copies.

path -> weigh -> WeightSheet -> plan -> Plan -> estimate | make_copy -> Copy -> prove -> Proof
"""

from lighten.api import make_copy, make_proved_copy, weigh
from lighten.contract import Source
from lighten.errors import LightenError
from lighten.limits import Carrier, Limit, message_bytes
from lighten.planning import Estimate, estimate, plan
from lighten.plans import Action, Copy, Decision, Outcome, Plan
from lighten.proofs import PageProof, PictureProof, Proof, Verdict
from lighten.proving import prove
from lighten.registry import FORMATS
from lighten.treatments import PRESETS, Preset, Treatment, preset_named
from lighten.weights import Part, PartKind, PictureClass, PictureFacts, Placement, WeightSheet

__all__ = [
    "FORMATS",
    "PRESETS",
    "Action",
    "Carrier",
    "Copy",
    "Decision",
    "Estimate",
    "LightenError",
    "Limit",
    "Outcome",
    "PageProof",
    "Part",
    "PartKind",
    "PictureClass",
    "PictureFacts",
    "PictureProof",
    "Placement",
    "Plan",
    "Preset",
    "Proof",
    "Source",
    "Treatment",
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
