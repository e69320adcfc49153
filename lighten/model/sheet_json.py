"""Weight sheets and trials as JSON and back: planning needs no second look at a file."""

from dataclasses import astuple, fields
from functools import cache
from typing import TYPE_CHECKING, Any

from lighten.model.json_converter import from_json, new_converter, to_json
from lighten.model.trials import Trial, Trials
from lighten.model.weights import WeightSheet

if TYPE_CHECKING:
    import cattrs

__all__ = ["dump_sheet", "sheet_from_json", "trials_from_json", "trials_to_json"]

Json = dict[str, Any]

_NAMES = [field.name for field in fields(Trial)]


def dump_sheet(sheet: WeightSheet) -> Json:
    """The sheet as plain values that `json.dumps` takes."""
    stored: Json = to_json(sheet)
    return stored


def sheet_from_json(stored: Json) -> WeightSheet:
    """The sheet that `dump_sheet` was given. Raises: ValueError, with the place of a mistake."""
    return from_json(stored, WeightSheet, "the sheet")


def trials_to_json(trials: Trials) -> Json:
    """The trials as plain values that `json.dumps` takes."""
    stored: Json = to_json(trials, _trials_converter())
    return stored


def trials_from_json(stored: Json) -> Trials:
    """Read trials from the JSON of `trials_to_json`. Raises: as `sheet_from_json`."""
    return from_json(stored, Trials, "the trials", _trials_converter())


@cache
def _trials_converter() -> "cattrs.Converter":
    """Return a converter that stores each trial as a short list: there are thousands."""
    converter = new_converter()
    converter.register_unstructure_hook(Trial, lambda trial: list(astuple(trial)))
    converter.register_structure_hook(
        Trial, lambda values, _kind: Trial(**dict(zip(_NAMES, values, strict=True)))
    )
    return converter
