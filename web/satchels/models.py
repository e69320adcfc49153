"""Satchels, their documents, the runs over them and the copies made."""

import hashlib
import secrets
import shutil
import uuid
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.hashers import check_password, make_password
from django.core.files import File
from django.core.files.storage import default_storage
from django.db import models
from django.utils import timezone
from django.utils.functional import cached_property

from lighten import (
    Carrier,
    Check,
    Checklist,
    Limit,
    Naming,
    check_file,
    checklist_from_json,
    copy_ending,
    format_named,
)
from web.satchels.upkeep.dated import Dated
from web.satchels.upkeep.sealed import SealedField

__all__ = [
    "Copy",
    "Document",
    "HandOver",
    "ReturnedCopy",
    "Run",
    "Satchel",
    "UnderWay",
    "WorkState",
]


# Of work that has just begun.
_AT_FIRST = {"progress": 0.0, "doing": "", "seconds_left": None}


class UnderWay(models.Model):
    """Work in progress: the share done, the present step, and about the remaining seconds."""

    progress = models.FloatField(default=0)
    doing = models.CharField(max_length=40, blank=True, default="")
    seconds_left = models.FloatField(null=True, blank=True)

    class Meta:
        abstract = True


_SAMPLE = Path(__file__).parent / "sample" / "Reed bed.pdf"
_SAMPLE_LIMIT_BYTES = 300_000


