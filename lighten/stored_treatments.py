"""Presets and treatments as JSON and back, with every mistake named by its place.

The form is ours and open: {"schema": "green-satchel-preset", "version": 1, "name", "title",
"description", "treatment": {"pictures": {class: {...}}, "fonts", "drawing", "dropped_extras",
"is_linearized"}}. Keys that are left out have their usual values; unknown ones are refused.
"""

from collections.abc import Mapping
from dataclasses import asdict, fields
from enum import StrEnum
from pathlib import Path
from typing import Any, TypeVar

from lighten.errors import BadPresetError
from lighten.plans import PictureException
from lighten.presets import Preset
from lighten.treatments import (
    ColourChange,
    DrawingTreatment,
    Filter,
    FilterKind,
    FontTreatment,
    PictureCoding,
    PictureTreatment,
    Treatment,
    TwoToneMethod,
)
from lighten.weights import ExtraKind, PictureClass

__all__ = [
    "restore_exceptions",
    "restore_preset",
    "restore_treatment",
    "store_preset",
    "store_treatment",
]

SCHEMA, VERSION = "green-satchel-preset", 1
_LONGEST_NAME, _LONGEST_TEXT, _MOST_FILTERS = 60, 500, 12

Json = dict[str, Any]
Choice = TypeVar("Choice", bound=StrEnum)
Built = TypeVar("Built")
Plain = TypeVar("Plain", FontTreatment, DrawingTreatment, Filter)
_CHOICES: dict[str, type[StrEnum]] = {
    "coding": PictureCoding,
    "colour": ColourChange,
    "two_tone": TwoToneMethod,
    "kind": FilterKind,
}
# What presets of an earlier version say in one word.
_FORMER_EXTRAS = {
    "comments": [
        ExtraKind.NOTES,
        ExtraKind.MARKINGS,
        ExtraKind.TYPED_TEXT,
        ExtraKind.DRAWN_MARKS,
        ExtraKind.STAMPS,
    ]
}


def store_preset(preset: Preset) -> Json:
    """The preset as plain values that `json.dumps` takes."""
    return {
        "schema": SCHEMA,
        "version": VERSION,
        "name": preset.name,
        "title": preset.title,
        "description": preset.description,
        "treatment": store_treatment(preset.treatment),
    }


def store_treatment(treatment: Treatment) -> Json:
    """The treatment as plain values, whole: each class of picture is named."""
    return {
        "pictures": {
            str(one): asdict(treatment.for_class(one)) | {"filters": _filters(treatment, one)}
            for one in PictureClass
        },
        "fonts": asdict(treatment.fonts),
        "drawing": asdict(treatment.drawing),
        "dropped_extras": sorted(treatment.dropped_extras),
        "is_linearized": treatment.is_linearized,
    }


def restore_preset(stored: Any) -> Preset:
    """The preset of a file. Raises: BadPresetError, with the place of the first mistake."""
    top = _object(
        stored, "the file", {"schema", "version", "name", "title", "description", "treatment"}
    )
    if top.get("schema") != SCHEMA:
        raise BadPresetError(f'schema: is not "{SCHEMA}"; this is no preset')
    if top.get("version") != VERSION:
        raise BadPresetError(f"version: {top.get('version')!r} is not known here, only {VERSION}")
    return Preset(
        name=_text(top, "name", _LONGEST_NAME),
        title=_text(top, "title", _LONGEST_NAME),
        description=_text(top, "description", _LONGEST_TEXT, is_needed=False),
        treatment=restore_treatment(top.get("treatment"), "treatment"),
    )


def restore_treatment(stored: Any, where: str = "treatment") -> Treatment:
    """The treatment that `store_treatment` was given. Raises: BadPresetError."""
    found = _object(stored, where, {one.name for one in fields(Treatment)})
    pictures = _object(found.get("pictures", {}), f"{where}.pictures", set(PictureClass))
    extras = found.get("dropped_extras", [])
    if not isinstance(extras, list):
        raise BadPresetError(f"{where}.dropped_extras: is not a list")
    is_linearized = found.get("is_linearized", False)
    if not isinstance(is_linearized, bool):
        raise BadPresetError(f"{where}.is_linearized: is not true or false")
    return Treatment(
        pictures={
            PictureClass(name): _picture(one, f"{where}.pictures.{name}")
            for name, one in pictures.items()
        },
        fonts=_plain(FontTreatment, found.get("fonts", {}), f"{where}.fonts"),
        drawing=_plain(DrawingTreatment, found.get("drawing", {}), f"{where}.drawing"),
        dropped_extras=frozenset(
            kind
            for place, one in enumerate(extras)
            for kind in _FORMER_EXTRAS.get(one if isinstance(one, str) else "")
            or [_choice(ExtraKind, one, f"{where}.dropped_extras[{place}]")]
        ),
        is_linearized=is_linearized,
    )


