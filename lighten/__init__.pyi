"""Public names by their modules; `lighten/__init__.py` loads each when it is first used.

Grouped by task.
"""

# Open and weigh.
from .registry import FORMATS, format_named, format_of
from .contract import FileKind, Offers, Switch
from .model.source import Progress, Source, TimeLeft, no_progress, share_of

# Plan, estimate, fit to a limit.
from .planning.decide import plan
from .planning.estimate import Estimate, estimate, part_estimates, sheet_estimates
from .model.fit_rules import FitRules
from .planning.fit.fit import Fit, fit, share_limit
from .planning.stakes import Stake, stakes_of
from .planning.switch_savings import switch_savings

# Make copies.
from .making.draw_thumbnails import name_of_part, thumbnail_name, write_thumbnails
from .making.lay_page_apart import LayerPreview, lay_page_apart
from .making.make import copy_ending, make, plan_order, weigh
from .making.make_copy import make_copy
from .making.make_proved_copy import make_proved_copy
from .making.orders import FitOrder, Naming, Order, OrderResult, Piece, numbered_names
from .making.run_trials import run_trials
from .making.split_pages import name_pieces, take_pages
from .making.strips import Strip, make_strips, write_strip
from .making.strips_page import strips_page
from .messages import Attachment, Message, plan_messages
from .pictures.recoding.coding_cache import CodingCache

# Prove copies, and show them beside their originals.
from .proving.any_two import prove_any_two
from .proving.compare import prove
from .proving.side_by_side import Place, SideBySide, read_both

# Pages of pictures, pictures of pages.
from .gathering.arrange import arranged
from .gathering.picture_order import PictureOrder
from .gathering.gather import Gathered, gather
from .gathering.page_look import PageLook, look_at_page
from .gathering.page_sizes import PageSize
from .rasterising.rasterise import Rasterised, RasterPage, rasterise
from .pictures.files import with_resolution
from .pictures.pixels.page_corners import Corners, check_corners

# Values: what is in a file.
from .model.kinds import ExtraKind, PartKind, PictureClass, PictureCoding
from .model.weights import KIND_TITLES, Part, PictureFacts, Placement, Rules, WeightSheet
from .model.sheet_facts import SheetFacts, column_letters

# Values: treatments, presets, limits.
from .model.treatments import (
    ASSUMED_CM,
    WITHOUT_LOSS,
    BitonalMethod,
    ColourChange,
    DrawingTreatment,
    Filter,
    FilterKind,
    FontTreatment,
    PageColours,
    PictureTreatment,
    RasterTreatment,
    Treatment,
)
from .model.presets import DEFAULT_PRESET, PRESETS, Preset, preset_named
from .model.extras import EXTRAS, SAFE_EXTRAS, Extra
from .model.limits import Carrier, Limit, message_bytes, read_limit, rounded_size
from .model.checklists import (
    Check,
    Checklist,
    NamedLimit,
    NameRule,
    check_file,
    checklist_from_json,
    checklist_to_json,
    limit_from_json,
    limit_to_json,
    pages_text,
)
from .model.choice_titles import (
    BITONAL_METHOD_TITLES,
    COLOUR_TITLES,
    FILTER_TITLES,
    PAGE_COLOUR_TITLES,
    PICTURE_CLASS_NAMES,
    PICTURE_CODING_TITLES,
)
from .model.explanations import (
    CLASSES_EXPLAINED,
    PRESETS_EXPLAINED,
    VERDICTS_EXPLAINED,
    Explanation,
)

# Values: plans, trials, proofs, errors.
from .model.plans import Action, Copy, Decision, Outcome, PartException, Plan
from .model.trials import Trials
from .model.proofs import PageProof, PictureProof, Proof, Verdict
from .model.errors import (
    BadPresetError,
    DoesNotFitError,
    LightenError,
    PasswordNeededError,
    UnforeseenDamageError,
)

# Values as JSON, and reports for scripts.
from .model.json_converter import from_json, present_choice, to_json
from .model.preset_json import (
    exceptions_from_json,
    exceptions_to_json,
    preset_from_json,
    preset_to_json,
    treatment_from_json,
    treatment_to_json,
)
from .model.sheet_json import dump_sheet, sheet_from_json, trials_from_json, trials_to_json
from .report import (
    comparison_report,
    copy_report,
    error_report,
    order_result_report,
    piece_report,
    plan_report,
    preset_report,
    proof_report,
    sheet_report,
)