class Satchel(models.Model):
    """A named set of documents, with its limit, its preset and its naming rule.

    treatment: what the preset was tuned to on the bench, as `lighten.treatment_to_json` stores
    it; null for the preset as it is.
    is_fitted: as gently as the limit allows, instead of by the preset; fit_floor, fit_ways: see
    `lighten.FitRules`. is_limit_shared: the limit is for all copies together.
    checklist: what else is asked where the limit is met, as `lighten.checklist_to_json` stores it;
    null for nothing. may_split: what cannot meet the limit comes in numbered pieces.
    may_blur_text: pages held as pictures may go below what text can be read at. counts_rounds:
    from the second run on, names of copies tell which it is. seen_at: when its bench was last
    fetched, to within seconds.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="satchels")
    name = models.CharField(max_length=120)
    limit_bytes = models.PositiveBigIntegerField(null=True, blank=True)
    limit_carrier = models.CharField(
        max_length=8, choices=[(one, one) for one in Carrier], default=Carrier.FILE
    )
    preset = models.CharField(max_length=60, default="reading-desk")
    treatment = models.JSONField(null=True, blank=True)
    is_fitted = models.BooleanField(default=False)
    fit_floor = models.FloatField(default=55)
    fit_ways = models.JSONField(default=list, blank=True)
    is_limit_shared = models.BooleanField(default=False)
    may_split = models.BooleanField(default=False)
    may_blur_text = models.BooleanField(default=False)
    prefix = models.CharField(max_length=40, blank=True, default="")
    suffix = models.CharField(max_length=40, blank=True, default="-light")
    checklist = models.JSONField(null=True, blank=True)
    counts_rounds = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    seen_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ("-changed_at",)
        constraints = (
            models.CheckConstraint(
                name="limit_above_zero",
                condition=models.Q(limit_bytes__isnull=True) | models.Q(limit_bytes__gt=0),
            ),
        )

    # Named by their ids below the root of all files, as `sweep_leftovers` looks for them.
    folders = "*-*-*-*-*"

    def __str__(self) -> str:
        return self.name

    @classmethod
    def to_try_on(cls, owner: Any, preset: str) -> "Satchel":
        """Create a satchel with the sample document that ships with the application."""
        satchel = cls.objects.create(
            owner=owner, name="To try on", preset=preset, limit_bytes=_SAMPLE_LIMIT_BYTES
        )
        document = Document(satchel=satchel, name=_SAMPLE.name, size_bytes=_SAMPLE.stat().st_size)
        with _SAMPLE.open("rb") as file:
            document.file.save("original", File(file), save=False)
        document.save()
        return satchel

    @property
    def is_open(self) -> bool:
        """Return whether the bench was fetched within the last seconds."""
        return self.seen_at is not None and timezone.now() - self.seen_at < _OPEN_FOR

    @staticmethod
    def opened() -> models.Q:
        """Return the condition that a satchel is open, see `is_open`."""
        return models.Q(seen_at__gt=timezone.now() - _OPEN_FOR)

    def mark_seen(self) -> bool:
        """Note that its bench was fetched; return whether it was not open before."""
        now, was_open = timezone.now(), self.is_open
        if self.seen_at is None or now - self.seen_at > _SEEN_EVERY:
            Satchel.objects.filter(pk=self.pk).update(seen_at=now)
            self.seen_at = now
        return not was_open

    @property
    def limit(self) -> Limit | None:
        if self.limit_bytes is None:
            return None
        return Limit(size_bytes=self.limit_bytes, carrier=Carrier(self.limit_carrier))

    @property
    def choices_mark(self) -> str:
        """Return a value that changes with every choice."""
        chosen = [
            getattr(self, field.attname)
            for field in self._meta.concrete_fields
            if field.name != "changed_at"
        ]
        return hashlib.sha256(repr(chosen).encode()).hexdigest()[:16]

    @cached_property
    def next_round(self) -> int:
        """Return the number of the next run."""
        return (self.runs.aggregate(last=models.Max("round"))["last"] or 0) + 1

    def naming(self, round_: int) -> Naming:
        """Return the naming of the copies of one run."""
        is_declared = self.counts_rounds and round_ > 1
        return Naming(
            prefix=self.prefix,
            suffix=f"{self.suffix}-round-{round_}" if is_declared else self.suffix,
        )

    def copy_name(self, document: "Document", copy: "Copy | None" = None, piece: str = "") -> str:
        """Return the name of a document's copy by this satchel's naming rule.

        copy: a finished one, which may be another kind of file; without it, what is likely.
        piece: "-1-of-3" and the like, for one piece of a copy that was split.
        """
        # Which round it is takes a look at the runs.
        round_ = (copy.run.round if copy else self.next_round) if self.counts_rounds else 1
        name = self.naming(round_).copy_name(document.name, document.copy_ending(copy), piece)
        return self.requirements.names.apply(name)

    @property
    def requirements(self) -> Checklist:
        return checklist_from_json(self.checklist or {})

    def checks(self, document: "Document", copy: "Copy | None" = None) -> tuple[Check, ...]:
        """Return the requirements on the copy of a document, finished or estimated."""
        facts = document.facts or {}
        return check_file(
            self.requirements,
            self.copy_name(document, copy),
            pages=facts.get("pages"),
            standard=facts.get("standard", ""),
        )

    def duplicate(self) -> "Satchel":
        """Another satchel with the same documents and choices, to be changed by itself."""
        # One that could not be gathered has no file of its own.
        documents = [one for one in self.documents.all() if one.gathering is None]
        twin = Satchel.objects.get(pk=self.pk)
        twin.pk, twin.name = uuid.uuid4(), f"{self.name[:110]}, copy"
        twin._state.adding = True
        twin.save()
        for document in documents:
            document.duplicate_into(twin)
        return twin

    @classmethod
    def forget_before(cls, moment: datetime) -> int:
        """Delete what nobody has changed since; how many."""
        old = list(cls.objects.filter(changed_at__lt=moment))
        for satchel in old:
            satchel.remove()
        return len(old)

    def remove(self) -> None:
        """Delete the satchel and every file of it, at once."""
        for document in self.documents.all():
            document.remove()
        self.delete()


# A bench counts as open for so long after it was fetched, which is noted no more often than this.
_OPEN_FOR, _SEEN_EVERY = timedelta(seconds=30), timedelta(seconds=10)
_FACTS = ("pages", "format", "media_type", "is_signed", "remarks", "taken_at")


class DocumentState(models.TextChoices):
    WAITING = "waiting"
    WEIGHING = "weighing"
    WEIGHED = "weighed"
    FAILED = "failed"

    @classmethod
    def unweighed(cls) -> tuple["DocumentState", ...]:
        return (cls.WAITING, cls.WEIGHING)


# Of a document that is still to be put together.
_PAGES = "pages-taken-in"


def _link_or_copy(path: Path, to: Path) -> None:
    """Hard-link a file, or copy it where links are not possible."""
    try:
        to.hardlink_to(path)
    except OSError:
        shutil.copyfile(path, to)


def _original_path(document: "Document", _name: str) -> str:
    """Nothing of the sender's name reaches the file system."""
    return f"{document.satchel_id}/{document.id}/original"


