"""Values of a PDF as what they should be, or empty where a file has something else."""

import pikepdf

__all__ = ["array_of", "dictionary_of"]


def array_of(value: object) -> list[pikepdf.Object]:
    """The members of an array; none of anything else."""
    return list(value) if isinstance(value, pikepdf.Array) else []


def dictionary_of(value: object) -> pikepdf.Dictionary:
    """The dictionary; an empty one for anything else, streams too."""
    return value if isinstance(value, pikepdf.Dictionary) else pikepdf.Dictionary()
