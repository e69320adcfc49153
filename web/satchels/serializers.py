"""Satchels, documents, runs and copies, as the API shows them."""

from collections.abc import Collection
from datetime import datetime
from typing import Any

from django.utils import timezone
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from lighten import (
    VERDICTS_EXPLAINED,
    ExtraKind,
    PageSize,
    Verdict,
    checklist_from_json,
    checklist_to_json,
    exceptions_from_json,
    exceptions_to_json,
    format_named,
    message_bytes,
    treatment_from_json,
    treatment_to_json,
)
from web.presets.library import find_preset
from web.presets.limit_views import ChecklistSerializer
from web.presets.treatments import (
    PictureTreatmentSerializer,
    PresentChoiceField,
    TreatmentSerializer,
)
from web.satchels.models import Copy, Document, HandOver, ReturnedCopy, Run, Satchel
from web.satchels.sheets.estimates import show_estimates
from web.satchels.sheets.orders import Orders, orders_of

__all__ = [
    "ASKED_SOON_MS",
    "CopySerializer",
    "DocumentSerializer",
    "GatherSerializer",
    "HandOverRequestSerializer",
    "HandOverSerializer",
    "PasswordSerializer",
    "QuotaSerializer",
    "ReplacementSerializer",
    "ReturnedCopySerializer",
    "ReturnedUploadSerializer",
    "RunRequestSerializer",
    "RunRowSerializer",
    "RunSerializer",
    "SatchelRowSerializer",
    "SatchelSerializer",
    "UploadSerializer",
    "show_documents",
]

# What a person may allow for a limit, beside pictures that lose something.
WAYS = ("grey", "bitonal", *ExtraKind)


ASKED_SOON_MS = 800


class ErrorSerializer(serializers.Serializer[Any]):
    code = serializers.CharField()
    message = serializers.CharField()


class CheckSerializer(serializers.Serializer[Any]):
    """A point of the checklist. found: what there is instead, or "" where it is met."""

    text = serializers.CharField()
    is_met = serializers.BooleanField()
    found = serializers.CharField()


class EstimateSerializer(serializers.Serializer[Any]):
    """Estimate of a preset for a document: bytes, their band, and warnings.

    lightest: about what can be reached, where the limit asked for cannot be met; else null.
    is_open: whether it can be met is not known before more pictures have been tried.
    """

    bytes = serializers.IntegerField()
    low = serializers.IntegerField()
    high = serializers.IntegerField()
    lightest = serializers.IntegerField(allow_null=True)
    # Estimates kept from before there was such a thing have none.
    is_open = serializers.BooleanField(default=False)
    warnings = serializers.ListField(child=serializers.CharField())


class PieceSerializer(serializers.Serializer[Any]):
    """Pages of a copy as a file of their own."""

    first = serializers.IntegerField()
    last = serializers.IntegerField()
    bytes = serializers.IntegerField()


class CopySerializer(serializers.ModelSerializer[Copy]):
    """bytes_message: what the copy weighs inside a mail message (RFC 2045).

    is_current: it was made with what is wanted of the document now.
    """

    preset = serializers.CharField(source="run.preset")
    state = serializers.ChoiceField(choices=Copy.State.choices)
    verdict = serializers.ChoiceField(choices=["same", "close", "check", ""])
    verdict_title = serializers.SerializerMethodField()
    reasons = serializers.ListField(child=serializers.CharField())
    error = serializers.SerializerMethodField()
    bytes_message = serializers.SerializerMethodField()
    is_current = serializers.SerializerMethodField()
    pieces = PieceSerializer(many=True, read_only=True)

    class Meta:
        model = Copy
        fields = (
            "id",
            "preset",
            "is_current",
            "is_carried_over",
            "state",
            "progress",
            "doing",
            "seconds_left",
            "bytes_after",
            "bytes_message",
            "verdict",
            "verdict_title",
            "reasons",
            "error",
            "seconds",
            "pieces",
            "limit_bytes",
        )

    def get_verdict_title(self, copy: Copy) -> str:
        return _title_of(copy.verdict)

    @extend_schema_field(ErrorSerializer(allow_null=True))
    def get_error(self, copy: Copy) -> dict[str, str] | None:
        return _error(copy)

    def get_is_current(self, copy: Copy) -> bool:
        orders: Orders = self.context["orders"]
        return copy.key == orders.current.key(copy.document)

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_bytes_message(self, copy: Copy) -> int | None:
        return None if copy.bytes_after is None else message_bytes(copy.bytes_after)


