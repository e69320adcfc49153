"""What a satchel asks for its documents, and what that would make of them."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from lighten import DEFAULT_PRESET, Plan, Preset, estimate, plan
from lighten.stored import restore_sheet
from lighten.stored_treatments import restore_exceptions, restore_treatment, store_treatment
from lighten.weights import WeightSheet
from web.presets.library import presets_of
from web.satchels.models import Document, Satchel

__all__ = ["Asked", "Wanted", "estimates_of", "plan_for", "wanted_of"]

CURRENT = "current"
_MOST_KEPT = 24

Json = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Asked:
    """A preset, with its treatment as text so that it is put into words once."""

    preset: Preset
    text: str

    def key(self, document: Document) -> str:
        """Tells apart whatever leads to another copy of the document."""
        exceptions = json.dumps(document.exceptions, sort_keys=True)
        return hashlib.sha256(f"{self.text} {exceptions}".encode()).hexdigest()[:24]


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Worked out once for all documents of a satchel.

    current: its preset, with what was tuned on the bench. by_name: every preset there is.
    """

    current: Asked
    by_name: Mapping[str, Asked]


def wanted_of(satchel: Satchel) -> Wanted:
    """What the satchel asks for; of a preset that was deleted, the shipped default."""
    by_name = {preset.name: _asked(preset) for preset in presets_of(satchel.owner)}
    current = by_name.get(satchel.preset, by_name[DEFAULT_PRESET.name])
    if satchel.treatment is not None:
        treatment = restore_treatment(satchel.treatment)
        current = _asked(replace(current.preset, treatment=treatment))
    return Wanted(current=current, by_name=by_name)


def plan_for(document: Document, preset: Preset, sheet: WeightSheet) -> Plan:
    exceptions = restore_exceptions(document.exceptions, document.replacements_path)
    return plan(sheet, preset, exceptions=exceptions)


def estimates_of(document: Document, wanted: Wanted) -> Json:
    """What each preset would make of it, and "current": what is wanted of it now.

    Kept with the document, so that each is worked out once.
    """
    if document.sheet is None:
        return {}
    asked = {**wanted.by_name, CURRENT: wanted.current}
    keys = {name: one.key(document) for name, one in asked.items()}
    missing = [name for name, key in keys.items() if key not in document.estimates]
    if missing:
        sheet = restore_sheet(document.sheet)
        kept = set(list(document.estimates)[-_MOST_KEPT:]) | set(keys.values())
        known = {key: found for key, found in document.estimates.items() if key in kept}
        for name in missing:
            known[keys[name]] = _estimate(document, asked[name].preset, sheet)
        document.estimates = known
        Document.objects.filter(pk=document.pk).update(estimates=known)
    return {name: document.estimates[key] for name, key in keys.items()}


def _asked(preset: Preset) -> Asked:
    return Asked(preset, json.dumps(store_treatment(preset.treatment), sort_keys=True))


def _estimate(document: Document, preset: Preset, sheet: WeightSheet) -> Json:
    chosen = plan_for(document, preset, sheet)
    likely = estimate(sheet, chosen)
    return {
        "bytes": likely.size_bytes,
        "low": likely.low_bytes,
        "high": likely.high_bytes,
        "warnings": list(chosen.warnings),
    }
