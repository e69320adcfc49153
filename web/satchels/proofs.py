"""The proof of a copy as the loupe shows it, and as a page to keep."""

from typing import Any

from web.satchels.models import Copy
from web.satchels.slips import gone_from

__all__ = ["show_proof"]

Json = dict[str, Any]


def show_proof(copy: Copy) -> Json:
    """Pages with their pictures: what was done to each and how it looks there."""
    document, proof = copy.document, copy.proof or {}
    parts = {part["id"]: part for part in copy.parts}
    names = {part["id"]: part["name"] for part in (document.sheet or {"parts": []})["parts"]}
    exempt = {part for part, one in document.exceptions.items() if one.get("is_exempt")}

    def shown(picture: Json) -> Json:
        part = parts.get(picture["id"], {})
        return {
            "id": picture["id"],
            "name": names.get(picture["id"], picture["id"]),
            "before": part.get("bytes_before", 0),
            "after": part.get("bytes_after", 0),
            "reason": part.get("reason", ""),
            "is_exempt": picture["id"] in exempt,
            "likeness": picture["likeness"],
            "score": picture.get("score"),
            "box": picture.get("box"),
        }

    return {
        "copy_id": str(copy.pk),
        "satchel": str(document.satchel_id),
        "satchel_name": document.satchel.name,
        "document": str(document.pk),
        "name": document.name,
        "copy_name": document.satchel.copy_name(document),
        "made_at": copy.finished_at,
        "bytes_before": document.size_bytes,
        "bytes_after": copy.bytes_after,
        "limit": copy.limit_bytes,
        "verdict": copy.verdict,
        "reasons": copy.reasons,
        "counts": [
            {"kind": kind, "before": before, "after": after}
            for kind, (before, after) in proof.get("counts", {}).items()
        ],
        "gone": gone_from(copy.parts),
        "pages": [
            {
                "page": page["page"],
                "width_pt": page["size_pt"][0],
                "height_pt": page["size_pt"][1],
                "likeness": page["likeness"],
                "text_same": page["text_same"],
                "worst": page["worst"],
                "faults": page["faults"],
                "pictures": [shown(picture) for picture in page["pictures"]],
            }
            for page in proof.get("pages", [])
        ],
    }
