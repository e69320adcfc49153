"""Paper over HTTP: scanners that were set up, intakes and pages; each account sees its own."""

from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action, api_view
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from scanners import ScanLimits, Scanner, ScannerError
from web.intake.models import Intake, Page, Scan
from web.intake.serializers import (
    IntakeRowSerializer,
    IntakeSerializer,
    KeepSerializer,
    KeptSerializer,
    OrderSerializer,
    PageChangeSerializer,
    PageSerializer,
    PictureSerializer,
    ScannerSerializer,
    ScanRequestSerializer,
)
from web.intake.tasks import look_at_page, run_scan
from web.problems import Problem
from web.satchels.http import account_of
from web.satchels.tasks import start_weighing

__all__ = ["IntakeViewSet", "PageViewSet", "list_scanners"]

# Nobody waits longer for a list.
_LISTING = ScanLimits(connect_s=2.0, patience_s=4.0)
_SIDES = {"as-it-came": "as-it-came.png", "in-layers": "in-layers.png"}


@extend_schema(responses=ScannerSerializer(many=True))
@api_view(["GET"])
def list_scanners(request: Request) -> Response:
    """List the scanners of this installation with their abilities."""
    scanners = [_scanner_entry(name, address) for name, address in settings.SCANNERS.items()]
    return Response(ScannerSerializer(scanners, many=True).data)


def _scanner_entry(name: str, address: str) -> dict[str, Any]:
    try:
        with Scanner(address, limits=_LISTING) as scanner:
            capabilities, state = scanner.capabilities(), scanner.state()
    except ScannerError as error:
        return {
            "name": name,
            "model": "",
            "state": "unreachable",
            "message": error.message,
            "sources": [],
        }
    return {
        "name": name,
        "model": capabilities.name,
        "state": state.lower(),
        "message": "",
        "sources": [
            {
                "name": source,
                "ppi": abilities.ppi,
                "colours": abilities.colours,
                "has_duplex": abilities.has_duplex,
            }
            for source, abilities in capabilities.sources.items()
        ],
    }


