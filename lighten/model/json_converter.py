"""Conversion of frozen values to JSON and back by their types; errors name their position."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import is_dataclass
from enum import StrEnum
from functools import cache
from pathlib import Path, PurePath
from typing import TYPE_CHECKING, Any, TypeVar

if TYPE_CHECKING:
    import cattrs

__all__ = ["JsonMistakeError", "from_json", "new_converter", "present_choice", "to_json"]

Json = dict[str, Any]
Value = TypeVar("Value")

# Names that stored values had before they were renamed, with those that they have now.
_FORMER_KEYS = {"goes_with": "removed_with", "two_tone": "bitonal_method"}
_FORMER_CHOICES = {"lighten": "brighten", "two-tone": "bitonal", "stencil": "mask"}


class JsonMistakeError(ValueError):
    """The first mistake in some JSON: where, and what is wrong with it."""

    def __init__(self, where: str, what: str) -> None:
        super().__init__(f"{where}: {what}")


def new_converter() -> "cattrs.Converter":
    """Return a strict converter: it converts no types and refuses unknown keys."""
    import cattrs

    converter = cattrs.Converter(forbid_extra_keys=True)
    for kind, title in ((bool, "true or false"), (int, "a whole number"), (str, "a text")):
        converter.register_structure_hook(kind, _only(kind, title))
    converter.register_structure_hook(float, _number)
    converter.register_structure_hook(StrEnum, _choice)
    converter.register_structure_hook(Path, lambda value, _type: Path(value))
    converter.register_unstructure_hook(PurePath, str)
    converter.register_structure_hook_factory(is_dataclass, lambda cls: _object(cls, converter))
    converter.register_unstructure_hook_func(
        lambda cls: getattr(cls, "__origin__", cls) in (frozenset, set),
        lambda values: sorted(converter.unstructure(value) for value in values),
    )
    converter.register_unstructure_hook_func(
        lambda cls: getattr(cls, "__origin__", cls) is tuple,
        lambda values: [converter.unstructure(value) for value in values],
    )
    return converter


def to_json(value: Any, converter: "cattrs.Converter | None" = None) -> Any:
    """Return a value in the form that `json.dumps` takes; equal values give equal JSON."""
    return (converter or _plain_converter()).unstructure(value)


def from_json(
    stored: Any, kind: type[Value], where: str, converter: "cattrs.Converter | None" = None
) -> Value:
    """Return the value of type `kind` from the JSON that `to_json` made.

    where: what to call the top of it. Raises: JsonMistakeError.
    """
    try:
        return (converter or _plain_converter()).structure(stored, kind)
    except Exception as error:
        place, what = next(_mistakes(error, where), (where, str(error)))
        raise JsonMistakeError(place, what) from error


@cache
def _plain_converter() -> "cattrs.Converter":
    return new_converter()


def _only(kind: type, title: str) -> Callable[[Any, Any], Any]:
    def structure(value: Any, _type: Any) -> Any:
        if not isinstance(value, kind) or (isinstance(value, bool) and kind is not bool):
            raise ValueError(f"{value!r} is not {title}")
        return value

    return structure


def _number(value: Any, _type: Any) -> float:
    if not isinstance(value, int | float) or isinstance(value, bool):
        raise ValueError(f"{value!r} is not a number")  # noqa: TRY004 - of what a person wrote
    return value


def present_choice(value: str) -> str:
    """Return the present spelling of a choice that may have a former one."""
    return _FORMER_CHOICES.get(value, value)


def _choice(value: Any, kind: Any) -> Any:
    if value not in set(kind) and isinstance(value, str):
        value = present_choice(value)
    if value not in set(kind):
        raise ValueError(f"{value!r} is none of {', '.join(kind)}")
    return kind(value)


def _object(cls: Any, converter: "cattrs.Converter") -> Callable[[Any, Any], Any]:
    from cattrs.gen import make_dict_structure_fn

    structure = make_dict_structure_fn(cls, converter, _cattrs_forbid_extra_keys=True)

    def checked(value: Any, kind: Any) -> Any:
        if not isinstance(value, Mapping):
            raise ValueError("is not an object")  # noqa: TRY004 - of what a person wrote
        for former, now in _FORMER_KEYS.items():
            if former in value and now not in value:
                value = {**value, now: value[former]}
                del value[former]
        return structure(value, kind)

    return checked


def _mistakes(error: BaseException, where: str) -> Iterator[tuple[str, str]]:
    """Every mistake with its place, in the order in which they were met."""
    from cattrs.errors import BaseValidationError, ForbiddenExtraKeysError

    if isinstance(error, ForbiddenExtraKeysError):
        for key in sorted(error.extra_fields):
            yield f"{where}.{key}", "is not known here"
    elif isinstance(error, BaseValidationError):
        for inner in error.exceptions:
            yield from _mistakes(inner, where + _place_of(inner))
    else:
        yield where, str(error)


def _place_of(error: BaseException) -> str:
    from cattrs.errors import AttributeValidationNote, IterableValidationNote

    for note in getattr(error, "__notes__", ()):
        if isinstance(note, AttributeValidationNote):
            return f".{note.name}"
        if isinstance(note, IterableValidationNote):
            return f"[{note.index}]" if isinstance(note.index, int) else f".{note.index}"
    return ""
