"""Estimates of orders for documents."""

from itertools import pairwise
from typing import Any

from lighten import estimate
from web.satchels.models import CopyState, Document
from web.satchels.sheets.orders import (
    Orders,
    SatchelOrder,
    fit_document,
    is_fit_open,
    plan_document,
)
from web.satchels.sheets.sheet_cache import sheet_cache

__all__ = ["CURRENT", "keep_estimates", "made_bytes", "show_estimates"]

CURRENT = "current"
_MOST_KEPT = 24
# Shipped presets of which each asks for no more than the one before it.
_GENTLEST_FIRST = ("as-it-was", "print-room", "reading-desk", "post", "feather")
Json = dict[str, Any]


def show_estimates(document: Document, orders: Orders) -> Json:
    """Return the estimate of each preset, and "current": that of the present order.

    "current" moves with every trial. The others are those that were kept last, even of an earlier
    version, so that no page waits for all of them. Only reads.
    """
    if document.state != Document.State.WEIGHED:
        return {}
    shown = {}
    for name, order in _by_name(orders).items():
        key = order.key(document)
        kept = document.estimates.get(key)
        is_fresh = kept is not None and kept["version"] == document.version
        if kept is None or (name == CURRENT and not is_fresh):
            kept = _worked_out(document, order, key)
        shown[name] = kept
    return shown


def keep_estimates(document: Document, orders: Orders) -> None:
    """Work out every estimate anew and keep it with the document, so that no page has to wait."""
    if document.state != Document.State.WEIGHED:
        return
    keys = {name: order.key(document) for name, order in _by_name(orders).items()}
    fresh = {
        keys[name]: _worked_out(document, order, keys[name])
        for name, order in _by_name(orders).items()
    }
    for key, size in made_bytes(document).items():
        if key in fresh:
            fresh[key] = fresh[key] | dict.fromkeys(("bytes", "low", "high"), size)
    _bound_by_gentler(fresh, [keys[name] for name in _GENTLEST_FIRST if name in keys])
    others = {key: kept for key, kept in document.estimates.items() if key not in fresh}
    kept_keys = list(others)[-max(0, _MOST_KEPT - len(fresh)) :]
    document.estimates = {key: others[key] for key in kept_keys} | fresh
    Document.objects.filter(pk=document.pk).update(estimates=document.estimates)


def made_bytes(document: Document) -> dict[str, int]:
    """Return the bytes of the document's finished copies, by the keys of their orders."""
    made = document.copies.filter(state__in=(CopyState.DONE, CopyState.NONE))
    found = made.order_by("finished_at").values_list("key", "bytes_after")
    return {key: size for key, size in found if size is not None}


def _bound_by_gentler(estimates: dict[str, Json], keys: list[str]) -> None:
    """Show no order heavier than one that is gentler. keys: of such orders, the gentlest first."""
    for gentler, key in pairwise(keys):
        bounds = {name: estimates[gentler][name] for name in ("bytes", "low", "high")}
        estimates[key] = estimates[key] | {
            name: min(estimates[key][name], bound) for name, bound in bounds.items()
        }


def _by_name(orders: Orders) -> dict[str, SatchelOrder]:
    return {**orders.by_name, CURRENT: orders.current}


def _worked_out(document: Document, order: SatchelOrder, key: str) -> Json:
    return sheet_cache().estimate(document, key, lambda: _estimate(document, order))


def _estimate(document: Document, order: SatchelOrder) -> Json:
    """lightest: bytes that can be reached if the limit cannot be met; else null.

    is_open: whether it can be is not known before more pictures have been tried.
    """
    cache = sheet_cache()
    fitted = fit_document(document, order.fit) if order.fit is not None else None
    chosen = fitted.plan if fitted is not None else plan_document(document, order)
    likely = estimate(cache.sheet(document), chosen, cache.trials(document))
    size, low, high, lightest = likely.size_bytes, likely.low_bytes, likely.high_bytes, None
    is_open = fitted is not None and is_fit_open(document, fitted)
    if order.fit is not None and fitted is not None:
        if fitted.is_met:
            # Copies are coded and planned again until they fit.
            high = min(high, order.fit.limit_of(document))
        elif is_open:
            size = low = min(low, order.fit.limit_of(document))
        else:
            lightest = fitted.lightest_bytes
    return {
        "version": document.version,
        "lightest": lightest,
        "is_open": is_open,
        "bytes": min(size, high),
        "low": min(low, high),
        "high": high,
        "warnings": list(chosen.warnings),
    }
