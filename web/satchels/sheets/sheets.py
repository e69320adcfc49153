"""The weight sheet of a document as the bench shows it: now, then, and why."""

from dataclasses import asdict
from typing import Any

from lighten import (
    PartKind,
    SheetFacts,
    column_letters,
    part_estimates,
    plan_report,
    sheet_estimates,
    sheet_report,
)
from web.satchels.models import Copy, Document
from web.satchels.sheets.orders import (
    FitChoice,
    fit_document,
    is_fit_open,
    orders_of,
    plan_document,
)
from web.satchels.sheets.sheet_cache import sheet_cache
from web.satchels.sheets.sheet_serializers import PictureSerializer

__all__ = ["show_fit", "show_sheet"]

Json = dict[str, Any]

_SHOWN_OF_PICTURES = tuple(PictureSerializer().fields)


def show_sheet(document: Document) -> Json:
    """Return kinds and parts with their bytes before and after.

    "Then" is measured where a copy was made of what is wanted now, and estimated otherwise.
    """
    cache = sheet_cache()
    sheet = cache.sheet(document)
    order = orders_of(document.satchel).current
    chosen = plan_document(document, order)
    likely = part_estimates(sheet, chosen, cache.trials(document))
    made = document.copies.filter(state=Copy.State.DONE, key=order.key(document))
    copy = made.order_by("-finished_at").first()
    measured = {part["id"]: part for part in copy.parts} if copy else {}
    then = {
        part_id: measured[part_id]["bytes_after"] if part_id in measured else round(size)
        for part_id, size in likely.items()
    }
    sheets_then = sheet_estimates(sheet, chosen, then)
    parts = []
    for part, shown, decided in zip(
        sheet.parts,
        sheet_report(sheet)["parts"],
        plan_report(chosen),
        strict=True,
    ):
        done = measured.get(part.id)
        parts.append(
            {
                "id": part.id,
                "kind": str(part.kind),
                "bytes": part.size_bytes,
                "bytes_then": then[part.id],
                "decision": done["decision"] if done else decided["decision"],
                "reason": done["reason"] if done else decided["reason"],
                "likeness": done["likeness"] if done else None,
                "name": part.name,
                "extra": str(part.extra) if part.extra else None,
                "removed_with": str(part.extra_kind) if part.extra_kind else None,
                "can_be_spared": part.font is not None and part.font.can_be_spared,
                "picture": _picture(shown["detail"]) if part.picture else None,
                "cells": _cells(part.sheet, sheets_then[part.id]) if part.sheet else None,
                "stray_name": asdict(part.name_facts) if part.name_facts else None,
            }
        )
    parts.sort(key=lambda part: -part["bytes"])
    return {"is_measured": copy is not None, "kinds": _kinds(parts), "parts": parts}


def show_fit(document: Document, choice: FitChoice) -> Json:
    """Return the choices of a fit for each picture, the heaviest first."""
    fitted = fit_document(document, choice)
    parts = {part.id: part for part in sheet_cache().sheet(document).parts}

    def page_of(part_id: str) -> int | None:
        picture = parts[part_id].picture
        return picture.pages[0] if picture and picture.pages else None

    return {
        "limit": choice.limit_of(document),
        "bytes": fitted.size_bytes,
        "is_met": fitted.is_met,
        "untried": fitted.untried if is_fit_open(document, fitted) else 0,
        "lightest": fitted.lightest_bytes,
        "floor": choice.rules.floor,
        "used": list(fitted.used),
        "pictures": [
            {
                "part": chosen.part_id,
                "page": page_of(chosen.part_id),
                "before": chosen.bytes_before,
                "after": chosen.size_bytes,
                "score": round(chosen.score, 1),
            }
            for chosen in sorted(fitted.chosen, key=lambda chosen: -chosen.bytes_before)
        ],
    }


def _picture(detail: Json) -> Json:
    values = {**detail, "picture_class": detail["class"]}
    return {name: values[name] for name in _SHOWN_OF_PICTURES}


def _cells(facts: SheetFacts, bytes_then: int) -> Json:
    claimed_row, claimed_column = facts.claimed_extent
    return {
        "last_row": facts.last_row,
        "last_column": facts.last_column,
        "last_column_name": column_letters(facts.last_column),
        "claimed_row": claimed_row,
        "claimed_column": claimed_column,
        "claimed_column_name": column_letters(claimed_column),
        "cells": facts.cells,
        "blanks": facts.blanks,
        "is_hidden": facts.is_hidden,
        "untouchable": facts.untouchable,
        "bytes": facts.stored_bytes,
        "bytes_then": bytes_then,
        "spelling_bytes": facts.spelling_bytes,
        "past_bytes": facts.past_bytes,
        "fills_bytes": facts.fills_bytes,
    }


def _kinds(parts: list[Json]) -> list[Json]:
    """Totals by kind, in the order of the kinds."""
    kinds = []
    for kind in PartKind:
        those = [part for part in parts if part["kind"] == kind]
        if those:
            kinds.append(
                {
                    "kind": str(kind),
                    "count": len(those),
                    "bytes": sum(part["bytes"] for part in those),
                    "bytes_then": sum(part["bytes_then"] for part in those),
                }
            )
    return kinds
