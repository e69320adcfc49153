"""Satchels, documents and runs over HTTP; each account sees its own only."""

import re
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Case, Count, F, OuterRef, QuerySet, Subquery, Sum, When
from django.db.models.functions import Coalesce
from django.http import FileResponse, HttpResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from lighten import Verdict, thumbnail_name
from web.jobs.job_kinds import DrawJob
from web.jobs.runner import JobFailedError, run_job
from web.presets.library import usual_preset
from web.problems import Problem
from web.satchels.changes import ChangesSerializer, SinceSerializer, changes_of
from web.satchels.copies.copies_zip import zip_copies
from web.satchels.copies.replacements import take_replacement
from web.satchels.copies.runs import make_run
from web.satchels.copies.slips import SlipSerializer, slip_as_csv, slip_of
from web.satchels.http import BINARY, account_of, attachment
from web.satchels.models import Copy, Document, ReturnedCopy, Run, Satchel
from web.satchels.serializers import (
    DocumentSerializer,
    GatherSerializer,
    PasswordSerializer,
    QuotaSerializer,
    ReplacementSerializer,
    ReturnedCopySerializer,
    ReturnedUploadSerializer,
    RunRequestSerializer,
    RunRowSerializer,
    RunSerializer,
    SatchelRowSerializer,
    SatchelSerializer,
    UploadSerializer,
)
from web.satchels.sheets.orders import orders_of
from web.satchels.sheets.sheet_serializers import FitSerializer, SheetSerializer
from web.satchels.sheets.sheets import show_fit, show_sheet
from web.satchels.sheets.strip_views import StripActions
from web.satchels.tasks import hasten_trials, prove_returned, start_trials, start_weighing
from web.satchels.upkeep.quota import check_quota, taken_by

__all__ = ["DocumentViewSet", "ReturnedCopyViewSet", "RunViewSet", "SatchelViewSet"]

# What has trials made for it.
_CHOICES = {"preset", "treatment", "is_fitted"}


