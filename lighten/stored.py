"""Weight sheets and trials as JSON and back: planning needs no second look at a file."""

from dataclasses import asdict, astuple
from typing import Any

from lighten.trials import Trial, Trials
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

__all__ = ["restore_sheet", "restore_trials", "store_sheet", "store_trials"]

Json = dict[str, Any]


def store_sheet(sheet: WeightSheet) -> Json:
    """The sheet as plain values that `json.dumps` takes."""
    return asdict(sheet)


def restore_sheet(stored: Json) -> WeightSheet:
    """The sheet that `store_sheet` was given, after any trip through JSON."""
    parts = tuple(_part(part) for part in stored["parts"])
    return WeightSheet(**{**stored, "parts": parts, "remarks": tuple(stored["remarks"])})


def store_trials(trials: Trials) -> Json:
    """The trials as plain values, a short list each: there are thousands of them."""
    return {
        "pictures": {
            part_id: [astuple(trial) for trial in found]
            for part_id, found in trials.pictures.items()
        },
        "rests": dict(trials.rests),
    }


def restore_trials(stored: Json) -> Trials:
    """The trials that `store_trials` was given, after any trip through JSON; none of {}."""
    names = Trial.__slots__
    return Trials(
        pictures={
            part_id: tuple(Trial(**dict(zip(names, values, strict=True))) for values in found)
            for part_id, found in stored.get("pictures", {}).items()
        },
        rests=stored.get("rests", {}),
    )


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
