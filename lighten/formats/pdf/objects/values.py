"""Values of a PDF as what they should be, or empty where a file has something else."""

from decimal import Decimal

import pikepdf

__all__ = ["array_of", "dictionary_of", "numbers_of", "text_of", "whole_number"]


def array_of(value: object) -> list[pikepdf.Object]:
    """Return the members of an array; [] for any other object."""
    return list(value) if isinstance(value, pikepdf.Array) else []


def dictionary_of(value: object) -> pikepdf.Dictionary:
    """The dictionary; an empty one for anything else, streams too."""
    return value if isinstance(value, pikepdf.Dictionary) else pikepdf.Dictionary()


def whole_number(value: object, otherwise: int = 0) -> int:
    """Return a whole number, truncated; `otherwise` for other objects or None."""
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        return otherwise
    return int(value)


def numbers_of(value: object) -> list[float]:
    """Return the members of an array of numbers; [] if any is no number."""
    members = array_of(value)
    if all(isinstance(member, int | float | Decimal) for member in members):
        return [float(member) for member in members]
    return []


def text_of(value: object) -> str:
    """A name, with its slash, or a word as text; names may hold any bytes (ISO 32000-1, 7.3.5)."""
    try:
        return str(value)
    except UnicodeDecodeError:
        assert isinstance(value, pikepdf.Object)
        return value.unparse().decode("latin-1")
