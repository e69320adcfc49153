"""The proof of a copy as the loupe shows it, and as a page to keep."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from lighten import VERDICTS_EXPLAINED, Verdict
from web.satchels.copies.slips import gone_from
from web.satchels.models import Copy

__all__ = ["show_proof"]

Json = dict[str, Any]


def show_proof(copy: Copy) -> Json:
    """Return the regions of a proof with the outcome and score of each picture."""
    document, proof = copy.document, copy.proof or {}
    sheet = document.sheet or {"parts": []}
    shown = _Shown(
        parts={part["id"]: part for part in copy.parts},
        names={part["id"]: part["name"] for part in sheet["parts"]},
        exempt={part for part, entry in document.exceptions.items() if entry.get("is_exempt")},
    )
    return {
        "copy_id": str(copy.pk),
        "satchel": str(document.satchel_id),
        "satchel_name": document.satchel.name,
        "document": str(document.pk),
        "name": document.name,
        "copy_name": document.satchel.copy_name(document, copy),
        "made_at": copy.finished_at,
        "bytes_before": document.size_bytes,
        "bytes_after": copy.bytes_after,
        "limit": copy.limit_bytes,
        "verdict": copy.verdict,
        "verdict_title": VERDICTS_EXPLAINED[Verdict(copy.verdict)].title,
        "verdict_summary": VERDICTS_EXPLAINED[Verdict(copy.verdict)].summary,
        "reasons": copy.reasons,
        "counts": [
            {"kind": kind, "before": before, "after": after}
            for kind, (before, after) in proof.get("counts", {}).items()
        ],
        "remarks": proof.get("remarks", []),
        "readers": proof.get("readers", []),
        "gone": gone_from(copy.parts),
        "has_pages": bool(proof.get("pages")),
        "places": [
            *(shown.page(page) for page in proof.get("pages", [])),
            *(shown.picture_place(picture) for picture in proof.get("pictures", [])),
        ],
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class _Shown:
    """Facts about the parts of a copy, by id. exempt: left unchanged by choice."""

    parts: Mapping[str, Json]
    names: Mapping[str, str]
    exempt: Collection[str]

    def page(self, page: Json) -> Json:
        """A page, with the treated pictures on it."""
        return {
            **_looks_of(page),
            "page": page["page"],
            "part": None,
            "title": f"Page {page['page']}",
            "text_same": page["text_same"],
            "pictures": [self.picture(picture) for picture in page["pictures"]],
        }

    def picture_place(self, picture: Json) -> Json:
        """A picture of a document without pages, as the place it is."""
        return {
            **_looks_of(picture),
            "page": None,
            "part": picture["id"],
            "title": self.names.get(picture["id"], picture["id"]),
            "text_same": None,
            "pictures": [self.picture(picture)],
        }

    def picture(self, picture: Json) -> Json:
        part = self.parts.get(picture["id"], {})
        return {
            "id": picture["id"],
            "name": self.names.get(picture["id"], picture["id"]),
            "before": part.get("bytes_before", 0),
            "after": part.get("bytes_after", 0),
            "reason": part.get("reason", ""),
            "is_exempt": picture["id"] in self.exempt,
            "likeness": picture["likeness"],
            "score": picture.get("score"),
            "box": picture.get("box"),
        }


def _looks_of(place: Json) -> Json:
    """Return the fields that the proofs of a page and of a picture share."""
    width_pt, height_pt = place["size_pt"]
    same = {name: place[name] for name in ("likeness", "worst", "faults")}
    return {**same, "width_pt": width_pt, "height_pt": height_pt}
