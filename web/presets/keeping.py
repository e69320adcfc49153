"""Entries that people keep under a title of their own."""

from typing import Any

from django.db import IntegrityError, transaction
from rest_framework import serializers

from web.problems import Problem

__all__ = ["keep"]


def keep(serializer: "serializers.ModelSerializer[Any]", noun: str, **values: Any) -> Any:
    """Save it. noun: what it is called. Raises: Problem, where its title is taken."""
    try:
        with transaction.atomic():
            return serializer.save(**values)
    except IntegrityError:
        title = serializer.validated_data["title"]
        raise Problem(
            "title_taken", f'You have a {noun} called "{title}" already. Give it another title.'
        ) from None
