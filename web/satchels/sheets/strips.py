"""One picture of a document by several settings: the test strip."""

import hashlib
import json
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from lighten import (
    Decision,
    Part,
    PartException,
    PictureTreatment,
    Plan,
    estimate,
    plan_order,
    stakes_of,
    to_json,
)
from web.jobs.job_kinds import StripsJob
from web.jobs.runner import run_job
from web.satchels.models import Document
from web.satchels.sheets.estimates import CURRENT, made_bytes, show_estimates
from web.satchels.sheets.orders import (
    Orders,
    SatchelOrder,
    exceptions_of,
    order_for,
    orders_of,
    plan_document,
)
from web.satchels.sheets.sheet_cache import sheet_cache

__all__ = ["ORIGINAL", "StripSetting", "show_stakes", "show_strips", "strip_file"]

ORIGINAL = "original"
# Strips kept of one document; older ones go first.
_MOST_KEPT = 80
_MOST_STAKES = 12
Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class StripSetting:
    """A setting of a strip.

    base: "original", "current", or the name of a preset. finest_ppi, quality: in place of what the
    base has; None to leave it.
    """

    base: str
    finest_ppi: float | None = None
    quality: int | None = None

    @property
    def is_changed(self) -> bool:
        return self.finest_ppi is not None or self.quality is not None


def show_stakes(document: Document, base: str) -> list[Json]:
    """Return the pictures that are most at stake under a setting, the first first.

    base: "current" or the name of a preset. Raises: KeyError for no such preset.
    """
    cache, order = sheet_cache(), _order(orders_of(document.satchel), base)
    sheet = cache.sheet(document)
    found = stakes_of(sheet, plan_document(document, order), cache.trials(document))
    shown: list[tuple[Part, float | None, bool]]
    if not found:
        heaviest = sorted(
            (part for part in sheet.parts if part.picture), key=lambda part: -part.size_bytes
        )
        shown = [(part, None, False) for part in heaviest]
    else:
        shown = [(sheet.part(one.part_id), one.score, one.has_words) for one in found]
    return [
        {
            "part": part.id,
            "name": part.name,
            "page": part.picture.pages[0] if part.picture and part.picture.pages else None,
            "picture_class": part.picture.picture_class if part.picture else None,
            "score": None if score is None else round(score, 1),
            "has_words": has_words,
        }
        for part, score, has_words in shown[:_MOST_STAKES]
    ]


def show_strips(document: Document, part: str, settings: Sequence[StripSetting]) -> list[Json]:
    """Return the picture `part` under each setting, coded now where it was not before.

    Raises: KeyError for no such preset; JobFailedError.
    """
    orders = orders_of(document.satchel)
    plans = [_plan(document, orders, part, setting) for setting in settings]
    decisions = [plan.by_part()[part] for plan in plans]
    folder = document.folder_path / "strips"
    keys = [_key(part, decision) for decision in decisions]
    kept = [_recalled(folder, key) for key in keys]
    missing = {
        key: decision
        for key, decision, facts in zip(keys, decisions, kept, strict=True)
        if facts is None
    }
    fresh = _made(document, part, missing, folder) if missing else {}
    estimates, made = show_estimates(document, orders), made_bytes(document)
    return [
        {
            **(facts or fresh[key]),
            "base": setting.base,
            "image": key,
            "document_bytes": _made_of(document, orders, setting, made)
            or _document_bytes(document, plan, setting, estimates),
        }
        for setting, plan, key, facts in zip(settings, plans, keys, kept, strict=True)
    ]


def strip_file(document: Document, key: str) -> tuple[Path, str] | None:
    """Return the picture file of a strip, and its media type; None if it is not kept."""
    folder = document.folder_path / "strips"
    facts = _recalled(folder, key) if key.isalnum() else None
    return None if facts is None else (folder / key, facts["media_type"])


