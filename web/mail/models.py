"""Mails that were sent, for the slip."""

import uuid
from datetime import timedelta
from typing import TYPE_CHECKING

from django.db import models
from django.utils import timezone

from web.satchels.models import Run

if TYPE_CHECKING:
    from django.contrib.auth.models import User

__all__ = ["Sending"]


class SendingState(models.TextChoices):
    WAITING = "waiting"
    SENT = "sent"
    FAILED = "failed"


class Sending(models.Model):
    """The messages of a run, sent to somebody once."""

    State = SendingState

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    run = models.ForeignKey(Run, models.CASCADE, related_name="sendings")
    receivers = models.JSONField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    messages = models.PositiveIntegerField(default=0)
    error_message = models.TextField(blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.run} to {', '.join(self.receivers)}"

    @classmethod
    def in_last_hour(cls, owner: "User") -> int:
        since = timezone.now() - timedelta(hours=1)
        return cls.objects.filter(run__satchel__owner=owner, created_at__gt=since).count()
