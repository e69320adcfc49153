"""The slip of a run: per document what it weighed, weighs, what came off and what is gone."""

import csv
import io
import uuid
from collections.abc import Mapping
from typing import Any

from rest_framework import serializers

from lighten import (
    EXTRAS,
    KIND_TITLES,
    VERDICTS_EXPLAINED,
    WITHOUT_LOSS,
    PartKind,
    Verdict,
)
from web.satchels.models import Copy, Run

__all__ = ["SlipSerializer", "gone_from", "slip_as_csv", "slip_of"]

Json = dict[str, Any]
_KINDS = tuple(str(kind) for kind in PartKind)
# Slips of an earlier version know one kind for all annotations.
_FORMER_EXTRAS = {"comments": "Comments and markings"}
_EXTRA_TITLES = {str(kind): extra.title for kind, extra in EXTRAS.items()} | _FORMER_EXTRAS
# Stored several times, or left over: the copy has all that it says.
_LOSES_NOTHING = {str(kind) for kind in WITHOUT_LOSS}
_COLUMNS = (
    "document",
    "folder",
    "bytes before",
    "bytes after",
    "percent",
    "verdict",
    "seconds",
    *(f"{kind} off" for kind in _KINDS),
    "cannot be undone",
    "remarks",
)


class SlipKindSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(choices=list(PartKind))
    title = serializers.CharField()
    before = serializers.IntegerField()
    after = serializers.IntegerField()


class EarlierCopySerializer(serializers.Serializer[Any]):
    """The copy of the same document in the run before, where it was made otherwise.

    order: title of its preset or limit. told: the first reason of its verdict.
    """

    copy_id = serializers.CharField()
    order = serializers.CharField()
    bytes_after = serializers.IntegerField()
    verdict_title = serializers.CharField()
    told = serializers.CharField(allow_blank=True)


class SlipRowSerializer(serializers.Serializer[Any]):
    """gone: what cannot be undone in the copy. percent: of the change; null without a copy.

    unmet: what the checklist asks for and the copy is not. earlier: to choose from two runs.
    """

    name = serializers.CharField()
    folder = serializers.CharField()
    copy_id = serializers.CharField()
    state = serializers.ChoiceField(choices=Copy.State.choices)
    bytes_before = serializers.IntegerField()
    bytes_after = serializers.IntegerField(allow_null=True)
    percent = serializers.FloatField(allow_null=True)
    verdict = serializers.CharField()
    verdict_title = serializers.CharField()
    verdict_summary = serializers.CharField()
    seconds = serializers.FloatField(allow_null=True)
    kinds = SlipKindSerializer(many=True)
    gone = serializers.ListField(child=serializers.CharField())
    remarks = serializers.ListField(child=serializers.CharField())
    unmet = serializers.ListField(child=serializers.CharField())
    earlier = EarlierCopySerializer(allow_null=True)


class SinceSerializer(serializers.Serializer[Any]):
    """Changes since the previous run, by names of documents. as_before: carried over from there.

    added, taken_out: from the satchel. anew: made again, as something else was ordered.
    """

    run = serializers.CharField()
    made_at = serializers.DateTimeField()
    added = serializers.ListField(child=serializers.CharField())
    taken_out = serializers.ListField(child=serializers.CharField())
    anew = serializers.ListField(child=serializers.CharField())
    as_before = serializers.ListField(child=serializers.CharField())


class SlipSerializer(serializers.Serializer[Any]):
    """Totals count documents that have a lighter copy at its weight, the others at their own.

    since: null for the first run of a satchel.
    """

    run = serializers.CharField()
    satchel = serializers.CharField()
    satchel_name = serializers.CharField()
    preset = serializers.CharField()
    made_at = serializers.DateTimeField()
    bytes_before = serializers.IntegerField()
    bytes_after = serializers.IntegerField()
    since = SinceSerializer(allow_null=True)
    rows = SlipRowSerializer(many=True)


def slip_of(run: Run) -> Json:
    copies = list(
        run.copies.select_related("document__satchel", "run").defer(
            "proof", "document__sheet", "document__trials", "document__estimates"
        )
    )
    earlier = _earlier_copies(run)
    rows = [{**_row(copy), "earlier": _earlier(copy, earlier)} for copy in copies]
    return {
        "run": str(run.pk),
        "satchel": str(run.satchel_id),
        "satchel_name": run.satchel.name,
        "preset": run.title or run.preset,
        "made_at": run.created_at,
        "bytes_before": sum(row["bytes_before"] for row in rows),
        "bytes_after": sum(
            row["bytes_before"] if row["bytes_after"] is None else row["bytes_after"]
            for row in rows
        ),
        "since": _since(run, copies),
        "rows": rows,
    }


def _earlier_copies(run: Run) -> dict[uuid.UUID, Copy]:
    """Return the finished copies of the run before, by document."""
    before = run.before
    if before is None:
        return {}
    made = before.copies.filter(state=Copy.State.DONE).select_related("run").defer("proof")
    return {copy.document_id: copy for copy in made}