# Worker processes.
from .parallel import keep_workers, prepare_to_work

__all__ = [
    "ASSUMED_CM",
    "BITONAL_METHOD_TITLES",
    "CLASSES_EXPLAINED",
    "COLOUR_TITLES",
    "DEFAULT_PRESET",
    "EXTRAS",
    "FILTER_TITLES",
    "FORMATS",
    "KIND_TITLES",
    "PAGE_COLOUR_TITLES",
    "PICTURE_CLASS_NAMES",
    "PICTURE_CODING_TITLES",
    "PRESETS",
    "PRESETS_EXPLAINED",
    "SAFE_EXTRAS",
    "VERDICTS_EXPLAINED",
    "WITHOUT_LOSS",
    "Action",
    "Attachment",
    "BadPresetError",
    "BitonalMethod",
    "Carrier",
    "Check",
    "Checklist",
    "CodingCache",
    "ColourChange",
    "Copy",
    "Corners",
    "Decision",
    "DoesNotFitError",
    "DrawingTreatment",
    "Estimate",
    "Explanation",
    "Extra",
    "ExtraKind",
    "FileKind",
    "Filter",
    "FilterKind",
    "Fit",
    "FitOrder",
    "FitRules",
    "FontTreatment",
    "Gathered",
    "LayerPreview",
    "LightenError",
    "Limit",
    "Message",
    "NameRule",
    "NamedLimit",
    "Naming",
    "Offers",
    "Order",
    "OrderResult",
    "Outcome",
    "PageColours",
    "PageLook",
    "PageProof",
    "PageSize",
    "Part",
    "PartException",
    "PartKind",
    "PasswordNeededError",
    "PictureClass",
    "PictureCoding",
    "PictureFacts",
    "PictureOrder",
    "PictureProof",
    "PictureTreatment",
    "Piece",
    "Place",
    "Placement",
    "Plan",
    "Preset",
    "Progress",
    "Proof",
    "RasterPage",
    "RasterTreatment",
    "Rasterised",
    "Rules",
    "SheetFacts",
    "SideBySide",
    "Source",
    "Stake",
    "Strip",
    "Switch",
    "TimeLeft",
    "Treatment",
    "Trials",
    "UnforeseenDamageError",
    "Verdict",
    "WeightSheet",
    "arranged",
    "check_corners",
    "check_file",
    "checklist_from_json",
    "checklist_to_json",
    "column_letters",
    "comparison_report",
    "copy_ending",
    "copy_report",
    "dump_sheet",
    "error_report",
    "estimate",
    "exceptions_from_json",
    "exceptions_to_json",
    "fit",
    "format_named",
    "format_of",
    "from_json",
    "gather",
    "keep_workers",
    "lay_page_apart",
    "limit_from_json",
    "limit_to_json",
    "look_at_page",
    "make",
    "make_copy",
    "make_proved_copy",
    "make_strips",
    "message_bytes",
    "name_of_part",
    "name_pieces",
    "no_progress",
    "numbered_names",
    "order_result_report",
    "pages_text",
    "part_estimates",
    "piece_report",
    "plan",
    "plan_messages",
    "plan_order",
    "plan_report",
    "prepare_to_work",
    "present_choice",
    "preset_from_json",
    "preset_named",
    "preset_report",
    "preset_to_json",
    "proof_report",
    "prove",
    "prove_any_two",
    "rasterise",
    "read_both",
    "read_limit",
    "rounded_size",
    "run_trials",
    "share_limit",
    "share_of",
    "sheet_estimates",
    "sheet_from_json",
    "sheet_report",
    "stakes_of",
    "strips_page",
    "switch_savings",
    "take_pages",
    "thumbnail_name",
    "to_json",
    "treatment_from_json",
    "treatment_to_json",
    "trials_from_json",
    "trials_to_json",
    "weigh",
    "with_resolution",
    "write_strip",
    "write_thumbnails",
]
