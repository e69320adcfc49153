"""Pages as pictures over HTTP; each account sees its own."""

import tempfile
import zipfile
from typing import IO

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action, api_view
from rest_framework.request import Request
from rest_framework.response import Response

from web.problems import Problem
from web.rasters.models import Raster
from web.rasters.serializers import RasterRequestSerializer, RasterSerializer
from web.rasters.tasks import draw_pages
from web.satchels.http import BINARY, account_of, attachment
from web.satchels.models import Document

__all__ = ["RasterViewSet", "document_rasters"]

_SIDES = ("before", "after")


@extend_schema(
    methods=["GET"], operation_id="document_rasters_list", responses=RasterSerializer(many=True)
)
@extend_schema(methods=["POST"], request=RasterRequestSerializer, responses=RasterSerializer)
@api_view(["GET", "POST"])
def document_rasters(request: Request, id: str) -> Response:
    """Those of a document, the last first; or one more, which takes the place of the last."""
    document = Document.objects.filter(pk=id, satchel__owner=account_of(request)).first()
    if document is None:
        raise Problem("not_found", "There is no such document here.", status=404)
    if request.method == "GET":
        return Response(RasterSerializer(document.rasters.all(), many=True).data)
    serializer = RasterRequestSerializer(data=request.data)
    serializer.is_valid(raise_exception=True)
    wanted = dict(serializer.validated_data)
    if document.state != Document.State.WEIGHED:
        raise Problem("not_weighed", "The document has to be weighed first.")
    for earlier in document.rasters.all():
        earlier.remove()
    with transaction.atomic():
        raster = Raster.objects.create(
            document=document,
            is_each=wanted.pop("is_each"),
            may_blur_text=wanted.pop("may_blur_text"),
            wanted=wanted,
        )
        transaction.on_commit(lambda: draw_pages.enqueue(str(raster.pk)))
    return Response(RasterSerializer(raster).data, status=status.HTTP_201_CREATED)


class RasterViewSet(
    mixins.RetrieveModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Raster]
):
    """One making of pages."""

    serializer_class = RasterSerializer

    def get_queryset(self) -> QuerySet[Raster]:
        if getattr(self, "swagger_fake_view", False):
            return Raster.objects.none()
        return Raster.objects.filter(document__satchel__owner=account_of(self.request))

    def perform_destroy(self, instance: Raster) -> None:
        instance.remove()

    @extend_schema(responses=BINARY)
    @action(detail=True)
    def file(self, request: Request, pk: str | None = None) -> FileResponse:
        """The TIFF, or a ZIP where each page has one."""
        raster = self.get_object()
        paths = raster.file_paths
        if raster.state != Raster.State.DONE or not paths:
            raise Problem("not_yet", "The pages are not made yet.", status=404)
        file = _zipped(raster) if raster.is_each else paths[0].open("rb")
        return attachment(file, raster.file_name)

    @extend_schema(
        parameters=[
            OpenApiParameter("page", int, required=True),
            OpenApiParameter("side", str, enum=list(_SIDES), required=True),
        ],
        responses={(200, "image/png"): OpenApiTypes.BINARY},
    )
    @action(detail=True)
    def place(self, request: Request, pk: str | None = None) -> FileResponse:
        """Serve the region where a page has lost most, before and after."""
        page, side = request.query_params.get("page", ""), request.query_params.get("side", "")
        if side not in _SIDES or not page.isdecimal():
            raise Problem("no_such_place", "A place has a page, and a side before and after.")
        path = self.get_object().folder_path / f"{side}-{int(page)}.png"
        if not path.is_file():
            raise Problem("no_such_place", "That page has lost nothing.", status=404)
        return FileResponse(path.open("rb"), content_type="image/png")


def _zipped(raster: Raster) -> IO[bytes]:
    settings.FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
    zipped = tempfile.TemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR)  # noqa: SIM115 - it is sent
    with zipfile.ZipFile(zipped, "w", zipfile.ZIP_STORED) as archive:
        for number, path in enumerate(raster.file_paths, start=1):
            archive.write(path, raster.page_name(number))
    zipped.seek(0)
    return zipped
