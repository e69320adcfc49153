"""Presets, treatments and exceptions as JSON and back, with every mistake named by its place.

The form is ours and open: {"schema": "green-satchel-preset", "version": 1, "name", "title",
"description", "treatment": {"pictures": {class: {...}}, "fonts", "drawing", "dropped_extras",
"is_linearized", "assumed_cm"}}. Keys that are left out have their usual values; unknown ones are
refused.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar, get_type_hints

from lighten.model.errors import BadPresetError
from lighten.model.extras import extras_of_name
from lighten.model.json_converter import JsonMistakeError, from_json, new_converter, to_json
from lighten.model.kinds import ExtraKind, PictureClass
from lighten.model.plans import PartException
from lighten.model.presets import Preset
from lighten.model.treatments import Filter, PictureTreatment, Treatment

if TYPE_CHECKING:
    import cattrs

__all__ = [
    "exceptions_from_json",
    "exceptions_to_json",
    "preset_from_json",
    "preset_to_json",
    "treatment_from_json",
    "treatment_to_json",
]

SCHEMA, VERSION = "green-satchel-preset", 1
_LONGEST_NAME, _LONGEST_TEXT, _MOST_FILTERS = 60, 500, 12

Json = dict[str, Any]
Value = TypeVar("Value")


def preset_to_json(preset: Preset) -> Json:
    """The preset as plain values that `json.dumps` takes."""
    return {
        "schema": SCHEMA,
        "version": VERSION,
        "name": preset.name,
        "title": preset.title,
        "description": preset.description,
        "treatment": treatment_to_json(preset.treatment),
    }


def treatment_to_json(treatment: Treatment) -> Json:
    """The treatment as plain values, whole: each class of picture is named."""
    whole = {picture_class: treatment.for_class(picture_class) for picture_class in PictureClass}
    stored: Json = to_json(replace(treatment, pictures=whole), _converter())
    return stored


def preset_from_json(stored: Any) -> Preset:
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
        treatment=treatment_from_json(top.get("treatment")),
    )


def treatment_from_json(stored: Any, where: str = "treatment") -> Treatment:
    """The treatment that `treatment_to_json` was given. Raises: BadPresetError."""
    return _restored(stored, Treatment, where)


def exceptions_from_json(stored: Any, folder: Path) -> dict[str, PartException]:
    """Read exceptions by part id: {"is_exempt": true}, {"is_left_out": true}, {"treatment": {...}}
    or {"replacement": name}.

    folder: where replacements lie. Raises: BadPresetError.
    """
    exceptions = {}
    for part_id, changes in _object(stored, "exceptions", None).items():
        where = f"exceptions.{part_id}"
        entry = _object(changes, where, {"is_exempt", "is_left_out", "treatment", "replacement"})
        if len(entry) != 1:
            raise BadPresetError(f"{where}: has to exempt, remove, treat or replace")
        if "treatment" in entry:
            treatment = _restored(entry["treatment"], PictureTreatment, f"{where}.treatment")
            exceptions[part_id] = PartException(treatment=treatment)
        elif "replacement" in entry:
            name = Path(_text(entry, "replacement", _LONGEST_NAME)).name
            exceptions[part_id] = PartException(replacement=folder / name)
        elif "is_left_out" in entry:
            exceptions[part_id] = PartException(is_left_out=True)
        else:
            exceptions[part_id] = PartException(is_exempt=True)
    return exceptions


def exceptions_to_json(exceptions: Mapping[str, PartException]) -> Json:
    """Write exceptions for `exceptions_from_json`, with every treatment whole."""
    return {part_id: _exception(one) for part_id, one in exceptions.items()}


def _exception(exception: PartException) -> Json:
    if exception.treatment is not None:
        return {"treatment": to_json(exception.treatment, _converter())}
    if exception.replacement is not None:
        return {"replacement": exception.replacement.name}
    return {"is_left_out": True} if exception.is_left_out else {"is_exempt": True}


def _restored(stored: Any, kind: type[Value], where: str) -> Value:
    try:
        return from_json(stored, kind, where, _converter())
    except JsonMistakeError as error:
        raise BadPresetError(str(error)) from error


def _extras(stored: Any, kind: Any) -> frozenset[ExtraKind]:
    """Read kinds of extras by their present or former names."""
    from cattrs.errors import IterableValidationError, IterableValidationNote

    if not isinstance(stored, list):
        raise ValueError("is not a list")  # noqa: TRY004 - of what a person wrote
    kinds: set[ExtraKind] = set()
    for index, name in enumerate(stored):
        try:
            kinds.update(extras_of_name(name))
        except (ValueError, TypeError):
            mistake = ValueError(f"{name!r} is none of {', '.join(ExtraKind)}")
            mistake.add_note(IterableValidationNote("an extra", index, kind))
            raise IterableValidationError("extras", [mistake], kind) from None
    return frozenset(kinds)


def _filters(stored: Any, _kind: Any) -> tuple[Filter, ...]:
    if not isinstance(stored, list) or len(stored) > _MOST_FILTERS:
        raise ValueError(f"is not a list of at most {_MOST_FILTERS}")
    return tuple(_converter().structure(stored, list[Filter]))


@cache
def _converter() -> "cattrs.Converter":
    converter = new_converter()
    converter.register_structure_hook_func(
        lambda kind: kind == get_type_hints(Treatment)["dropped_extras"], _extras
    )
    converter.register_structure_hook_func(
        lambda kind: kind == get_type_hints(PictureTreatment)["filters"], _filters
    )
    return converter


def _object(value: Any, where: str, known_keys: set[str] | None) -> Json:
    """A JSON object with no other keys than those."""
    if not isinstance(value, dict):
        raise BadPresetError(f"{where}: is not an object")
    for key in value:
        if known_keys is not None and key not in known_keys:
            raise BadPresetError(f"{where}.{key}: is not known here")
    return value


def _text(holder: Json, key: str, longest: int, *, is_needed: bool = True) -> str:
    value = holder.get(key, "")
    if not isinstance(value, str) or len(value) > longest or (is_needed and not value.strip()):
        raise BadPresetError(f"{key}: is not a text of 1 to {longest} characters")
    return value