def restore_exceptions(stored: Any, folder: Path) -> dict[str, PictureException]:
    """By part id: {"is_exempt": true}, {"treatment": {...}} or {"replacement": name}.

    folder: where replacements lie. Raises: BadPresetError.
    """
    found = {}
    for part_id, one in _object(stored, "exceptions", None).items():
        where = f"exceptions.{part_id}"
        entry = _object(one, where, {"is_exempt", "treatment", "replacement"})
        if len(entry) != 1:
            raise BadPresetError(f"{where}: has to exempt, treat or replace")
        if "treatment" in entry:
            treatment = _picture(entry["treatment"], f"{where}.treatment")
            found[part_id] = PictureException(treatment=treatment)
        elif "replacement" in entry:
            name = Path(_text(entry, "replacement", _LONGEST_NAME)).name
            found[part_id] = PictureException(replacement=folder / name)
        else:
            found[part_id] = PictureException(is_exempt=True)
    return found


def _filters(treatment: Treatment, picture_class: PictureClass) -> list[Json]:
    return [asdict(one) for one in treatment.for_class(picture_class).filters]


def _picture(stored: Any, where: str) -> PictureTreatment:
    found = dict(_object(stored, where, {one.name for one in fields(PictureTreatment)}))
    filters = found.pop("filters", [])
    if not isinstance(filters, list) or len(filters) > _MOST_FILTERS:
        raise BadPresetError(f"{where}.filters: is not a list of at most {_MOST_FILTERS}")
    values = _values(PictureTreatment, found, where)
    values["filters"] = tuple(
        _plain(Filter, one, f"{where}.filters[{place}]") for place, one in enumerate(filters)
    )
    return _built(PictureTreatment, values, where)


def _plain(kind: type[Plain], stored: Any, where: str) -> Plain:
    found = _object(stored, where, {one.name for one in fields(kind)})
    return _built(kind, _values(kind, found, where), where)


def _built(kind: type[Built], values: Json, where: str) -> Built:
    try:
        return kind(**values)
    except (ValueError, TypeError) as error:
        raise BadPresetError(f"{where}: {error}") from error


def _values(kind: type[Any], found: Mapping[str, Any], where: str) -> Json:
    """Each value checked against the type that its field says."""
    values: Json = {}
    types = {one.name: str(one.type) for one in fields(kind)}
    for key, value in found.items():
        place = f"{where}.{key}"
        if key in _CHOICES:
            values[key] = _choice(_CHOICES[key], value, place)
        elif "bool" in types[key]:
            values[key] = _checked(value, bool, place, "is not true or false")
        elif value is None and "None" in types[key]:
            values[key] = None
        elif "int" in types[key]:
            values[key] = _checked(value, int, place, "is not a whole number")
        else:
            values[key] = _checked(value, (int, float), place, "is not a number")
    return values


def _checked(value: Any, kind: Any, place: str, fault: str) -> Any:
    if not isinstance(value, kind) or (isinstance(value, bool) and kind is not bool):
        raise BadPresetError(f"{place}: {value!r} {fault}")
    return value


def _choice(kind: type[Choice], value: Any, place: str) -> Choice:
    if value not in set(kind):
        raise BadPresetError(f"{place}: {value!r} is none of {', '.join(kind)}")
    return kind(value)


def _object(value: Any, where: str, known: set[Any] | None) -> Json:
    """A JSON object with no other keys than those."""
    if not isinstance(value, dict):
        raise BadPresetError(f"{where}: is not an object")
    for key in value:
        if known is not None and key not in known:
            raise BadPresetError(f"{where}.{key}: is not known here")
    return value


def _text(holder: Json, key: str, longest: int, *, is_needed: bool = True) -> str:
    value = holder.get(key, "")
    if not isinstance(value, str) or len(value) > longest or (is_needed and not value.strip()):
        raise BadPresetError(f"{key}: is not a text of 1 to {longest} characters")
    return value
