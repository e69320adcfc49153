"""Orders of a satchel for its documents."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from lighten import (
    DEFAULT_PRESET,
    PRESETS,
    Fit,
    FitOrder,
    FitRules,
    Order,
    Plan,
    Preset,
    exceptions_from_json,
    fit,
    plan_order,
    share_limit,
    treatment_from_json,
    treatment_to_json,
)
from web.presets.library import presets_of
from web.satchels.models import Document, Satchel
from web.satchels.sheets.sheet_cache import sheet_cache

__all__ = [
    "FitChoice",
    "Orders",
    "SatchelOrder",
    "exceptions_of",
    "fit_document",
    "is_fit_open",
    "order_for",
    "orders_of",
    "plan_document",
]

Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class FitChoice:
    """Choice of the gentlest copy within the limit.

    limit_bytes: of each document, as a file; of all together where `shares` has what each may
    weigh, by its id.
    """

    limit_bytes: int
    rules: FitRules
    may_split: bool = False
    shares: Mapping[str, int] | None = None

    def limit_of(self, document: Document) -> int:
        if self.shares is None:
            return self.limit_bytes
        return self.shares.get(str(document.pk), self.limit_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class SatchelOrder:
    """A preset, with its treatment as text so that it is put into words once; or a fit."""

    preset: Preset
    text: str
    fit: FitChoice | None = None
    may_blur_text: bool = False

    def key(self, document: Document) -> str:
        """Return a hash of everything that leads to another copy of the document."""
        exceptions = json.dumps(document.exceptions, sort_keys=True)
        text = f"{self.text} {'blurred' if self.may_blur_text else ''}"
        if self.fit is not None:
            text = f"{self.fit.rules} {self.fit.limit_of(document)}"
        return hashlib.sha256(f"{text} {exceptions}".encode()).hexdigest()[:24]


@dataclass(frozen=True, slots=True, kw_only=True)
class Orders:
    """Worked out once for all documents of a satchel.

    current: its preset, with what was tuned on the bench, or its fit. by_name: every preset.
    """

    current: SatchelOrder
    by_name: Mapping[str, SatchelOrder]


def _by_preset(preset: Preset) -> SatchelOrder:
    text = json.dumps(treatment_to_json(preset.treatment), sort_keys=True)
    return SatchelOrder(preset=preset, text=text)


# Every answer about a bench needs them.
_SHIPPED = {preset.name: _by_preset(preset) for preset in PRESETS}


def orders_of(satchel: Satchel) -> Orders:
    """Return the order of the satchel; the shipped default where its preset was deleted."""
    own = (preset for preset in presets_of(satchel.owner) if preset.name not in _SHIPPED)
    by_name = {**_SHIPPED, **{preset.name: _by_preset(preset) for preset in own}}
    current = by_name.get(satchel.preset, by_name[DEFAULT_PRESET.name])
    if satchel.treatment is not None:
        treatment = treatment_from_json(satchel.treatment)
        current = _by_preset(replace(current.preset, treatment=treatment))
    current = replace(current, fit=_fit_choice(satchel), may_blur_text=satchel.may_blur_text)
    return Orders(current=current, by_name=by_name)


def order_for(document: Document, order: SatchelOrder) -> Order:
    """The order as the core takes it, for one document."""
    choice = order.fit
    return Order(
        preset=order.preset,
        fit=None
        if choice is None
        else FitOrder(
            limit_bytes=choice.limit_of(document), rules=choice.rules, may_split=choice.may_split
        ),
        exceptions=exceptions_of(document),
        may_blur_text=order.may_blur_text,
    )


def plan_document(document: Document, order: SatchelOrder) -> Plan:
    """Return the decisions for each part of a weighed document."""
    if order.fit is not None:
        return fit_document(document, order.fit).plan
    return plan_order(sheet_cache().sheet(document), order_for(document, order))


def fit_document(document: Document, choice: FitChoice) -> Fit:
    """Return the gentlest plan for a document within its limit, from the trials so far."""
    cache = sheet_cache()
    return fit(
        cache.sheet(document),
        cache.trials(document),
        choice.limit_of(document),
        choice.rules,
        exceptions_of(document),
    )


def is_fit_open(document: Document, fitted: Fit) -> bool:
    """Return whether more trials are needed to know if the limit can be met."""
    return not fitted.is_met and fitted.untried > 0 and document.trial_progress < 1


def exceptions_of(document: Document) -> Any:
    return exceptions_from_json(document.exceptions, document.replacements_path)


def _fit_choice(satchel: Satchel) -> FitChoice | None:
    limit = satchel.limit
    if not satchel.is_fitted or limit is None:
        return None
    rules = FitRules(floor=satchel.fit_floor, ways=tuple(satchel.fit_ways))
    choice = FitChoice(limit_bytes=limit.file_bytes, rules=rules, may_split=satchel.may_split)
    return replace(choice, shares=_shares(satchel, choice)) if satchel.is_limit_shared else choice


def _shares(satchel: Satchel, choice: FitChoice) -> Mapping[str, int]:
    """Return the share of each document in a limit for all, by its id."""
    weighed = satchel.documents.filter(state=Document.State.WEIGHED)
    documents = list(weighed.defer("sheet", "trials", "estimates"))
    if not documents:
        return {}
    cache = sheet_cache()

    def work_out() -> dict[str, int]:
        weighed = [
            (cache.sheet(document), cache.trials(document), exceptions_of(document))
            for document in documents
        ]
        shares = share_limit(weighed, choice.limit_bytes, choice.rules)
        return {str(document.pk): share for document, share in zip(documents, shares, strict=True)}

    identities = tuple(
        (str(document.pk), document.version, json.dumps(document.exceptions, sort_keys=True))
        for document in documents
    )
    return cache.shares((identities, choice.limit_bytes, choice.rules), work_out)
