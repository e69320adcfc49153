"""What a satchel asks for its documents, and what that would make of them."""

import hashlib
import json
from dataclasses import replace
from typing import Any

from lighten import Plan, Preset, estimate, plan
from lighten.plans import PictureException
from lighten.stored import restore_sheet
from lighten.stored_treatments import (
    restore_exceptions,
    restore_treatment,
    store_treatment,
)
from lighten.weights import WeightSheet
from web.presets.library import find_preset, presets_of
from web.problems import Problem
from web.satchels.models import Document, Satchel

__all__ = ["estimates_of", "exceptions_of", "key_of", "plan_for", "wanted_preset"]

CURRENT = "current"
_MOST_KEPT = 24

Json = dict[str, Any]


def wanted_preset(satchel: Satchel) -> Preset:
    """The satchel's preset, with what was tuned on the bench."""
    try:
        preset = find_preset(satchel.owner, satchel.preset)
    except Problem:
        preset = find_preset(satchel.owner, "reading-desk")
    if satchel.treatment is None:
        return preset
    return replace(preset, treatment=restore_treatment(satchel.treatment))


def exceptions_of(document: Document) -> dict[str, PictureException]:
    return restore_exceptions(document.exceptions, document.replacements_path)


def key_of(preset: Preset, document: Document) -> str:
    """Tells apart whatever leads to another copy of the document."""
    asked = [store_treatment(preset.treatment), document.exceptions]
    return hashlib.sha256(json.dumps(asked, sort_keys=True).encode()).hexdigest()[:24]


def plan_for(document: Document, preset: Preset, sheet: WeightSheet) -> Plan:
    return plan(sheet, preset, exceptions=exceptions_of(document))


def estimates_of(document: Document, satchel: Satchel) -> Json:
    """What each preset would make of it, and "current": what is wanted of it now.

    Kept with the document, so that each is computed once.
    """
    if document.sheet is None:
        return {}
    wanted = {preset.name: preset for preset in presets_of(satchel.owner)}
    wanted[CURRENT] = wanted_preset(satchel)
    keys = {name: key_of(preset, document) for name, preset in wanted.items()}
    missing = [name for name, key in keys.items() if key not in document.estimates]
    if missing:
        sheet = restore_sheet(document.sheet)
        known = dict(list(document.estimates.items())[-_MOST_KEPT:])
        found = {keys[name]: _estimate(document, wanted[name], sheet) for name in missing}
        document.estimates = {**known, **found}
        Document.objects.filter(pk=document.pk).update(estimates=document.estimates)
        keys = {name: key for name, key in keys.items() if key in document.estimates}
    return {name: document.estimates[key] for name, key in keys.items()}


def _estimate(document: Document, preset: Preset, sheet: WeightSheet) -> Json:
    chosen = plan_for(document, preset, sheet)
    likely = estimate(sheet, chosen)
    return {
        "bytes": likely.size_bytes,
        "low": likely.low_bytes,
        "high": likely.high_bytes,
        "warnings": list(chosen.warnings),
    }
