"""The core's values as JSON, the same for the command and the application."""

from dataclasses import asdict
from typing import Any

from lighten.making.orders import OrderResult, Piece
from lighten.model.errors import LightenError
from lighten.model.plans import Copy, Outcome, Plan
from lighten.model.presets import Preset
from lighten.model.proofs import PageProof, PictureProof, Proof
from lighten.model.weights import Part, PictureFacts, WeightSheet
from lighten.proving.verdict import verdict_of_page

__all__ = [
    "comparison_report",
    "copy_report",
    "error_report",
    "order_result_report",
    "piece_report",
    "plan_report",
    "preset_report",
    "proof_report",
    "sheet_report",
]

Json = dict[str, Any]


def sheet_report(sheet: WeightSheet) -> Json:
    """Return the sheet as JSON values; `bytes` is the sum of `parts[].bytes`."""
    return {
        "bytes": sheet.size_bytes,
        "kind": sheet.format,
        "media_type": sheet.media_type,
        "pages": sheet.pages,
        "signed": sheet.is_signed,
        "locked": sheet.is_locked,
        "standard": sheet.rules.standard,
        "remarks": list(sheet.remarks),
        "parts": [_part(part) for part in sheet.parts],
    }


def plan_report(plan: Plan) -> list[Json]:
    """The decision for each part."""
    return [
        {
            "id": decision.part_id,
            "decision": str(decision.action),
            "reason": decision.reason,
            "target_px": list(decision.target_px) if decision.target_px else None,
        }
        for decision in plan.decisions
    ]


def order_result_report(made: OrderResult, sheet: WeightSheet) -> Json:
    """Report the result of an order, with the name of the copy and its pieces."""
    return {
        **copy_report(made.copy, made.proof, sheet),
        "name": made.name,
        "pieces": [piece_report(piece) for piece in made.pieces],
    }


def piece_report(piece: Piece) -> Json:
    """The pages `first` to `last` as a file of their own."""
    return {
        "path": str(piece.path),
        "first": piece.first,
        "last": piece.last,
        "bytes": piece.size_bytes,
    }


def copy_report(copy: Copy, proof: Proof | None, sheet: WeightSheet) -> Json:
    """Report a copy of a document; `verdict` is null where there is no copy.

    remarks: what the proof did not look at, and why.
    """
    return {
        "copy": str(copy.path) if copy.path else None,
        "bytes_before": copy.bytes_before,
        "bytes_after": copy.bytes_after,
        "media_type": copy.media_type,
        "verdict": str(proof.verdict) if proof else None,
        "reasons": [*copy.reasons, *(proof.reasons if proof else ())],
        "remarks": list(proof.remarks) if proof else [],
        "parts": [
            _outcome(part, outcome)
            for part, outcome in zip(sheet.parts, copy.outcomes, strict=True)
        ],
    }


def proof_report(proof: Proof) -> Json:
    """The verdict, and each page with its figures; each picture in a document without pages."""
    return {
        "verdict": str(proof.verdict),
        "reasons": list(proof.reasons),
        "counts": {kind: list(pair) for kind, pair in proof.counts.items()},
        "remarks": list(proof.remarks),
        "readers": list(proof.readers),
        "pages": [_page(page) for page in proof.pages],
        "pictures": [
            _picture_proof(picture)
            | {
                "size_pt": [round(side, 1) for side in picture.size_pt],
                "worst": list(picture.worst) if picture.worst else None,
            }
            for picture in proof.pictures
        ],
    }


def comparison_report(proof: Proof) -> Json:
    """The verdict on any two files: pages with their own, and all pictures that were read."""
    shown = (*proof.pictures, *(picture for page in proof.pages for picture in page.pictures))
    return {
        **proof_report(proof),
        "pages": [_page(page) | {"reasons": list(page.faults)} for page in proof.pages],
        "pictures": [_picture_proof(picture) | {"page": picture.page} for picture in shown],
    }


def _page(page: PageProof) -> Json:
    """Return a page's proof as JSON values. Boxes: left, low, right, high in points from the lower
    left.
    """
    return {
        "page": page.page,
        "verdict": str(verdict_of_page(page)),
        "size_pt": [round(side, 1) for side in page.size_pt],
        "likeness": round(page.likeness, 4),
        "text_same": page.is_text_same,
        "worst": list(page.worst) if page.worst else None,
        "faults": list(page.faults),
        "pictures": [_picture_proof(picture) for picture in page.pictures],
    }


def _picture_proof(picture: PictureProof) -> Json:
    return {
        "id": picture.part_id,
        "likeness": round(picture.likeness, 4),
        "score": None if picture.score is None else round(picture.score, 1),
        "box": [round(side, 1) for side in picture.box] if picture.box else None,
        "places": [list(box) for box in picture.places],
        "tint": picture.tint,
        "faults": list(picture.faults),
    }


def preset_report(preset: Preset) -> Json:
    """A preset with what it does to each class of picture."""
    return {
        "name": preset.name,
        "title": preset.title,
        "description": preset.description,
        "pictures": {
            str(picture_class): {
                "finest_ppi": treatment.finest_ppi,
                "quality": treatment.quality,
            }
            for picture_class, treatment in preset.treatment.pictures.items()
        },
        "dropped_extras": sorted(preset.treatment.dropped_extras),
    }


def error_report(error: LightenError) -> Json:
    """A stable code and a message a person can read."""
    return {"code": error.code, "message": error.message}


def _part(part: Part) -> Json:
    detail: Json = {"name": part.name}
    if part.extra is not None:
        detail["extra"] = str(part.extra)
    if part.picture is not None:
        detail.update(_picture(part.picture))
    if part.sheet is not None:
        detail["sheet"] = asdict(part.sheet)
    if part.name_facts is not None:
        detail["stray_name"] = asdict(part.name_facts)
    return {"id": part.id, "kind": str(part.kind), "bytes": part.size_bytes, "detail": detail}


def _picture(facts: PictureFacts) -> Json:
    shown = facts.largest_display_pt
    return {
        "width_px": facts.width_px,
        "height_px": facts.height_px,
        "coding": facts.coding,
        "colour": facts.colour,
        "bits": facts.bits,
        "has_assumed_size": facts.has_assumed_size,
        "is_inline": facts.is_inline,
        "near": facts.near,
        "mask": facts.mask,
        "class": str(facts.picture_class),
        "ppi": round(facts.ppi, 1) if facts.ppi else None,
        "shown_pt": [round(side, 2) for side in shown] if shown else None,
        "pages": list(facts.pages),
        "placements": len(facts.placements),
        "untouchable": facts.untouchable,
    }


def _outcome(part: Part, outcome: Outcome) -> Json:
    return {
        "id": outcome.part_id,
        "kind": str(part.kind),
        "extra": str(part.extra) if part.extra else None,
        "decision": str(outcome.action),
        "reason": outcome.reason,
        "bytes_before": outcome.bytes_before,
        "bytes_after": outcome.bytes_after,
        "likeness": None if outcome.likeness is None else round(outcome.likeness, 4),
        "is_cut": outcome.is_cut,
    }
