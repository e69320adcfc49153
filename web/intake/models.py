"""Paper that is taken in: pages as they come from a scanner, until they are a document."""

import shutil
import uuid
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.base import File
from django.core.files.storage import default_storage
from django.db import models, transaction

from web.satchels.models import Document, Satchel

__all__ = ["Intake", "Page", "Scan"]

_SCAN_STACK = "scan-stack"


class Intake(models.Model):
    """Pages on hand, in their order, that are to become one document."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="intakes")
    name = models.CharField(max_length=120)
    created_at = models.DateTimeField(auto_now_add=True)

    folders = "intake/*"  # see `Satchel.folders`

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return self.name

    @property
    def folder_path(self) -> Path:
        """Return the folder of all its files."""
        return Path(default_storage.path(f"intake/{self.pk}"))

    def on_hand(self) -> "models.QuerySet[Page]":
        """Pages that were not taken out, in order."""
        return self.pages.filter(is_out=False)

    def take(self, file: File[bytes], name: str, *, scan: "Scan | None" = None) -> "Page":
        """One more page at the end."""
        page = Page(intake=self, name=name, size_bytes=file.size, scan=scan)
        page.file.save("picture", file, save=False)
        with transaction.atomic():
            last = self.pages.aggregate(last=models.Max("place"))["last"]
            page.place = 0 if last is None else last + 1
            page.save()
        return page

    def put_in_order(self, ids: Sequence[uuid.UUID]) -> None:
        """Those pages first, in that order; others after them as they were."""
        with transaction.atomic():
            pages = {page.pk: page for page in self.pages.all()}
            known = [pages[pk] for pk in dict.fromkeys(ids) if pk in pages]
            others = [page for page in pages.values() if page not in known]
            for place, page in enumerate([*known, *others]):
                Page.objects.filter(pk=page.pk).update(place=place)

    def keep(self, name: str, *, in_layers: bool) -> Document:
        """A new satchel with a document of the pages on hand, which stay here as well."""
        pages = list(self.on_hand())
        numbered = list(enumerate(pages, start=1))
        looks = {
            "turns": {str(number): page.turn for number, page in numbered if page.turn},
            "corners": {str(number): page.corners for number, page in numbered if page.corners},
        }
        satchel = Satchel.objects.create(
            owner=self.owner,
            name=name,
            **({"preset": _SCAN_STACK} if in_layers else {}),
        )
        return Document.of_pages(
            satchel, [(Path(page.file.path), page.name) for page in pages], f"{name}.pdf", looks
        )

    @classmethod
    def forget_before(cls, moment: datetime) -> int:
        """Delete what was begun earlier; how many."""
        old = list(cls.objects.filter(created_at__lt=moment))
        for intake in old:
            intake.remove()
        return len(old)

    def remove(self) -> None:
        """Delete it and every page of it."""
        folder = self.folder_path
        self.delete()
        shutil.rmtree(folder, ignore_errors=True)


class ScanState(models.TextChoices):
    WAITING = "waiting"
    SCANNING = "scanning"
    DONE = "done"
    STOPPED = "stopped"
    FAILED = "failed"

    @classmethod
    def unfinished(cls) -> tuple["ScanState", ...]:
        return (cls.WAITING, cls.SCANNING)


class Scan(models.Model):
    """One job of a scanner. scanner: its name in the settings. wanted: see `ScanSettings`.

    are_backs: of the pages of the scan before it, fed from the last on. replaces: the page that is
    scanned again. share: of the page that comes now.
    """

    State = ScanState

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    intake = models.ForeignKey(Intake, models.CASCADE, related_name="scans")
    scanner = models.CharField(max_length=80)
    wanted = models.JSONField()
    are_backs = models.BooleanField(default=False)
    replaces = models.ForeignKey(
        "Page", models.SET_NULL, null=True, blank=True, related_name="scanned_again"
    )
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    share = models.FloatField(default=0)
    pages_came = models.PositiveIntegerField(default=0)
    error_code = models.CharField(max_length=40, blank=True, default="")
    message = models.TextField(blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at",)

    def __str__(self) -> str:
        return f"{self.scanner}, {self.created_at:%H:%M}"

    def begin(self) -> bool:
        """Claim it; False if somebody else has, or it was stopped."""
        waiting = Scan.objects.filter(pk=self.pk, state=self.State.WAITING)
        return bool(waiting.update(state=self.State.SCANNING))

    def is_stopped(self) -> bool:
        return not Scan.objects.filter(pk=self.pk, state=self.State.SCANNING).exists()

    def stop(self) -> None:
        """Stop after the present page; scanned pages stay."""
        unfinished = Scan.objects.filter(pk=self.pk, state__in=self.State.unfinished())
        unfinished.update(state=self.State.STOPPED)

    def tell(self, **fields: Any) -> None:
        Scan.objects.filter(pk=self.pk).update(**fields)

    def finish(self) -> None:
        Scan.objects.filter(pk=self.pk, state=self.State.SCANNING).update(state=self.State.DONE)

    def fail(self, code: str, message: str) -> None:
        Scan.objects.filter(pk=self.pk, state=self.State.SCANNING).update(
            state=self.State.FAILED, error_code=code, message=message
        )

    def settle_order(self) -> None:
        """Order backs after their fronts, and rescanned pages in place of the old ones."""
        mine = list(self.pages.order_by("place"))
        everything = list(self.intake.pages.all())
        if self.replaces is not None and mine:
            new = mine[0]
            others = [page for page in everything if page != new]
            at = others.index(self.replaces)
            ordered = [*others[: at + 1], new, *others[at + 1 :]]
            Page.objects.filter(pk=self.replaces.pk).update(is_out=True)
            self.intake.put_in_order([page.pk for page in ordered])
        elif self.are_backs:
            before = self.intake.scans.filter(created_at__lt=self.created_at).last()
            fronts = list(before.pages.order_by("place")) if before else []
            self.intake.put_in_order([page.pk for page in _interleaved(everything, fronts, mine)])


def _interleaved(
    everything: "list[Page]", fronts: "list[Page]", backs: "list[Page]"
) -> "list[Page]":
    """Each front with its back behind it: the turned stack comes from the last sheet on."""
    reversed_backs = backs[::-1]
    pairs: dict[Any, Page] = {
        front.pk: back for front, back in zip(fronts, reversed_backs, strict=False)
    }
    paired = set(pairs.values())
    ordered: list[Page] = []
    for page in everything:
        if page not in paired:
            ordered.append(page)
        if page.pk in pairs:
            ordered.append(pairs[page.pk])
    return ordered


def _picture_path(page: "Page", _name: str) -> str:
    return f"intake/{page.intake_id}/{page.pk}/picture"


class Page(models.Model):
    """A page as it came. turn: degrees with the clock. is_out: taken out, and can be put back.

    corners: of the sheet in a photo that is the page, as `lighten.Corners`; null for all of it.
    look: null until known: "width_px", "height_px", "ppi", "is_blank", "corners", those that were
    found. layers: null until known:
    what it would be in layers, see `web.jobs.process`; {"error"} where nobody can say.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    intake = models.ForeignKey(Intake, models.CASCADE, related_name="pages")
    scan = models.ForeignKey(Scan, models.SET_NULL, null=True, blank=True, related_name="pages")
    place = models.PositiveIntegerField(default=0)
    name = models.CharField(max_length=255)
    file = models.FileField(upload_to=_picture_path, max_length=200)
    size_bytes = models.PositiveBigIntegerField()
    turn = models.PositiveSmallIntegerField(default=0)
    corners = models.JSONField(null=True, blank=True)
    is_out = models.BooleanField(default=False)
    look = models.JSONField(null=True, blank=True)
    layers = models.JSONField(null=True, blank=True)
    error_message = models.TextField(blank=True, default="")

    password = ""

    class Meta:
        ordering = ("place",)

    def __str__(self) -> str:
        return self.name

    @property
    def folder_path(self) -> Path:
        """Return the folder of everything made from it."""
        return Path(self.file.path).parent

    def fail(self, message: str) -> None:
        Page.objects.filter(pk=self.pk).update(error_message=message, layers={"error": message})