class GatherSerializer(serializers.Serializer[Any]):
    """Pictures of a satchel, in the order of the pages; turns: degrees with the clock, by page.

    finds_sheets: of a photo of a sheet of paper, the sheet is the page.
    """

    documents = serializers.ListField(child=serializers.UUIDField(), min_length=1)
    name = serializers.CharField(max_length=200)
    page = serializers.ChoiceField(choices=[str(size) for size in PageSize], default="own")
    turns = serializers.DictField(
        child=serializers.ChoiceField(choices=[90, 180, 270]), required=False
    )
    finds_sheets = serializers.BooleanField(default=False)

    def validate_name(self, value: str) -> str:
        """Validate the name as one of a file of its kind, never a path."""
        name = value.replace("/", "-").replace("\\", "-")
        return name if name.lower().endswith(".pdf") else f"{name}.pdf"

    def validate_documents(self, value: list[Any]) -> list[Any]:
        if len(set(value)) != len(value):
            raise serializers.ValidationError("A picture is named twice.")
        return value

    def validate_turns(self, value: dict[str, int]) -> dict[str, int]:
        if not all(page.isdecimal() for page in value):
            raise serializers.ValidationError("Pages are told by their numbers.")
        return value


class ExceptionSerializer(serializers.Serializer[Any]):
    """Just one of these."""

    is_exempt = serializers.BooleanField(required=False)
    is_left_out = serializers.BooleanField(required=False)
    treatment = PictureTreatmentSerializer(required=False)
    replacement = serializers.CharField(required=False)


class DocumentSerializer(serializers.ModelSerializer[Document]):
    """copy: of the satchel's last run. format: one of those that choices list.

    estimates: by preset, once weighed; "current" is what is ordered now. trial_progress: the share
    of trials that are made. first_picture: the part to show of a document that is a picture and can
    be gathered, else "". savings: bytes that each switch takes off. exceptions: by part,
    {"is_exempt"}, {"is_left_out"}, {"treatment"} or {"replacement"}.
    """

    state = serializers.ChoiceField(choices=Document.State.choices, read_only=True)
    error = serializers.SerializerMethodField()
    pages = serializers.SerializerMethodField()
    format = serializers.SerializerMethodField()
    first_picture = serializers.SerializerMethodField()
    kind_title = serializers.SerializerMethodField()
    is_signed = serializers.SerializerMethodField()
    standard = serializers.SerializerMethodField()
    remarks = serializers.SerializerMethodField()
    taken_at = serializers.SerializerMethodField()
    estimates = serializers.SerializerMethodField()
    savings = serializers.DictField(child=serializers.IntegerField(), read_only=True)
    exceptions = serializers.DictField(child=ExceptionSerializer(), required=False)
    copy = serializers.SerializerMethodField()
    copy_name = serializers.SerializerMethodField()
    checks = serializers.SerializerMethodField()

    class Meta:
        model = Document
        fields = (
            "id",
            "name",
            "folder",
            "size_bytes",
            "state",
            "progress",
            "doing",
            "seconds_left",
            "error",
            "pages",
            "format",
            "first_picture",
            "kind_title",
            "is_signed",
            "standard",
            "remarks",
            "taken_at",
            "estimates",
            "trial_progress",
            "savings",
            "exceptions",
            "copy",
            "copy_name",
            "checks",
        )
        read_only_fields = (
            "name",
            "folder",
            "size_bytes",
            "progress",
            "doing",
            "seconds_left",
            "trial_progress",
        )

    def validate_exceptions(self, value: Any) -> Any:
        exceptions = self.initial_data["exceptions"]
        part_ids = {part["id"] for part in (self.instance.sheet or {"parts": []})["parts"]}  # type: ignore[union-attr] # one document
        folder = self.instance.replacements_path  # type: ignore[union-attr] # one document
        checked = exceptions_from_json(exceptions, folder)
        if unknown := set(checked) - part_ids:
            raise serializers.ValidationError(f"{min(unknown)} is no part of this document.")
        for part_id, exception in checked.items():
            replacement = exception.replacement
            if replacement is not None and not replacement.is_file():
                raise serializers.ValidationError(f"{part_id}: bring its new picture first.")
        return exceptions_to_json(checked)

    @extend_schema_field(serializers.DictField(child=EstimateSerializer()))
    def get_estimates(self, document: Document) -> Any:
        return show_estimates(document, self._orders(document))

    @extend_schema_field(ErrorSerializer(allow_null=True))
    def get_error(self, document: Document) -> dict[str, str] | None:
        return _error(document)

    def get_pages(self, document: Document) -> int | None:
        return document.facts["pages"] if document.facts else None

    def get_format(self, document: Document) -> str:
        return document.facts["format"] if document.facts else ""

    def get_first_picture(self, document: Document) -> str:
        return document.first_picture

    def get_kind_title(self, document: Document) -> str:
        """Return the name of that kind of file for people."""
        if not document.facts:
            return ""
        offers = format_named(document.facts["format"]).offers
        return offers.kind_of(document.facts["media_type"]).title

    def get_is_signed(self, document: Document) -> bool:
        return bool(document.facts and document.facts["is_signed"])

    def get_standard(self, document: Document) -> str:
        return document.facts["standard"] if document.facts else ""

    def get_taken_at(self, document: Document) -> str:
        return document.facts.get("taken_at", "") if document.facts else ""

    def get_remarks(self, document: Document) -> list[str]:
        return document.facts["remarks"] if document.facts else []

    @extend_schema_field(CopySerializer(allow_null=True))
    def get_copy(self, document: Document) -> Any:
        copies: dict[Any, Copy] = self.context["copies"]
        copy = copies.get(document.pk)
        if copy is None:
            return None
        copy.document = document
        return CopySerializer(copy, context={"orders": self._orders(document)}).data

    def _orders(self, document: Document) -> Orders:
        """Given where many documents are shown, else worked out."""
        return self.context.get("orders") or orders_of(document.satchel)

    def get_copy_name(self, document: Document) -> str:
        copies: dict[Any, Copy] = self.context["copies"]
        return document.satchel.copy_name(document, copies.get(document.pk))

    @extend_schema_field(CheckSerializer(many=True))
    def get_checks(self, document: Document) -> Any:
        copies: dict[Any, Copy] = self.context["copies"]
        if not document.facts:
            return []
        checks = document.satchel.checks(document, copies.get(document.pk))
        return CheckSerializer(checks, many=True).data