class SatchelViewSet(viewsets.ModelViewSet[Satchel]):
    """The shelf, and each satchel on the bench."""

    serializer_class = SatchelSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_queryset(self) -> QuerySet[Satchel]:
        if getattr(self, "swagger_fake_view", False):
            return Satchel.objects.none()
        # Through the account, which they then know without asking for it again.
        return account_of(self.request).satchels.all()

    @extend_schema(responses=SatchelRowSerializer(many=True))
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """List all satchels of the account, the last changed first."""
        documents = Document.objects.filter(satchel=OuterRef("pk")).order_by().values("satchel")
        of_document = Copy.objects.filter(document=OuterRef("pk")).order_by("-run__created_at")
        latest_bytes = of_document.values("bytes_after")[:1]
        of_last_run = Copy.objects.filter(run=OuterRef("last_run_id")).order_by().values("run")
        last_run = Run.objects.filter(satchel=OuterRef("pk")).order_by("-created_at")
        rows = (
            self.get_queryset()
            .annotate(
                document_count=Subquery(documents.annotate(n=Count("pk")).values("n")),
                bytes_before=Subquery(documents.annotate(n=Sum("size_bytes")).values("n")),
                last_run_id=Subquery(last_run.values("pk")[:1]),
                last_run_at=Subquery(last_run.values("created_at")[:1]),
            )
            .annotate(
                # Documents that have no lighter copy are sent as they are.
                bytes_after=Case(
                    When(
                        last_run_id__isnull=False,
                        then=Subquery(
                            documents.annotate(
                                n=Sum(Coalesce(Subquery(latest_bytes), F("size_bytes")))
                            ).values("n")
                        ),
                    )
                ),
                **{
                    f"copies_{verdict}": Subquery(
                        of_last_run.filter(verdict=verdict).annotate(n=Count("pk")).values("n")
                    )
                    for verdict in Verdict
                },
            )
        )
        return Response(SatchelRowSerializer(rows, many=True).data)

    @extend_schema(request=None, responses=SatchelRowSerializer)
    @action(detail=False, methods=["post"])
    def sample(self, request: Request) -> Response:
        """A satchel to try things on, with a document that comes with the application."""
        owner = account_of(request)
        with transaction.atomic():
            satchel = Satchel.to_try_on(owner, usual_preset(owner))
            (document,) = satchel.documents.all()
            transaction.on_commit(lambda: start_weighing(document))
        return Response(SatchelRowSerializer(satchel).data, status=status.HTTP_201_CREATED)

    def perform_create(self, serializer: Any) -> None:
        owner = account_of(self.request)
        # Whoever makes a satchel has its bench open next.
        serializer.save(owner=owner, preset=usual_preset(owner), seen_at=timezone.now())

    def perform_update(self, serializer: Any) -> None:
        """Update the satchel; another preset ends its fine tuning, unless both are given."""
        changes = serializer.validated_data
        is_other = changes.get("preset", serializer.instance.preset) != serializer.instance.preset
        if is_other and "treatment" not in changes:
            serializer.save(treatment=None)
        else:
            serializer.save()
        if changes.keys() & _CHOICES:
            transaction.on_commit(lambda: start_trials(serializer.instance))

    def retrieve(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        self._mark_seen(self.get_object())
        return super().retrieve(request, *args, **kwargs)

    def perform_destroy(self, instance: Satchel) -> None:
        instance.remove()

    @extend_schema(request={"multipart/form-data": UploadSerializer}, responses=DocumentSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def documents(self, request: Request, pk: str | None = None) -> Response:
        """Take one more document in; it is weighed in the background."""
        satchel = self.get_object()
        self._check_room(satchel)
        upload = UploadSerializer(data=request.data)
        upload.is_valid(raise_exception=True)
        file = upload.validated_data["file"]
        check_quota(satchel.owner, file.size)
        document = Document(
            satchel=satchel,
            name=file.name,
            folder=upload.validated_data["folder"].strip("/"),
            size_bytes=file.size,
        )
        document.file.save("original", file, save=False)
        with transaction.atomic():
            document.save()
            satchel.save(update_fields=["changed_at"])
            transaction.on_commit(lambda: start_weighing(document))
        shown = DocumentSerializer(document, context={"copies": {}})
        return Response(shown.data, status=status.HTTP_201_CREATED)

    @extend_schema(parameters=[SinceSerializer], responses=ChangesSerializer)
    @action(detail=True)
    def changes(self, request: Request, pk: str | None = None) -> Response:
        """Return the changes since the bench was shown, small enough to poll."""
        satchel = self.get_object()
        self._mark_seen(satchel)
        since = SinceSerializer(data=request.query_params)
        since.is_valid(raise_exception=True)
        return Response(changes_of(satchel, since.validated_data["since"]))

    @extend_schema(request=GatherSerializer, responses=DocumentSerializer)
    @action(detail=True, methods=["post"])
    def gather(self, request: Request, pk: str | None = None) -> Response:
        """Put pictures of the satchel on the pages of one more document; they stay as they are."""
        satchel = self.get_object()
        self._check_room(satchel)
        serializer = GatherSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        asked = serializer.validated_data
        named = {one.pk: one for one in satchel.documents.filter(pk__in=asked["documents"])}
        pictures = [named[pk] for pk in asked["documents"] if pk in named]
        are_pictures = all(picture.first_picture for picture in pictures)
        if len(pictures) < len(asked["documents"]) or not are_pictures:
            raise Problem("no_pictures", "Only pictures of this satchel can be gathered.")
        turns = asked.get("turns", {})
        pages = sum((picture.facts or {}).get("pages") or 1 for picture in pictures)
        if any(not 1 <= int(page) <= pages for page in turns):
            raise Problem("no_such_page", "A page is to be turned that is not there.")
        with transaction.atomic():
            gathering = {
                "page": asked["page"],
                "turns": turns,
                "finds_sheets": asked["finds_sheets"],
            }
            document = Document.gathered(satchel, pictures, asked["name"], gathering)
            satchel.save(update_fields=["changed_at"])
            transaction.on_commit(lambda: start_weighing(document))
        shown = DocumentSerializer(document, context={"copies": {}})
        return Response(shown.data, status=status.HTTP_201_CREATED)

    @extend_schema(request=None, responses=SatchelRowSerializer)
    @action(detail=True, methods=["post"])
    def duplicate(self, request: Request, pk: str | None = None) -> Response:
        """Another satchel with the same documents and choices."""
        satchel = self.get_object()
        if satchel.documents.filter(state__in=("waiting", "weighing")).exists():
            raise Problem("busy", "Documents are being weighed. Copy the satchel when they are.")
        twin = satchel.duplicate()
        return Response(SatchelRowSerializer(twin).data, status=status.HTTP_201_CREATED)

    @extend_schema(responses=RunRowSerializer(many=True))
    @action(detail=True)
    def history(self, request: Request, pk: str | None = None) -> Response:
        """List all runs, the last first."""
        runs = self.get_object().runs.annotate(
            documents=Count("copies"),
            bytes_before=Sum("copies__document__size_bytes"),
            bytes_after=Sum("copies__bytes_after"),
        )
        return Response(RunRowSerializer(runs, many=True).data)

    @extend_schema(request=RunRequestSerializer, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def runs(self, request: Request, pk: str | None = None) -> Response:
        """Make lighter copies of every weighed document."""
        satchel = self.get_object()
        serializer = RunRequestSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        named = serializer.validated_data.pop("documents")
        weighed = satchel.documents.filter(state=Document.State.WEIGHED)
        if named:
            weighed = weighed.filter(pk__in=named)
        if not weighed.exists():
            raise Problem(
                "nothing_weighed", "No document here has been weighed yet. Add one first."
            )
        if Copy.objects.filter(run__satchel=satchel, state__in=Copy.State.unfinished()).exists():
            raise Problem("busy", "Copies are being made already. Wait for them or cancel them.")
        with transaction.atomic():
            run = make_run(satchel, list(weighed), **serializer.validated_data)
            satchel.save(update_fields=["changed_at"])
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)

    @extend_schema(responses=QuotaSerializer)
    @action(detail=False)
    def quota(self, request: Request) -> Response:
        """Return the used and the permitted bytes of the account."""
        taken = taken_by(account_of(request))
        figures = {
            "bytes_taken": taken.bytes,
            "bytes_allowed": settings.ACCOUNT_LIMIT_BYTES,
            "documents_taken": taken.documents,
            "documents_allowed": settings.ACCOUNT_DOCUMENTS_LIMIT,
        }
        return Response(QuotaSerializer(figures).data)

    def _mark_seen(self, satchel: Satchel) -> None:
        if satchel.mark_seen():
            transaction.on_commit(lambda: hasten_trials(satchel))

    def _check_room(self, satchel: Satchel) -> None:
        if satchel.documents.count() >= settings.DOCUMENTS_LIMIT:
            raise Problem(
                "too_many",
                f"A satchel holds at most {settings.DOCUMENTS_LIMIT} documents. Start another.",
            )


class ReturnedCopyViewSet(mixins.DestroyModelMixin, viewsets.GenericViewSet[ReturnedCopy]):
    """A copy that came back; it can be thrown away."""

    serializer_class = ReturnedCopySerializer

    def get_queryset(self) -> QuerySet[ReturnedCopy]:
        if getattr(self, "swagger_fake_view", False):
            return ReturnedCopy.objects.none()
        return ReturnedCopy.objects.filter(document__satchel__owner=account_of(self.request))

    def perform_destroy(self, instance: ReturnedCopy) -> None:
        instance.file.delete(save=False)
        instance.delete()


class DocumentViewSet(
    StripActions,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Document],
):
    """One document of the account; its exceptions can be changed."""

    serializer_class = DocumentSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_serializer_context(self) -> dict[str, Any]:
        return {**super().get_serializer_context(), "copies": {}}

    def get_queryset(self) -> QuerySet[Document]:
        if getattr(self, "swagger_fake_view", False):
            return Document.objects.none()
        return Document.objects.filter(satchel__owner=account_of(self.request))

    def perform_destroy(self, instance: Document) -> None:
        instance.remove()

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"])
    def weigh(self, request: Request, pk: str | None = None) -> Response:
        """Have one that failed weighed again."""
        document = self.get_object()
        with transaction.atomic():
            failed = Document.objects.filter(pk=document.pk, state=Document.State.FAILED)
            if not failed.update(state=Document.State.WAITING):
                raise Problem("not_failed", "Only what could not be weighed is weighed again.")
            transaction.on_commit(lambda: start_weighing(document))
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(request=PasswordSerializer, responses={204: None})
    @action(detail=True, methods=["post"])
    def password(self, request: Request, pk: str | None = None) -> Response:
        """Give the password of a locked file, and have it weighed again."""
        document = self.get_object()
        given = PasswordSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        document.password = given.validated_data["password"]
        document.state = Document.State.WAITING
        with transaction.atomic():
            document.save(update_fields=["password", "state"])
            transaction.on_commit(lambda: start_weighing(document))
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(
        request={"multipart/form-data": ReplacementSerializer}, responses=DocumentSerializer
    )
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def replacements(self, request: Request, pk: str | None = None) -> Response:
        """Bring a picture to be shown instead of one in the document; its shape is checked."""
        document = self.get_object()
        brought = ReplacementSerializer(data=request.data)
        brought.is_valid(raise_exception=True)
        brought_file = brought.validated_data
        take_replacement(document, brought_file["part"], brought_file["file"])
        return Response(self.get_serializer(document).data, status=status.HTTP_201_CREATED)

    @extend_schema(methods=["GET"], responses=ReturnedCopySerializer(many=True))
    @extend_schema(
        methods=["POST"],
        request={"multipart/form-data": ReturnedUploadSerializer},
        responses={201: ReturnedCopySerializer},
    )
    @action(detail=True, methods=["get", "post"], parser_classes=[MultiPartParser])
    def returned(self, request: Request, pk: str | None = None) -> Response:
        """Copies that came back, the latest first; bring one to have it proved."""
        document = self.get_object()
        if request.method == "GET":
            return Response(ReturnedCopySerializer(document.returned.all(), many=True).data)
        upload = ReturnedUploadSerializer(data=request.data)
        upload.is_valid(raise_exception=True)
        file = upload.validated_data["file"]
        returned = ReturnedCopy(document=document, name=file.name, size_bytes=file.size)
        returned.file.save("returned", file, save=False)
        with transaction.atomic():
            returned.save()
            transaction.on_commit(lambda: prove_returned.enqueue(str(returned.pk)))
        shown = ReturnedCopySerializer(returned)
        return Response(shown.data, status=status.HTTP_201_CREATED)

    @extend_schema(responses=FitSerializer)
    @action(detail=True)
    def fit(self, request: Request, pk: str | None = None) -> Response:
        """Return the choices of the gentlest copy within the limit for each picture, as far as
        known.
        """
        document = self.get_object()
        choice = orders_of(document.satchel).current.fit
        if document.state != Document.State.WEIGHED or choice is None:
            raise Problem("not_fitted", f"{document.name}: there is no limit to fit it to yet.")
        return Response(FitSerializer(show_fit(document, choice)).data)

    @extend_schema(responses=SheetSerializer)
    @action(detail=True)
    def sheet(self, request: Request, pk: str | None = None) -> Response:
        """The weight sheet: each part now and then, and why."""
        document = self.get_object()
        if document.sheet is None:
            raise Problem("not_weighed", f"{document.name}: has not been weighed yet.")
        # Told in the serializer's own form: going through thousands of parts once more takes longer
        # than all the rest.
        return Response(show_sheet(document))

    @extend_schema(
        parameters=[OpenApiParameter("part", str, required=True)],
        responses={(200, "image/png"): OpenApiTypes.BINARY},
    )
    @action(detail=True)
    def thumbnail(self, request: Request, pk: str | None = None) -> HttpResponse | FileResponse:
        """A small copy of a picture, as PNG."""
        document = self.get_object()
        part = request.query_params.get("part", "")
        if not document.has_picture(part):
            raise Problem("not_found", "There is no such picture.", status=404)
        path = document.folder_path / "thumbnails" / thumbnail_name(part)
        if not path.exists():
            try:
                run_job(document, DrawJob(sheet=document.sheet or {}, part=part))
            except JobFailedError as error:
                raise Problem("not_drawn", error.message, status=404) from error
        if not path.exists():
            raise Problem("not_drawn", "This picture cannot be drawn here.", status=404)
        response = FileResponse(path.open("rb"), content_type="image/png")
        response["Cache-Control"] = "private, max-age=86400"
        return response

    @extend_schema(responses=BINARY)
    @action(detail=True)
    def original(self, request: Request, pk: str | None = None) -> FileResponse:
        """The original, byte for byte."""
        document = self.get_object()
        return attachment(document.file.open("rb"), document.name)


class RunViewSet(viewsets.GenericViewSet[Run]):
    """One making of copies."""

    serializer_class = RunSerializer

    def get_queryset(self) -> QuerySet[Run]:
        if getattr(self, "swagger_fake_view", False):
            return Run.objects.none()
        return Run.objects.filter(satchel__owner=account_of(self.request))

    @extend_schema(request=None, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str | None = None) -> Response:
        """Stop the run; copies that are done stay."""
        run = self.get_object()
        run.cancel()
        return Response(RunSerializer(run).data)

    @extend_schema(responses=SlipSerializer)
    @action(detail=True)
    def slip(self, request: Request, pk: str | None = None) -> Response:
        """Return the results for each document, with what cannot be undone."""
        return Response(SlipSerializer(slip_of(self.get_object())).data)

    @extend_schema(responses={(200, "text/csv"): str})
    @action(detail=True, url_path="slip.csv")
    def slip_csv(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The slip as a table."""
        answer = HttpResponse(slip_as_csv(slip_of(self.get_object())), content_type="text/csv")
        answer["Content-Disposition"] = 'attachment; filename="slip.csv"'
        return answer

    @extend_schema(responses=BINARY)
    @action(detail=True)
    def bundle(self, request: Request, pk: str | None = None) -> FileResponse:
        """Download all copies of the run as one ZIP, with their folders."""
        run = self.get_object()
        name = re.sub(r'[/\\:*?"<>|\0]', " ", run.satchel.name).strip() or "copies"
        return attachment(zip_copies(run), f"{name}.zip")
