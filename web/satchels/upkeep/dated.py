"""Rows with the time of their last change, so that a page can fetch changes only."""

from collections.abc import Iterable
from typing import Any, TypeVar

from django.db import models
from django.utils import timezone

__all__ = ["Dated"]

Row = TypeVar("Row", bound="Dated")


class _DatedRows(models.QuerySet[Row]):
    def update(self, **values: Any) -> int:
        return super().update(changed_at=timezone.now(), **values)


class Dated(models.Model):
    """Its date moves with every change, of whatever fields."""

    changed_at = models.DateTimeField(auto_now=True, db_index=True)

    objects = _DatedRows.as_manager()

    class Meta:
        abstract = True

    def save(self, *args: Any, update_fields: Iterable[str] | None = None, **options: Any) -> None:
        if update_fields is not None:
            update_fields = {*update_fields, "changed_at"}
        super().save(*args, update_fields=update_fields, **options)