class RunSerializer(serializers.ModelSerializer[Run]):
    """The last run over a satchel, in short."""

    is_busy = serializers.BooleanField(read_only=True)
    seconds_left = serializers.FloatField(read_only=True, allow_null=True)

    class Meta:
        model = Run
        fields = ("id", "preset", "title", "round", "created_at", "is_busy", "seconds_left")


class RunRowSerializer(serializers.ModelSerializer[Run]):
    """A run in the history of a satchel."""

    documents = serializers.IntegerField()
    bytes_before = serializers.IntegerField()
    bytes_after = serializers.IntegerField(allow_null=True)

    class Meta:
        model = Run
        fields = ("id", "title", "round", "created_at", "documents", "bytes_before", "bytes_after")


class QuotaSerializer(serializers.Serializer[Any]):
    """Quota of an account for originals and copies together."""

    bytes_taken = serializers.IntegerField()
    bytes_allowed = serializers.IntegerField()
    documents_taken = serializers.IntegerField()
    documents_allowed = serializers.IntegerField()


class ReplacementSerializer(serializers.Serializer[Any]):
    part = serializers.CharField(max_length=60)
    file = serializers.FileField(max_length=255)


def _title_of(verdict: str) -> str:
    """Return the word for a verdict on screens; "" for none."""
    return VERDICTS_EXPLAINED[Verdict(verdict)].title if verdict else ""


class ReturnedUploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(max_length=255)


class ReturnedCopySerializer(serializers.ModelSerializer[ReturnedCopy]):
    """A copy that came back, with the verdict once it has been proved."""

    state = serializers.ChoiceField(choices=ReturnedCopy.State.choices)
    verdict = serializers.ChoiceField(choices=["same", "close", "check", ""])
    verdict_title = serializers.SerializerMethodField()
    reasons = serializers.ListField(child=serializers.CharField())
    remarks = serializers.ListField(child=serializers.CharField())

    class Meta:
        model = ReturnedCopy
        fields = (
            "id",
            "name",
            "size_bytes",
            "state",
            "progress",
            "doing",
            "seconds_left",
            "verdict",
            "verdict_title",
            "reasons",
            "remarks",
            "error_message",
            "created_at",
        )
        read_only_fields = fields

    def get_verdict_title(self, returned: ReturnedCopy) -> str:
        return _title_of(returned.verdict)


