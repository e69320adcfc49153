"""Lighter copies, their proofs, and links to them, over HTTP."""

import io
import json
from collections.abc import Mapping

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status, viewsets
from rest_framework.decorators import action
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response

from web.jobs.runner import JobFailedError
from web.problems import Problem
from web.satchels.copies.copies_zip import files_of
from web.satchels.copies.page_renderer import Drawing, draw
from web.satchels.copies.runs import make_run
from web.satchels.http import BINARY, account_of, attachment
from web.satchels.models import Copy, HandOver
from web.satchels.proof.proof_pages import proof_as_pdf
from web.satchels.proof.proof_serializers import GentlerSerializer, ProofSerializer
from web.satchels.proof.proofs import show_proof
from web.satchels.serializers import (
    HandOverRequestSerializer,
    HandOverSerializer,
    RunSerializer,
)

__all__ = ["CopyViewSet", "HandOverViewSet"]

_SIDES = ("original", "copy", "difference")
_FINEST_DPI, _MOST_DRAWN_PX = 1200, 4_000_000


class CopyViewSet(viewsets.GenericViewSet[Copy]):
    """One lighter copy."""

    def get_queryset(self) -> QuerySet[Copy]:
        if getattr(self, "swagger_fake_view", False):
            return Copy.objects.none()
        return Copy.objects.filter(run__satchel__owner=account_of(self.request))

    def _finished(self, pk: str | None) -> Copy:
        copies = self.get_queryset().select_related("document__satchel", "run")
        return get_object_or_404(copies, pk=pk, state=Copy.State.DONE)

    @extend_schema(parameters=[OpenApiParameter("piece", int)], responses=BINARY)
    @action(detail=True)
    def file(self, request: Request, pk: str | None = None) -> FileResponse:
        """Return the copy, or one piece of it, under its display name."""
        copy = self._finished(pk)
        piece = request.query_params.get("piece", "")
        if not piece:
            name = copy.document.satchel.copy_name(copy.document, copy)
            return attachment(copy.file.open("rb"), name)
        if not (piece.isdecimal() and 1 <= int(piece) <= len(copy.pieces)):
            raise Problem("not_found", "There is no such piece.", status=404)
        name, path = files_of(copy)[int(piece) - 1]
        return attachment(path.open("rb"), name)

    @extend_schema(responses=ProofSerializer)
    @action(detail=True)
    def proof(self, request: Request, pk: str | None = None) -> Response:
        """Return the comparison with the original, page by page or picture by picture."""
        return Response(ProofSerializer(show_proof(self._finished(pk))).data)

    @extend_schema(responses=BINARY)
    @action(detail=True, url_path="proof.json")
    def proof_json(self, request: Request, pk: str | None = None) -> FileResponse:
        """The proof to keep, as JSON."""
        copy = self._finished(pk)
        body = json.dumps(ProofSerializer(show_proof(copy)).data, indent=2)
        return attachment(io.BytesIO(body.encode()), f"{copy.document.name} proof.json")

    @extend_schema(responses=BINARY)
    @action(detail=True, url_path="proof.pdf")
    def proof_pdf(self, request: Request, pk: str | None = None) -> FileResponse:
        """The proof to keep, on one page."""
        copy = self._finished(pk)
        page = io.BytesIO(proof_as_pdf(show_proof(copy)))
        return attachment(page, f"{copy.document.name} proof.pdf")

    @extend_schema(
        parameters=[
            OpenApiParameter("side", str, required=True, enum=_SIDES),
            OpenApiParameter("page", int),
            OpenApiParameter("part", str, description="of a document without pages"),
            OpenApiParameter("dpi", float, required=True),
            OpenApiParameter("box", str, description="left,low,right,high in points"),
        ],
        responses={(200, "image/png"): OpenApiTypes.BINARY},
    )
    @action(detail=True)
    def drawing(self, request: Request, pk: str | None = None) -> FileResponse:
        """Return a page, picture or region of the copy or its original, as PNG."""
        copy = self._finished(pk)
        try:
            path = draw(copy, _drawing_of(copy, request.query_params))
        except JobFailedError as error:
            raise Problem("not_drawn", error.message, status=404) from error
        response = FileResponse(path.open("rb"), content_type="image/png")
        response["Cache-Control"] = "private, max-age=86400"
        return response

    @extend_schema(request=GentlerSerializer, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def gentler(self, request: Request, pk: str | None = None) -> Response:
        """Leave some pictures as they are, and make the copy of this document again."""
        copy = self._finished(pk)
        serializer = GentlerSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        document = copy.document
        part_ids = {part["id"] for part in copy.parts}
        unknown = set(serializer.validated_data["parts"]) - part_ids
        if unknown:
            raise Problem("not_found", f"{min(unknown)} is no part of this document.", status=404)
        unfinished = Copy.objects.filter(document=document, state__in=Copy.State.unfinished())
        if unfinished.exists():
            raise Problem("busy", "This copy is being made again already. Wait for it.")
        with transaction.atomic():
            for part in serializer.validated_data["parts"]:
                document.exceptions[part] = {"is_exempt": True}
            document.save(update_fields=["exceptions"])
            run = make_run(
                document.satchel, [document], may_end_signature=copy.run.may_end_signature
            )
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)

    @extend_schema(methods=["GET"], responses=HandOverSerializer(many=True))
    @extend_schema(
        methods=["POST"], request=HandOverRequestSerializer, responses=HandOverSerializer
    )
    @action(detail=True, methods=["get", "post"], url_path="hand-overs")
    def hand_overs(self, request: Request, pk: str | None = None) -> Response:
        """Links by which anybody who has one may download the copy; a new one."""
        copy = self._finished(pk)
        if request.method == "GET":
            return Response(HandOverSerializer(copy.hand_overs.all(), many=True).data)
        wanted = HandOverRequestSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        still_open = sum(link.is_open for link in copy.hand_overs.all())
        if still_open >= settings.LINKS_LIMIT:
            raise Problem(
                "too_many",
                f"There are {still_open} open links to this copy. End one of them first.",
            )
        link = HandOver.to_copy(copy, settings.LINK_DAYS, wanted.validated_data["password"])
        return Response(HandOverSerializer(link).data, status=status.HTTP_201_CREATED)


