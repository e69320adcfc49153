"""The weight sheet of a document as the bench shows it: now, then, and why."""

from typing import Any

from lighten import PartKind
from lighten.planning import part_estimate
from lighten.report import plan_as_json, sheet_as_json
from lighten.stored import restore_sheet
from web.satchels.models import Copy, Document
from web.satchels.wanted import plan_for, wanted_of

__all__ = ["show_sheet"]

Json = dict[str, Any]


def show_sheet(document: Document) -> Json:
    """Kinds and parts with what they weigh now and then.

    "Then" is measured where a copy was made of what is wanted now, and estimated otherwise.
    """
    assert document.sheet is not None
    sheet = restore_sheet(document.sheet)
    asked = wanted_of(document.satchel).current
    chosen = plan_for(document, asked.preset, sheet)
    made = document.copies.filter(state=Copy.State.DONE, key=asked.key(document))
    copy = made.order_by("-finished_at").first()
    measured = {part["id"]: part for part in copy.parts} if copy else {}
    parts = []
    for part, shown, decided, decision in zip(
        sheet.parts,
        sheet_as_json(sheet)["parts"],
        plan_as_json(chosen),
        chosen.decisions,
        strict=True,
    ):
        done = measured.get(part.id)
        parts.append(
            {
                "id": part.id,
                "kind": str(part.kind),
                "bytes": part.size_bytes,
                "bytes_then": done["bytes_after"] if done else round(part_estimate(part, decision)),
                "decision": done["decision"] if done else decided["decision"],
                "reason": done["reason"] if done else decided["reason"],
                "likeness": done["likeness"] if done else None,
                "name": part.name,
                "extra": str(part.extra) if part.extra else None,
                "picture": _picture(shown["detail"]) if part.picture else None,
            }
        )
    parts.sort(key=lambda part: -part["bytes"])
    return {"is_measured": copy is not None, "kinds": _kinds(parts), "parts": parts}


def _picture(detail: Json) -> Json:
    return {**detail, "picture_class": detail["class"]}


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