class SatchelRowSerializer(serializers.ModelSerializer[Satchel]):
    """A satchel on the shelf: how many documents, how heavy before and after.

    limit_file_bytes: the heaviest file that its limit lets through, all of them together where it
    is shared. copies_same, copies_close, copies_check: of the last run, by their verdicts.
    """

    limit_file_bytes = serializers.SerializerMethodField()
    copies_same = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    copies_close = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    copies_check = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    last_run_id = serializers.UUIDField(read_only=True, allow_null=True, default=None)
    document_count = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    bytes_before = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    bytes_after = serializers.IntegerField(read_only=True, allow_null=True, default=None)
    last_run_at = serializers.DateTimeField(read_only=True, allow_null=True, default=None)

    class Meta:
        model = Satchel
        fields = (
            "id",
            "name",
            "limit_bytes",
            "limit_carrier",
            "limit_file_bytes",
            "is_limit_shared",
            "preset",
            "document_count",
            "bytes_before",
            "bytes_after",
            "last_run_id",
            "last_run_at",
            "copies_same",
            "copies_close",
            "copies_check",
            "changed_at",
        )
        read_only_fields = (
            "limit_bytes",
            "limit_carrier",
            "is_limit_shared",
            "preset",
            "changed_at",
        )

    def get_limit_file_bytes(self, satchel: Satchel) -> int | None:
        return None if satchel.limit is None else satchel.limit.file_bytes


class SatchelSerializer(serializers.ModelSerializer[Satchel]):
    """A satchel on the bench.

    as_of: from when to ask for what has changed since; ask_again_ms: after how long, while
    something goes on. choices_mark: see `Satchel`.
    limit_file_bytes: the heaviest file that its limit lets through. is_fitted: as gently as the
    limit allows, instead of by the preset. treatment: what its preset
    was tuned to, or null. wanted: the treatment in force, tuned or the preset's own.
    """

    preset = serializers.CharField(required=False)
    treatment = TreatmentSerializer(allow_null=True, required=False)
    wanted = serializers.SerializerMethodField()
    checklist = ChecklistSerializer(allow_null=True, required=False)
    fit_floor = serializers.FloatField(min_value=0, max_value=90, required=False)
    fit_ways = serializers.ListField(child=PresentChoiceField(WAYS), required=False)
    limit_bytes = serializers.IntegerField(
        min_value=1000, max_value=10**12, allow_null=True, required=False
    )
    # A blank at the seam of the name is meant.
    prefix = serializers.CharField(
        max_length=40, allow_blank=True, trim_whitespace=False, required=False
    )
    suffix = serializers.CharField(
        max_length=40, allow_blank=True, trim_whitespace=False, required=False
    )
    limit_file_bytes = serializers.SerializerMethodField()
    as_of = serializers.SerializerMethodField()
    ask_again_ms = serializers.SerializerMethodField()
    choices_mark = serializers.CharField(read_only=True)
    documents = serializers.SerializerMethodField()
    run = serializers.SerializerMethodField()

    class Meta:
        model = Satchel
        fields = (
            "id",
            "name",
            "limit_bytes",
            "limit_carrier",
            "limit_file_bytes",
            "is_limit_shared",
            "checklist",
            "is_fitted",
            "fit_floor",
            "fit_ways",
            "may_split",
            "may_blur_text",
            "preset",
            "treatment",
            "wanted",
            "prefix",
            "counts_rounds",
            "suffix",
            "as_of",
            "ask_again_ms",
            "choices_mark",
            "documents",
            "run",
        )

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        now = self.instance
        if attrs.get("is_fitted") and not attrs.get("limit_bytes", now and now.limit_bytes):
            raise serializers.ValidationError(
                {"is_fitted": "Choose a limit first: without one there is nothing to fit."}
            )
        if "limit_bytes" in attrs and attrs["limit_bytes"] is None:
            attrs["is_fitted"] = False
        for field in ("prefix", "suffix"):
            if any(sign in attrs.get(field, "") for sign in '/\\:*?"<>|\0'):
                raise serializers.ValidationError(
                    {field: 'A file name cannot have any of / \\ : * ? " < > | in it.'}
                )
        return attrs

    def update(self, instance: Satchel, validated_data: dict[str, Any]) -> Satchel:
        """Update only the given fields: another choice may be on its way at the same time."""
        for name, value in validated_data.items():
            setattr(instance, name, value)
        instance.save(update_fields=[*validated_data, "changed_at"])
        instance.refresh_from_db()
        return instance

    def validate_preset(self, value: str) -> str:
        return find_preset(self.context["request"].user, value).name

    def validate_treatment(self, value: Any) -> Any:
        if value is None:
            return None
        return treatment_to_json(treatment_from_json(self.initial_data["treatment"]))

    def validate_checklist(self, value: Any) -> Any:
        if value is None:
            return None
        return checklist_to_json(checklist_from_json(self.initial_data["checklist"]))

    @extend_schema_field(TreatmentSerializer)
    def get_wanted(self, _satchel: Satchel) -> Any:
        return treatment_to_json(self._orders.current.preset.treatment)

    def get_limit_file_bytes(self, satchel: Satchel) -> int | None:
        return satchel.limit.file_bytes if satchel.limit else None

    def get_as_of(self, _satchel: Satchel) -> datetime:
        """Before anything else here is read."""
        return self._as_of

    def get_ask_again_ms(self, _satchel: Satchel) -> int:
        return ASKED_SOON_MS

    @extend_schema_field(DocumentSerializer(many=True))
    def get_documents(self, satchel: Satchel) -> Any:
        return show_documents(satchel, self._orders)

    @extend_schema_field(RunSerializer(allow_null=True))
    def get_run(self, satchel: Satchel) -> Any:
        run = satchel.runs.first()
        return RunSerializer(run).data if run else None

    def to_representation(self, instance: Satchel) -> Any:
        # Both once, for all that is said of it.
        self._as_of = timezone.now()
        self._orders = orders_of(instance)
        return super().to_representation(instance)