class Document(Dated, UnderWay):
    """An original in a satchel, kept byte for byte.

    sheet, trials: as `lighten.dump_sheet` and `trials_to_json` store them; facts: what rows
    show of the sheet. trial_progress: the share of trials that are made; version: counts changes
    of sheet or trials. estimates: see `estimates.py`.
    savings: bytes that each switch takes off. exceptions: pictures that are treated otherwise, as
    `lighten.treatment_to_json` stores them.
    password: of a locked file, sealed; it goes with the document.
    gathering: null, or what the original is still to be made from: "documents", the pictures by
    their ids in order, or "pages", files of its own with their names; "page" as
    `lighten.PageSize`, and by the number of a page "turns" and "corners", of the sheet in a photo
    that is to be the page; "finds_sheets": these are looked for.
    """

    State = DocumentState
    folders = "*-*-*-*-*/*"  # see `Satchel.folders`

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    satchel = models.ForeignKey(Satchel, models.CASCADE, related_name="documents")
    name = models.CharField(max_length=255)
    folder = models.CharField(max_length=500, blank=True, default="")
    file = models.FileField(upload_to=_original_path, max_length=200)
    size_bytes = models.PositiveBigIntegerField()
    password = SealedField(max_length=500, blank=True, default="")
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    sheet = models.JSONField(null=True, blank=True)
    facts = models.JSONField(null=True, blank=True)
    trials = models.JSONField(default=dict, blank=True)
    trial_progress = models.FloatField(default=0)
    version = models.PositiveIntegerField(default=0)
    estimates = models.JSONField(default=dict, blank=True)
    savings = models.JSONField(default=dict, blank=True)
    exceptions = models.JSONField(default=dict, blank=True)
    gathering = models.JSONField(null=True, blank=True)
    error_code = models.CharField(max_length=40, blank=True, default="")
    error_message = models.TextField(blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at", "name")

    def __str__(self) -> str:
        return self.name

    @property
    def folder_path(self) -> Path:
        """Return the folder of everything made from this document."""
        return Path(default_storage.path(f"{self.satchel_id}/{self.id}"))

    @property
    def replacements_path(self) -> Path:
        """Return the folder of pictures that the person supplied as replacements."""
        return self.folder_path / "replacements"

    def pictures_to_gather(self) -> list[tuple[Path, str]]:
        """Return the files to gather, with their names, in order; none once gathered.

        Raises: Document.DoesNotExist if one of them has gone.
        """
        if self.gathering is None:
            return []
        if "pages" in self.gathering:
            folder = self.folder_path / _PAGES
            return [(folder / page["file"], page["name"]) for page in self.gathering["pages"]]
        pictures = {str(one.pk): one for one in self.satchel.documents.all()}
        try:
            ordered = [pictures[document_id] for document_id in self.gathering["documents"]]
        except KeyError as error:
            raise Document.DoesNotExist from error
        return [(Path(one.file.path), one.name) for one in ordered]

    @property
    def first_picture(self) -> str:
        """Id of the part to show of a document that is a picture; "" for others."""
        return format_named(self.facts["format"]).offers.first_picture if self.facts else ""

    def has_picture(self, part_id: str) -> bool:
        """Return whether a part of that id is a picture."""
        parts = (self.sheet or {"parts": []})["parts"]
        return any(part["id"] == part_id and part["picture"] for part in parts)

    def copy_ending(self, copy: "Copy | None" = None) -> str:
        """Return the extension of a finished copy, or of the same kind of file, with the dot."""
        if not self.facts:
            return Path(self.name).suffix
        media_type = copy.media_type if copy and copy.media_type else self.facts["media_type"]
        return copy_ending(self.name, self.facts["format"], media_type)

    def duplicate_into(self, satchel: Satchel) -> None:
        """Duplicate the document into another satchel, with a file of its own."""
        twin = Document.objects.get(pk=self.pk)
        twin.pk, twin.satchel = uuid.uuid4(), satchel
        twin._state.adding = True
        with self.file.open("rb") as original:
            twin.file.save("original", original, save=False)
        for name in ("thumbnails", "replacements"):
            if (self.folder_path / name).is_dir():
                shutil.copytree(self.folder_path / name, twin.folder_path / name)
        twin.save()

    @classmethod
    def gathered(
        cls, satchel: Satchel, pictures: "list[Document]", name: str, gathering: dict[str, Any]
    ) -> "Document":
        """A document whose original is made from pictures of the satchel when it is weighed."""
        document = cls(
            satchel=satchel,
            name=name,
            size_bytes=sum(picture.size_bytes for picture in pictures),
            gathering={"documents": [str(picture.pk) for picture in pictures], **gathering},
        )
        document.file = _original_path(document, "")
        document.save()
        return document

    @classmethod
    def of_pages(
        cls,
        satchel: Satchel,
        pages: list[tuple[Path, str]],
        name: str,
        looks: dict[str, dict[str, Any]],
    ) -> "Document":
        """Create a document from scanned or printed pages; its PDF is made when it is weighed.

        pages: their files, which stay as they are, and their names, in order. looks: "turns" and
        "corners", see `gathering`.
        """
        document = cls(
            satchel=satchel, name=name, size_bytes=sum(path.stat().st_size for path, _ in pages)
        )
        document.file = _original_path(document, "")
        folder = document.folder_path / _PAGES
        folder.mkdir(parents=True)
        rows = []
        for number, (path, page_name) in enumerate(pages):
            _link_or_copy(path, folder / str(number))
            rows.append({"file": str(number), "name": page_name})
        document.gathering = {"pages": rows, "page": "scanned", **looks}
        document.save()
        return document

    def begin_weighing(self) -> bool:
        """Claim the document; False if somebody else has, or it is gone."""
        return bool(
            Document.objects.filter(pk=self.pk)
            .exclude(state=self.State.WEIGHED)
            .update(state=self.State.WEIGHING, error_code="", error_message="", **_AT_FIRST)
        )

    def finish_weighing(self, sheet: dict[str, Any], savings: dict[str, int]) -> None:
        shutil.rmtree(self.folder_path / _PAGES, ignore_errors=True)
        Document.objects.filter(pk=self.pk).update(
            state=self.State.WEIGHED,
            progress=1,
            size_bytes=sheet["size_bytes"],
            gathering=None,
            sheet=sheet,
            facts={
                **{name: sheet[name] for name in _FACTS},
                "standard": sheet["rules"]["standard"],
            },
            trials={},
            trial_progress=0,
            version=models.F("version") + 1,
            savings=savings,
            estimates={},
        )

    def keep_trials(self, trials: dict[str, Any], share: float, savings: dict[str, int]) -> None:
        """Keep the trials made so far, with the share done and what switches save by them."""
        Document.objects.filter(pk=self.pk).update(
            trials=trials, trial_progress=share, savings=savings, version=models.F("version") + 1
        )

    def fail(self, code: str, message: str) -> None:
        Document.objects.filter(pk=self.pk).update(
            state=self.State.FAILED, error_code=code, error_message=message
        )

    def remove(self) -> None:
        """Delete the document and every file of it."""
        folder = self.folder_path
        self.delete()
        shutil.rmtree(folder, ignore_errors=True)


# What each copy takes whatever it weighs; and how much of a run has to be known to foretell it.
_BEGINNING_S, _LEAST_KNOWN_SHARE = 2.0, 0.05


class Run(models.Model):
    """One run of a satchel. preset_snapshot: the preset as it then was, stored whole.

    fit: null, or what was asked for instead: "limit_bytes", "floor", "ways", "is_shared",
    "may_split". round: counted from 1 in each satchel. names: of the documents that were in the
    satchel then, by id.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    satchel = models.ForeignKey(Satchel, models.CASCADE, related_name="runs")
    preset = models.CharField(max_length=60)
    title = models.CharField(max_length=80, blank=True, default="")
    preset_snapshot = models.JSONField(default=dict, blank=True)
    fit = models.JSONField(null=True, blank=True)
    may_end_signature = models.BooleanField(default=False)
    may_blur_text = models.BooleanField(default=False)
    round = models.PositiveIntegerField(default=1)
    names = models.JSONField(default=dict, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.satchel} with {self.title}"

    @property
    def before(self) -> "Run | None":
        """The run before it."""
        return self.satchel.runs.filter(created_at__lt=self.created_at).first()

    @property
    def is_busy(self) -> bool:
        """Return whether copies are unfinished."""
        return self.copies.filter(state__in=Copy.State.unfinished()).exists()

    @property
    def seconds_left(self) -> float | None:
        """Return about the seconds until all copies are made; None while unknown."""
        if not self.is_busy:
            return None
        copies = list(self.copies.select_related("document").defer("proof", "parts"))
        timed = [copy for copy in copies if copy.seconds is not None]
        working = [copy for copy in copies if copy.state == Copy.State.WORKING]
        predicted = [
            copy for copy in working if copy.seconds_left is not None and copy.progress < 1
        ]
        known_bytes = sum(copy.document.size_bytes for copy in (*timed, *predicted))
        total_bytes = sum(copy.document.size_bytes for copy in copies)
        # The smallest come first, and take time for what is no work on bytes.
        if known_bytes < _LEAST_KNOWN_SHARE * total_bytes:
            return None
        taken = sum(copy.seconds or 0.0 for copy in timed) + sum(
            (copy.seconds_left or 0) / (1 - copy.progress) for copy in predicted
        )
        beginnings = _BEGINNING_S * (len(timed) + len(predicted))
        rate = max(0.0, taken - beginnings) / max(1, known_bytes)
        waits = [
            _BEGINNING_S + rate * copy.document.size_bytes
            for copy in copies
            if copy.state == Copy.State.WAITING or (copy in working and copy not in predicted)
        ]
        left = max((copy.seconds_left or 0.0 for copy in predicted), default=0.0)
        return left + sum(waits) / max(1, len(working))

    def cancel(self) -> None:
        """Cancel unfinished copies; finished ones stay."""
        self.copies.filter(state__in=Copy.State.unfinished()).update(
            state=Copy.State.CANCELLED, finished_at=timezone.now()
        )


class CopyState(models.TextChoices):
    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    NONE = "none"  # no lighter copy could be made; the reasons say why
    FAILED = "failed"
    CANCELLED = "cancelled"

    @classmethod
    def unfinished(cls) -> tuple["CopyState", ...]:
        return (cls.WAITING, cls.WORKING)


def _copy_path(copy: "Copy", _name: str) -> str:
    return f"{copy.document.satchel_id}/{copy.document_id}/copy-{copy.id}"


class Copy(Dated, UnderWay):
    """The lighter copy of one document in one run.

    key: what was ordered, see `orders.py`. media_type: of the file it became. limit_bytes: what it
    must not exceed, where it was fitted. pieces: of one that was split, each with "first", "last"
    and "bytes". is_carried_over: from an earlier run, as the same was ordered.
    """

    State = CopyState

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    run = models.ForeignKey(Run, models.CASCADE, related_name="copies")
    document = models.ForeignKey(Document, models.CASCADE, related_name="copies")
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    key = models.CharField(max_length=24, blank=True, default="")
    file = models.FileField(upload_to=_copy_path, max_length=200, blank=True)
    media_type = models.CharField(max_length=80, blank=True, default="")
    bytes_after = models.PositiveBigIntegerField(null=True, blank=True)
    verdict = models.CharField(max_length=10, blank=True, default="")
    reasons = models.JSONField(default=list, blank=True)
    parts = models.JSONField(default=list, blank=True)
    is_carried_over = models.BooleanField(default=False)
    limit_bytes = models.PositiveBigIntegerField(null=True, blank=True)
    pieces = models.JSONField(default=list, blank=True)
    proof = models.JSONField(null=True, blank=True)
    error_code = models.CharField(max_length=40, blank=True, default="")
    error_message = models.TextField(blank=True, default="")
    seconds = models.FloatField(null=True, blank=True)
    finished_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("document__created_at", "document__name")
        constraints = (
            models.UniqueConstraint(fields=["run", "document"], name="one_copy_a_document"),
        )

    def __str__(self) -> str:
        return f"copy of {self.document}"

    @property
    def path(self) -> Path:
        """Return the path of the copy, made or not."""
        return self.document.folder_path / f"copy-{self.pk}"

    def piece_path(self, number: int) -> Path:
        """Return the path of a piece, counted from 1."""
        return self.document.folder_path / f"copy-{self.pk}-{number}-of-{len(self.pieces)}"

    def carry_over(self, run: Run) -> "Copy":
        """Carry the copy over to another run, with files of its own."""
        twin = Copy.objects.get(pk=self.pk)
        twin.pk, twin.run, twin.is_carried_over = uuid.uuid4(), run, True
        twin._state.adding = True
        if self.file:
            twin.file.name = _copy_path(twin, "")
            _link_or_copy(self.path, twin.path)
        for number in range(1, len(self.pieces) + 1):
            _link_or_copy(self.piece_path(number), twin.piece_path(number))
        twin.save()
        return twin

    def begin(self) -> bool:
        """Claim the copy; False if it was cancelled, or is done already."""
        waiting = Copy.objects.filter(pk=self.pk, state__in=self.State.unfinished())
        return bool(waiting.update(state=self.State.WORKING, **_AT_FIRST))

    def is_wanted(self) -> bool:
        """Return whether nobody has cancelled it."""
        return Copy.objects.filter(pk=self.pk, state=self.State.WORKING).exists()

    def finish(self, state: CopyState, **results: Any) -> bool:
        """Keep what came of it, unless it was cancelled meanwhile."""
        working = Copy.objects.filter(pk=self.pk, state=self.State.WORKING)
        return bool(working.update(state=state, progress=1, finished_at=timezone.now(), **results))


class WorkState(models.TextChoices):
    """State of work that is done once."""

    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    FAILED = "failed"

    @classmethod
    def unfinished(cls) -> tuple["WorkState", ...]:
        return (cls.WAITING, cls.WORKING)


def _returned_path(returned: "ReturnedCopy", _name: str) -> str:
    return f"{returned.document.satchel_id}/{returned.document_id}/returned-{returned.pk}"


class ReturnedCopy(UnderWay):
    """A copy that came back from somewhere, to be proved against its document.

    name: as it came. verdict, reasons, remarks: as in `lighten.Proof`.
    """

    State = WorkState

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    document = models.ForeignKey(Document, models.CASCADE, related_name="returned")
    name = models.CharField(max_length=255)
    file = models.FileField(upload_to=_returned_path, max_length=200)
    size_bytes = models.PositiveBigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    verdict = models.CharField(max_length=10, blank=True, default="")
    reasons = models.JSONField(default=list, blank=True)
    remarks = models.JSONField(default=list, blank=True)
    error_message = models.TextField(blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"{self.name}, back for {self.document}"

    def begin(self) -> bool:
        """Claim it; False if its proof is done, or it is gone."""
        waiting = ReturnedCopy.objects.filter(pk=self.pk).exclude(state=self.State.DONE)
        return bool(waiting.update(state=self.State.WORKING, error_message="", **_AT_FIRST))

    def finish(self, proof: dict[str, Any]) -> None:
        ReturnedCopy.objects.filter(pk=self.pk).update(
            state=self.State.DONE,
            progress=1,
            verdict=proof["verdict"],
            reasons=proof["reasons"],
            remarks=proof["remarks"],
        )

    def fail(self, message: str) -> None:
        ReturnedCopy.objects.filter(pk=self.pk).update(
            state=self.State.FAILED, error_message=message
        )


# Of a password that somebody guesses at.
_MOST_WRONG_TRIES = 20


def _token() -> str:
    return secrets.token_urlsafe(24)


class HandOver(models.Model):
    """A link by which anybody who has it may download one copy, until it ends.

    sha256: of the file, as hexadecimal. password: hashed; "" for none.
    """

    token = models.CharField(max_length=40, unique=True, default=_token, editable=False)
    copy = models.ForeignKey(Copy, models.CASCADE, related_name="hand_overs")
    created_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()
    downloads = models.PositiveIntegerField(default=0)
    sha256 = models.CharField(max_length=64, blank=True, default="")
    password = models.CharField(max_length=128, blank=True, default="")
    wrong_tries = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("-created_at",)

    def __str__(self) -> str:
        return f"link to {self.copy}"

    @classmethod
    def to_copy(cls, copy: Copy, days: int, password: str) -> "HandOver":
        """Create a share link. password: required of visitors, or ""."""
        with copy.path.open("rb") as file:
            sha256 = hashlib.file_digest(file, "sha256").hexdigest()
        return cls.objects.create(
            copy=copy,
            ends_at=cls.end_in(days),
            sha256=sha256,
            password=make_password(password) if password else "",
        )

    def check_password(self, given: str) -> bool:
        """Return whether the password is right; too many wrong ones end the link."""
        if check_password(given, self.password):
            return True
        HandOver.objects.filter(pk=self.pk).update(wrong_tries=models.F("wrong_tries") + 1)
        self.refresh_from_db(fields=["wrong_tries"])
        if self.wrong_tries >= _MOST_WRONG_TRIES:
            self.revoke()
        return False

    @staticmethod
    def end_in(days: int) -> datetime:
        return timezone.now() + timedelta(days=days)

    @property
    def is_open(self) -> bool:
        return self.ends_at > timezone.now()

    def revoke(self) -> None:
        """End the link now."""
        self.ends_at = timezone.now()
        self.save(update_fields=["ends_at"])