def _order(orders: Orders, base: str) -> SatchelOrder:
    return orders.current if base == CURRENT else orders.by_name[base]


def _plan(document: Document, orders: Orders, part: str, setting: StripSetting) -> Plan:
    sheet = sheet_cache().sheet(document)
    if setting.base == ORIGINAL:
        order = replace(
            order_for(document, replace(orders.current, fit=None)),
            exceptions={**exceptions_of(document), part: PartException(is_exempt=True)},
        )
        return plan_order(sheet, order)
    order_of_base = _order(orders, setting.base)
    if setting.base == CURRENT and not setting.is_changed:
        return plan_document(document, order_of_base)
    order_of_base = replace(order_of_base, fit=None, may_blur_text=orders.current.may_blur_text)
    others = {key: kept for key, kept in exceptions_of(document).items() if key != part}
    if setting.is_changed:
        picture = sheet.part(part).picture
        assert picture is not None
        own = order_of_base.preset.treatment.for_class(picture.picture_class)
        others[part] = PartException(treatment=_changed(own, setting))
    return plan_order(sheet, replace(order_for(document, order_of_base), exceptions=others))


def _changed(treatment: PictureTreatment, setting: StripSetting) -> PictureTreatment:
    """Return the treatment with the values of a setting.

    What was asked for counts, not the score that a preset promises.
    """
    if setting.finest_ppi is not None:
        treatment = replace(
            treatment, finest_ppi=setting.finest_ppi, above_ppi=None, scale_percent=None
        )
    if setting.quality is not None:
        treatment = replace(treatment, quality=setting.quality)
    return replace(treatment, least_score=0)


def _made_of(
    document: Document, orders: Orders, setting: StripSetting, made: dict[str, int]
) -> int | None:
    """Return the bytes of a finished copy by a setting; None for none."""
    if setting.base == ORIGINAL or setting.is_changed:
        return None
    return made.get(_order(orders, setting.base).key(document))


def _document_bytes(document: Document, plan: Plan, setting: StripSetting, estimates: Json) -> int:
    if setting.base == ORIGINAL:
        return document.size_bytes
    if not setting.is_changed and setting.base in estimates:
        return int(estimates[setting.base]["bytes"])
    cache = sheet_cache()
    return estimate(cache.sheet(document), plan, cache.trials(document)).size_bytes


def _key(part: str, decision: Decision) -> str:
    """Return a name of files for a decision."""
    told = json.dumps([part, to_json(decision)], sort_keys=True)
    return hashlib.sha256(told.encode()).hexdigest()[:32]


def _recalled(folder: Path, key: str) -> Json | None:
    try:
        facts: Json = json.loads((folder / f"{key}.json").read_text("utf-8"))
    except (OSError, ValueError):
        return None
    return facts


def _made(
    document: Document, part: str, missing: dict[str, Decision], folder: Path
) -> dict[str, Json]:
    """Code the picture by each decision, and keep what came of it under its key."""
    folder.mkdir(parents=True, exist_ok=True)
    _make_room(folder)
    partials = [folder / f"{key}.{uuid.uuid4().hex}" for key in missing]
    job = StripsJob(
        sheet=document.sheet or {},
        part=part,
        decisions=tuple(missing.values()),
        files=tuple(str(path) for path in partials),
    )
    made = {}
    try:
        for key, partial, facts in zip(missing, partials, run_job(document, job), strict=True):
            partial.replace(folder / key)
            partial.write_text(json.dumps(facts), "utf-8")
            partial.replace(folder / f"{key}.json")
            made[key] = facts
    finally:
        for partial in partials:
            partial.unlink(missing_ok=True)
    return made


def _make_room(folder: Path) -> None:
    kept = sorted(folder.glob("*.json"), key=lambda path: path.stat().st_mtime)
    for path in kept[: max(0, len(kept) - _MOST_KEPT)]:
        path.unlink(missing_ok=True)
        path.with_suffix("").unlink(missing_ok=True)
