"""A weight sheet as JSON and back, without loss: planning needs no second look at a file."""

from dataclasses import asdict
from typing import Any

from lighten.weights import (
    ExtraKind,
    FontCoding,
    FontFacts,
    Part,
    PartKind,
    PictureClass,
    PictureFacts,
    Placement,
    WeightSheet,
)

__all__ = ["restore_sheet", "store_sheet"]

Json = dict[str, Any]


def store_sheet(sheet: WeightSheet) -> Json:
    """The sheet as plain values that `json.dumps` takes."""
    return asdict(sheet)


def restore_sheet(stored: Json) -> WeightSheet:
    """The sheet that `store_sheet` was given, after any trip through JSON."""
    parts = tuple(_part(part) for part in stored["parts"])
    return WeightSheet(**{**stored, "parts": parts, "remarks": tuple(stored["remarks"])})


def _part(stored: Json) -> Part:
    picture, extra, font = stored["picture"], stored["extra"], stored["font"]
    return Part(
        **{
            **stored,
            "kind": PartKind(stored["kind"]),
            "extra": ExtraKind(extra) if extra else None,
            "font": FontFacts(**{**font, "coding": FontCoding(font["coding"])}) if font else None,
            "picture": _picture(picture) if picture else None,
        }
    )


def _picture(stored: Json) -> PictureFacts:
    placements = tuple(
        Placement(**{**placement, "box": tuple(placement["box"])})
        for placement in stored["placements"]
    )
    picture_class = PictureClass(stored["picture_class"])
    return PictureFacts(
        **{
            **stored,
            "picture_class": picture_class,
            "placements": placements,
            "visible": tuple(stored["visible"]),
        }
    )