class IntakeViewSet(
    mixins.CreateModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Intake],
):
    """Pages on hand that are to become a document."""

    serializer_class = IntakeSerializer
    http_method_names = ("get", "post", "patch", "delete")

    def get_queryset(self) -> QuerySet[Intake]:
        if getattr(self, "swagger_fake_view", False):
            return Intake.objects.none()
        return Intake.objects.filter(owner=account_of(self.request))

    @extend_schema(responses=IntakeRowSerializer(many=True))
    def list(self, request: Request) -> Response:
        """List all scans of the account, the last first."""
        rows = self.get_queryset().annotate(page_count=Count("pages", Q(pages__is_out=False)))
        return Response(IntakeRowSerializer(rows, many=True).data)

    def perform_create(self, serializer: Any) -> None:
        serializer.save(owner=account_of(self.request))

    def perform_destroy(self, instance: Intake) -> None:
        for scan in instance.scans.all():
            scan.stop()
        instance.remove()

    @extend_schema(request=ScanRequestSerializer, responses=IntakeSerializer)
    @action(detail=True, methods=["post"])
    def scans(self, request: Request, pk: str | None = None) -> Response:
        """Have pages scanned; they arrive one after the other."""
        intake = self.get_object()
        serializer = ScanRequestSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        asked = dict(serializer.validated_data)
        name, again = asked.pop("scanner"), asked.pop("again")
        are_backs = asked.pop("are_backs")
        if name not in settings.SCANNERS:
            raise Problem("no_such_scanner", "There is no such scanner here. Choose another.")
        if intake.scans.filter(state__in=Scan.State.unfinished()).exists():
            raise Problem("busy", "Pages are coming already. Wait for them, or stop the scanner.")
        self._check_room(intake)
        replaces = None
        if again is not None:
            replaces = intake.pages.filter(pk=again).first()
            if replaces is None:
                raise Problem("no_such_page", "The page to scan again is gone.")
        with transaction.atomic():
            scan = Scan.objects.create(
                intake=intake,
                scanner=name,
                wanted=asked,
                are_backs=are_backs,
                replaces=replaces,
            )
            transaction.on_commit(lambda: run_scan.enqueue(str(scan.pk)))
        return Response(IntakeSerializer(intake).data, status=status.HTTP_201_CREATED)

    @extend_schema(request=None, responses=IntakeSerializer)
    @action(detail=True, methods=["post"])
    def stop(self, request: Request, pk: str | None = None) -> Response:
        """Stop the scanner; scanned pages stay."""
        intake = self.get_object()
        for scan in intake.scans.filter(state__in=Scan.State.unfinished()):
            scan.stop()
        return Response(IntakeSerializer(intake).data)

    @extend_schema(request={"multipart/form-data": PictureSerializer}, responses=PageSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def pages(self, request: Request, pk: str | None = None) -> Response:
        """A picture that becomes one more page."""
        intake = self.get_object()
        self._check_room(intake)
        upload = PictureSerializer(data=request.data)
        upload.is_valid(raise_exception=True)
        file = upload.validated_data["file"]
        page = intake.take(file, file.name)
        transaction.on_commit(lambda: look_at_page.enqueue(str(page.pk)))
        return Response(PageSerializer(page).data, status=status.HTTP_201_CREATED)

    @extend_schema(request=OrderSerializer, responses=IntakeSerializer)
    @action(detail=True, methods=["post"])
    def order(self, request: Request, pk: str | None = None) -> Response:
        """Put the pages in another order."""
        intake = self.get_object()
        serializer = OrderSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        intake.put_in_order(serializer.validated_data["pages"])
        return Response(IntakeSerializer(self.get_object()).data)

    @extend_schema(request=KeepSerializer, responses=KeptSerializer)
    @action(detail=True, methods=["post"])
    def keep(self, request: Request, pk: str | None = None) -> Response:
        """A satchel with one document of the pages on hand."""
        intake = self.get_object()
        serializer = KeepSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        asked = serializer.validated_data
        pages = intake.on_hand()
        if not pages.exists():
            raise Problem(
                "no_pages", "There is no page on hand. Scan one first, or drop a picture."
            )
        if unreadable := pages.exclude(error_message="").first():
            raise Problem("unreadable", f"{unreadable.error_message} Take it out to go on.")
        with transaction.atomic():
            document = intake.keep(asked["name"], in_layers=asked["in_layers"])
            transaction.on_commit(lambda: start_weighing(document))
        kept = KeptSerializer({"satchel": document.satchel_id}).data
        return Response(kept, status=status.HTTP_201_CREATED)

    @staticmethod
    def _check_room(intake: Intake) -> None:
        if intake.pages.count() >= settings.INTAKE_PAGES_LIMIT:
            most = settings.INTAKE_PAGES_LIMIT
            raise Problem(
                "too_many", f"An intake holds {most} pages. Put these into a satchel first."
            )


class PageViewSet(viewsets.GenericViewSet[Page]):
    """One page."""

    serializer_class = PageSerializer
    http_method_names = ("get", "patch")

    def get_queryset(self) -> QuerySet[Page]:
        if getattr(self, "swagger_fake_view", False):
            return Page.objects.none()
        return Page.objects.filter(intake__owner=account_of(self.request))

    @extend_schema(request=PageChangeSerializer, responses=PageSerializer)
    def partial_update(self, request: Request, pk: str | None = None) -> Response:
        """Turn it, take it out, put it back, take the sheet in a photo for the page."""
        page = self.get_object()
        serializer = PageChangeSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        changes = dict(serializer.validated_data)
        if "corners" in changes:
            # Another page: it is looked at anew.
            changes |= {"look": None, "layers": None, "error_message": ""}
        for name, value in changes.items():
            setattr(page, name, value)
        page.save(update_fields=list(changes))
        if "corners" in changes:
            transaction.on_commit(lambda: look_at_page.enqueue(str(page.pk)))
        return Response(PageSerializer(page).data)

    @extend_schema(responses={(200, "image/png"): OpenApiTypes.BINARY})
    @action(detail=True)
    def small(self, request: Request, pk: str | None = None) -> FileResponse:
        """Return a small picture of the page."""
        return self._png("small.png")

    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY})
    @action(detail=True)
    def whole(self, request: Request, pk: str | None = None) -> FileResponse:
        """Serve the whole picture of a page, for setting corners."""
        return self._picture("whole.jpg", "image/jpeg")

    @extend_schema(
        parameters=[OpenApiParameter("side", str, enum=list(_SIDES), required=True)],
        responses={(200, "image/png"): OpenApiTypes.BINARY},
    )
    @action(detail=True)
    def worst(self, request: Request, pk: str | None = None) -> FileResponse:
        """Serve the region where layers differ most, as it came or in layers."""
        side = request.query_params.get("side", "")
        if side not in _SIDES:
            raise Problem("no_such_side", "A page has two sides here: as it came, and in layers.")
        return self._png(_SIDES[side])

    def _png(self, name: str) -> FileResponse:
        return self._picture(name, "image/png")

    def _picture(self, name: str, media_type: str) -> FileResponse:
        path = self.get_object().folder_path / name
        if not path.is_file():
            raise Problem("not_yet", "It has not been drawn yet.", status=404)
        return FileResponse(path.open("rb"), content_type=media_type)
