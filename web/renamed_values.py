"""Renaming of keys and values within stored JSON, for migrations."""

from collections.abc import Mapping
from typing import Any

__all__ = ["rename_values", "renamed"]


def renamed(stored: Any, names: Mapping[str, str]) -> Any:
    """Return JSON with its keys, and texts that are values, under present names at any depth."""
    if isinstance(stored, str):
        return names.get(stored, stored)
    if isinstance(stored, list):
        return [renamed(entry, names) for entry in stored]
    if isinstance(stored, dict):
        return {names.get(key, key): renamed(entry, names) for key, entry in stored.items()}
    return stored


def rename_values(model: Any, fields: tuple[str, ...], names: Mapping[str, str]) -> None:
    """Rename within JSON fields of every row; `model` is the migration's own."""
    for row in model.objects.only("pk", *fields).iterator():
        present = {field: renamed(getattr(row, field), names) for field in fields}
        if any(present[field] != getattr(row, field) for field in fields):
            model.objects.filter(pk=row.pk).update(**present)
