"""What a satchel asks for its documents, and what that would make of them."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from lighten import DEFAULT_PRESET, Plan, Preset, estimate, plan
from lighten.planning import Fit, FitRules, fit, share_limit
from lighten.stored_treatments import restore_exceptions, restore_treatment, store_treatment
from web.presets.library import presets_of
from web.satchels.known import sheet_of, trials_of
from web.satchels.models import Document, Satchel

__all__ = [
    "CURRENT",
    "Asked",
    "FitAsked",
    "Wanted",
    "estimates_of",
    "fit_of",
    "is_fit_open",
    "plan_of",
    "wanted_of",
]

CURRENT = "current"
_MOST_KEPT = 24
Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class FitAsked:
    """As gently as the limit allows.

    limit_bytes: of each document, as a file; of all together where `shares` has what each may
    weigh, by its id.
    """

    limit_bytes: int
    rules: FitRules
    shares: Mapping[str, int] | None = None

    def limit_of(self, document: Document) -> int:
        if self.shares is None:
            return self.limit_bytes
        return self.shares.get(str(document.pk), self.limit_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A preset, with its treatment as text so that it is put into words once; or a fit."""

    preset: Preset
    text: str
    fit: FitAsked | None = None
    may_blur_text: bool = False

    def key(self, document: Document) -> str:
        """Tells apart whatever leads to another copy of the document."""
        exceptions = json.dumps(document.exceptions, sort_keys=True)
        asked = f"{self.text} {'blurred' if self.may_blur_text else ''}"
        if self.fit is not None:
            asked = f"{self.fit.rules} {self.fit.limit_of(document)}"
        return hashlib.sha256(f"{asked} {exceptions}".encode()).hexdigest()[:24]


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Worked out once for all documents of a satchel.

    current: its preset, with what was tuned on the bench, or its fit. by_name: every preset.
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
    current = replace(current, fit=_fit_asked(satchel), may_blur_text=satchel.may_blur_text)
    return Wanted(current=current, by_name=by_name)


def plan_of(document: Document, asked: Asked) -> Plan:
    """What is decided for each part of a weighed document."""
    if asked.fit is not None:
        return fit_of(document, asked.fit).plan
    return plan(
        sheet_of(document),
        asked.preset,
        exceptions=_exceptions(document),
        may_blur_text=asked.may_blur_text,
    )


def fit_of(document: Document, asked: FitAsked) -> Fit:
    """The gentlest plan for a weighed document within its limit, from the trials so far."""
    sheet, trials = sheet_of(document), trials_of(document)
    limit_bytes = asked.limit_of(document)
    return fit(sheet, trials, limit_bytes, asked.rules, _exceptions(document))


def is_fit_open(document: Document, found: Fit) -> bool:
    """Whether the limit can be met is not known before more pictures have been tried."""
    return not found.is_met and found.untried > 0 and document.learned < 1


def estimates_of(document: Document, wanted: Wanted, *, is_fresh: bool = False) -> Json:
    """What each preset would make of it, and "current": what is wanted of it now.

    Kept with the document. "current" moves with every trial; the others are worked out anew
    when it `is_fresh`, in the background, so that no page waits for them.
    """
    if document.state != Document.State.WEIGHED:
        return {}
    asked = {**wanted.by_name, CURRENT: wanted.current}
    keys = {name: one.key(document) for name, one in asked.items()}
    known = dict(document.estimates)
    for name, key in keys.items():
        has_moved = key not in known or known[key]["version"] != document.version
        if key not in known or (has_moved and (is_fresh or name == CURRENT)):
            known[key] = {"version": document.version, **_estimate(document, asked[name])}
    if known != document.estimates:
        kept = set(list(known)[-_MOST_KEPT:]) | set(keys.values())
        document.estimates = {key: found for key, found in known.items() if key in kept}
        Document.objects.filter(pk=document.pk).update(estimates=document.estimates)
    return {name: document.estimates[key] for name, key in keys.items()}


def _asked(preset: Preset) -> Asked:
    text = json.dumps(store_treatment(preset.treatment), sort_keys=True)
    return Asked(preset=preset, text=text)


def _exceptions(document: Document) -> Any:
    return restore_exceptions(document.exceptions, document.replacements_path)


def _estimate(document: Document, asked: Asked) -> Json:
    """lightest: what can be reached, where the limit cannot be; else null.

    is_open: whether it can be is not known before more pictures have been tried.
    """
    fitted = fit_of(document, asked.fit) if asked.fit is not None else None
    chosen = fitted.plan if fitted is not None else plan_of(document, asked)
    likely = estimate(sheet_of(document), chosen, trials_of(document))
    size, low, high, lightest = likely.size_bytes, likely.low_bytes, likely.high_bytes, None
    is_open = fitted is not None and is_fit_open(document, fitted)
    if asked.fit is not None and fitted is not None:
        if fitted.is_met:
            # Copies are coded and planned again until they fit.
            high = min(high, asked.fit.limit_of(document))
        elif is_open:
            size = low = min(low, asked.fit.limit_of(document))
        else:
            lightest = fitted.lightest_bytes
    return {
        "lightest": lightest,
        "is_open": is_open,
        "bytes": min(size, high),
        "low": min(low, high),
        "high": high,
        "warnings": list(chosen.warnings),
    }


def _fit_asked(satchel: Satchel) -> FitAsked | None:
    limit = satchel.limit
    if not satchel.is_fitted or limit is None:
        return None
    rules = FitRules(floor=satchel.fit_floor, ways=tuple(satchel.fit_ways))
    asked = FitAsked(limit_bytes=limit.file_bytes, rules=rules)
    if not satchel.is_limit_shared:
        return asked
    documents = satchel.documents.filter(state=Document.State.WEIGHED)
    told = tuple(
        (document, json.dumps(document.exceptions, sort_keys=True))
        for document in documents.defer("sheet", "trials", "estimates")
    )
    return replace(asked, shares=_shares(_Sharing(told), limit.file_bytes, rules))


class _Sharing:
    """Documents that share a limit, told apart by what their shares depend on."""

    def __init__(self, told: Iterable[tuple[Document, str]]) -> None:
        self.documents = [document for document, _ in told]
        self._key = tuple((document.pk, document.version, text) for document, text in told)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Sharing) and self._key == other._key

    def __hash__(self) -> int:
        return hash(self._key)


@lru_cache(maxsize=16)
def _shares(sharing: _Sharing, limit_bytes: int, rules: FitRules) -> dict[str, int]:
    """What each document may weigh, by its id."""
    if not sharing.documents:
        return {}
    asked = [(sheet_of(one), trials_of(one), _exceptions(one)) for one in sharing.documents]
    shares = share_limit(asked, limit_bytes, rules)
    return {str(one.pk): share for one, share in zip(sharing.documents, shares, strict=True)}