def show_documents(satchel: Satchel, orders: Orders, only: Collection[Any] | None = None) -> Any:
    """Return the documents of a satchel, each with its copy of the last run.

    only: the ids of those to show; None for all.
    """
    documents, copies = satchel.documents.all(), Copy.objects.filter(run__satchel=satchel)
    if only is not None:
        documents, copies = documents.filter(pk__in=only), copies.filter(document__in=only)
    ordered = copies.select_related("run").defer("parts", "proof").order_by("run__created_at")
    context = {
        "copies": {copy.document_id: copy for copy in ordered},
        "orders": orders,
    }
    rows = documents.defer("sheet", "trials")  # which know their satchel
    return DocumentSerializer(rows, many=True, context=context).data


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True, max_length=255)
    folder = serializers.CharField(max_length=500, required=False, allow_blank=True, default="")


class PasswordSerializer(serializers.Serializer[Any]):
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class RunRequestSerializer(serializers.Serializer[Any]):
    """documents: those to make copies of; all that are weighed where none are named."""

    may_end_signature = serializers.BooleanField(default=False)
    documents = serializers.ListField(child=serializers.UUIDField(), default=list)


class HandOverRequestSerializer(serializers.Serializer[Any]):
    """password: asked of whoever follows the link; "" for nobody."""

    password = serializers.CharField(
        max_length=100, allow_blank=True, default="", trim_whitespace=False
    )


class HandOverSerializer(serializers.ModelSerializer[HandOver]):
    """A link to one copy. address: to be put behind this installation's own."""

    address = serializers.SerializerMethodField()
    is_open = serializers.BooleanField(read_only=True)
    has_password = serializers.SerializerMethodField()

    class Meta:
        model = HandOver
        fields = (
            *("id", "address", "created_at", "ends_at", "is_open", "downloads", "has_password"),
        )
        read_only_fields = ("ends_at", "downloads")

    def get_has_password(self, link: HandOver) -> bool:
        return bool(link.password)

    def get_address(self, link: HandOver) -> str:
        return f"/hand-over/{link.token}"


def _error(row: Document | Copy) -> dict[str, str] | None:
    if not row.error_code:
        return None
    return {"code": row.error_code, "message": row.error_message}