class HandOverViewSet(viewsets.GenericViewSet[HandOver]):
    """One link to a copy."""

    serializer_class = HandOverSerializer

    def get_queryset(self) -> QuerySet[HandOver]:
        if getattr(self, "swagger_fake_view", False):
            return HandOver.objects.none()
        return HandOver.objects.filter(copy__run__satchel__owner=account_of(self.request))

    @extend_schema(request=None, responses=HandOverSerializer)
    @action(detail=True, methods=["post"])
    def revoke(self, request: Request, pk: str | None = None) -> Response:
        """End the link now."""
        link = self.get_object()
        link.revoke()
        return Response(HandOverSerializer(link).data)


def _drawing_of(copy: Copy, query: Mapping[str, str]) -> Drawing:
    """Return the drawing that the request asks for; invalid requests are refused."""
    nowhere = Problem("no_such_place", "There is no such place on the page.", status=422)
    try:
        dpi, side = float(query["dpi"]), query["side"]
        page = int(query["page"]) if query.get("page") else None
        box = None
        if query.get("box"):
            left, low, right, high = (float(value) for value in query["box"].split(","))
            box = (left, low, right, high)
    except (KeyError, ValueError):
        raise nowhere from None
    if not 4 <= dpi <= _FINEST_DPI:
        raise nowhere
    part_id = "" if page is not None else query.get("part", "")
    size_pt = _size_of(copy, part_id) if part_id else (0.0, 0.0)
    shown = (box[2] - box[0], box[3] - box[1]) if box else size_pt if part_id else (1.0, 1.0)
    pixels = max(0.0, shown[0]) * max(0.0, shown[1]) * (dpi / 72) ** 2
    is_placed = page >= 1 if page is not None else bool(part_id)
    is_sound = side in _SIDES and is_placed and min(shown) > 0
    if not is_sound or pixels > _MOST_DRAWN_PX:
        raise nowhere
    return Drawing(side=side, page=page, part_id=part_id, size_pt=size_pt, dpi=dpi, box=box)


def _size_of(copy: Copy, part_id: str) -> tuple[float, float]:
    """Return the size at which the proof showed a picture, in points; (0, 0) for others."""
    for picture in (copy.proof or {}).get("pictures", []):
        if picture["id"] == part_id:
            width, height = picture["size_pt"]
            return float(width), float(height)
    return 0.0, 0.0
