"""Presets and limits that people made for themselves, and the preset each begins with."""

import uuid

from django.conf import settings
from django.db import models

from lighten import Carrier

__all__ = ["OwnLimit", "OwnPreset", "UsualPreset"]


class OwnPreset(models.Model):
    """A treatment kept under a name. treatment: as `lighten.model.preset_json` stores it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="presets")
    title = models.CharField(max_length=60)
    description = models.CharField(max_length=500, blank=True, default="")
    treatment = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at",)
        constraints = (
            models.UniqueConstraint(fields=["owner", "title"], name="one_preset_a_title"),
        )

    def __str__(self) -> str:
        return self.title


class UsualPreset(models.Model):
    """Default preset of new satchels of an account."""

    owner = models.OneToOneField(
        settings.AUTH_USER_MODEL, models.CASCADE, related_name="usual_preset"
    )
    name = models.CharField(max_length=60)

    def __str__(self) -> str:
        return self.name


class OwnLimit(models.Model):
    """A limit kept under a name, with what else is asked where it is met.

    checklist: as `lighten.checklist_to_json` stores it.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="limits")
    title = models.CharField(max_length=60)
    size_bytes = models.PositiveBigIntegerField()
    carrier = models.CharField(
        max_length=8, choices=[(str(one), str(one)) for one in Carrier], default=str(Carrier.FILE)
    )
    checklist = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at",)
        constraints = (
            models.UniqueConstraint(fields=["owner", "title"], name="one_limit_a_title"),
        )

    def __str__(self) -> str:
        return self.title