def _earlier(copy: Copy, earlier: Mapping[uuid.UUID, Copy]) -> Json | None:
    found = earlier.get(copy.document_id)
    if found is None or copy.is_carried_over or found.bytes_after is None:
        return None
    return {
        "copy_id": str(found.pk),
        "order": found.run.title or found.run.preset,
        "bytes_after": found.bytes_after,
        "verdict_title": _verdict_words(found.verdict)["verdict_title"],
        "told": "; ".join(found.reasons[:2]),
    }


def _since(run: Run, copies: list[Copy]) -> Json | None:
    before = run.before
    if before is None:
        return None
    known = before.names
    names: dict[str, list[str]] = {"added": [], "anew": [], "as_before": []}
    for copy in copies:
        is_new = str(copy.document_id) not in known
        group = "as_before" if copy.is_carried_over else "added" if is_new else "anew"
        names[group].append(copy.document.name)
    return {
        "run": str(before.pk),
        "made_at": before.created_at,
        **names,
        "taken_out": [name for pk, name in known.items() if pk not in run.names],
    }


def slip_as_csv(slip: Json) -> str:
    """One line a document (RFC 4180), and one of totals."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_COLUMNS)
    for row in slip["rows"]:
        off = {kind["kind"]: kind["before"] - kind["after"] for kind in row["kinds"]}
        writer.writerow(
            (
                _plain(row["name"]),
                _plain(row["folder"]),
                row["bytes_before"],
                row["bytes_after"],
                row["percent"],
                row["verdict"] or row["state"],
                row["seconds"],
                *(off.get(kind, 0) for kind in _KINDS),
                _plain("; ".join(row["gone"])),
                _plain("; ".join((*row["remarks"], *row["unmet"]))),
            )
        )
    before, after = slip["bytes_before"], slip["bytes_after"]
    writer.writerow(("total", "", before, after, _percent(before, after)))
    return out.getvalue()


def _plain(text: str) -> str:
    """No name of a file is taken for a formula by the workbook that opens the list."""
    return f"'{text}" if text[:1] in tuple("=+-@\t\r") else text


def _verdict_words(verdict: str) -> Json:
    explained = VERDICTS_EXPLAINED[Verdict(verdict)] if verdict else None
    return {
        "verdict_title": explained.title if explained else "",
        "verdict_summary": explained.summary if explained else "",
    }


def _row(copy: Copy) -> Json:
    before, after = copy.document.size_bytes, copy.bytes_after
    return {
        "name": copy.document.name,
        "folder": copy.document.folder,
        "copy_id": str(copy.pk),
        "state": copy.state,
        "bytes_before": before,
        "bytes_after": after,
        "percent": None if after is None else _percent(before, after),
        "verdict": copy.verdict,
        **_verdict_words(copy.verdict),
        "seconds": copy.seconds,
        "kinds": _kinds(copy.parts),
        "gone": gone_from(copy.parts) if copy.state == Copy.State.DONE else [],
        "remarks": [copy.error_message] if copy.error_message else copy.reasons,
        "unmet": [
            f"asked: {check.text}; has: {check.found}"
            for check in copy.document.satchel.checks(copy.document, copy)
            if copy.state == Copy.State.DONE and not check.is_met
        ],
    }


def _percent(before: int, after: int) -> float:
    return round(100 * (after / before - 1), 1) if before else 0.0


def _kinds(parts: list[Json]) -> list[Json]:
    rows = []
    for kind in _KINDS:
        those = [part for part in parts if part["kind"] == kind]
        if those:
            rows.append(
                {
                    "kind": kind,
                    "title": KIND_TITLES[PartKind(kind)],
                    "before": sum(part["bytes_before"] for part in those),
                    "after": sum(part["bytes_after"] for part in those),
                }
            )
    return rows


def gone_from(parts: list[Json]) -> list[str]:
    """Describe what is lost for good in the copy."""
    dropped = [part for part in parts if part["decision"] == "drop"]
    counts = {
        "font{} removed": _count(dropped, PartKind.FONT),
        "picture{} no page shows": _count(dropped, PartKind.PICTURE),
        "colour profile{}, its colours kept as plain ones": _count(dropped, PartKind.PROFILE),
        "font{} removed, text in the reader's own": _count(dropped, PartKind.FONT),
        "layer{} flattened into one picture": _count(dropped, PartKind.LAYER),
        "picture{} with fewer pixels": sum(part["decision"] == "resample" for part in parts),
        "picture{} cut to what shows": sum(part.get("is_cut", False) for part in parts),
        "picture{} replaced": sum(part["decision"] == "replace" for part in parts),
        "picture{} re-encoded": sum(
            part["decision"] == "recode" and (part["likeness"] or 1) < 1 for part in parts
        ),
        "font{} without unused letters": _count(
            [part for part in parts if part["decision"] == "recode"], PartKind.FONT
        ),
    }
    words = [
        f"{count} {what.format('' if count == 1 else 's')}"
        for what, count in counts.items()
        if count
    ]
    extras = [
        _EXTRA_TITLES[part["extra"]]
        for part in dropped
        if part["extra"] and part["extra"] not in _LOSES_NOTHING
    ]
    return [*words, *(f"{title[0].lower()}{title[1:]} removed" for title in extras)]


def _count(parts: list[Json], kind: PartKind) -> int:
    return sum(part["kind"] == kind for part in parts)
