"""Queues that programs print to, and what came by them."""

import secrets
import uuid

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

from printers import JobState
from web.satchels.models import Document, Satchel

__all__ = ["PrintQueue", "PrintedJob"]


def _token() -> str:
    return secrets.token_urlsafe(18)


class PrintQueue(models.Model):
    """A printer of one account. token: in its address, which is secret; a new one ends the old.

    preset: of the satchel that its jobs go into. satchel: null before the first job, and when it
    was deleted.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="queues")
    name = models.CharField(max_length=60)
    preset = models.CharField(max_length=60)
    token = models.CharField(max_length=40, unique=True, default=_token, editable=False)
    satchel = models.ForeignKey(
        Satchel, models.SET_NULL, null=True, blank=True, related_name="queues"
    )
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at",)

    def __str__(self) -> str:
        return self.name

    def renew(self) -> None:
        """Another address; programs that know the old one print into nothing."""
        self.token = _token()
        self.save(update_fields=["token"])

    def room(self) -> Satchel:
        """Return the satchel that jobs go into, created if it was deleted."""
        with transaction.atomic():
            if self.satchel is None:
                self.satchel = Satchel.objects.create(
                    owner=self.owner, name=f"Printed: {self.name}", preset=self.preset
                )
                self.save(update_fields=["satchel"])
        return self.satchel

    def begin(self, name: str, user: str) -> "PrintedJob":
        with transaction.atomic():
            last = self.jobs.aggregate(last=models.Max("number"))["last"] or 0
            return PrintedJob.objects.create(
                queue=self, number=last + 1, name=name[:200] or "Untitled", user=user[:120]
            )


class PrintedJob(models.Model):
    """One job. state: of RFC 8011. document: what it became; null before, or once it is gone."""

    queue = models.ForeignKey(PrintQueue, models.CASCADE, related_name="jobs")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    user = models.CharField(max_length=120, blank=True, default="")
    state = models.PositiveSmallIntegerField(
        choices=[(int(one), one.name.lower()) for one in JobState], default=int(JobState.PENDING)
    )
    message = models.TextField(blank=True, default="")
    document = models.ForeignKey(
        Document, models.SET_NULL, null=True, blank=True, related_name="printed"
    )
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-number",)
        constraints = (
            models.UniqueConstraint(fields=["queue", "number"], name="one_job_a_number"),
        )

    def __str__(self) -> str:
        return self.name

    def end(self, state: JobState, message: str = "") -> None:
        """Unless it is over already."""
        over = [int(one) for one in JobState if one.is_over]
        open_ = PrintedJob.objects.filter(pk=self.pk).exclude(state__in=over)
        open_.update(state=int(state), message=message, ended_at=timezone.now())
