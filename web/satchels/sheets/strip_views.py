"""The test strip of a picture over HTTP."""

from typing import TYPE_CHECKING, Any

from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from lighten import PictureClass
from web.jobs.runner import JobFailedError
from web.problems import Problem
from web.satchels.models import Document
from web.satchels.sheets.estimates import CURRENT
from web.satchels.sheets.strips import StripSetting, show_stakes, show_strips, strip_file

__all__ = ["StripActions"]

_MOST_STRIPS = 4


class StakeSerializer(serializers.Serializer[Any]):
    """Stake of one picture under a setting.

    score: predicted, of 100; null where no trial says it. has_words: its words need more pixels
    than the setting asks for.
    """

    part = serializers.CharField()
    name = serializers.CharField()
    page = serializers.IntegerField(allow_null=True)
    picture_class = serializers.ChoiceField(choices=list(PictureClass))
    score = serializers.FloatField(allow_null=True)
    has_words = serializers.BooleanField()


class StripSettingSerializer(serializers.Serializer[Any]):
    """base: "original", "current" or the name of a preset. The others replace its own values."""

    base = serializers.CharField()
    finest_ppi = serializers.FloatField(
        allow_null=True, required=False, min_value=20, max_value=2400
    )
    quality = serializers.IntegerField(allow_null=True, required=False, min_value=1, max_value=100)


class StripsRequestSerializer(serializers.Serializer[Any]):
    """A picture by its part id, and its settings."""

    part = serializers.CharField()
    settings = serializers.ListField(
        child=StripSettingSerializer(), min_length=1, max_length=_MOST_STRIPS
    )


class StripSerializer(serializers.Serializer[Any]):
    """One picture as one setting would leave it.

    image: key of its pixels. bytes: of the picture; document_bytes: of the document, an estimate.
    words, lost: pieces of text in it, and boxes of those that cannot be read any more, as shares
    of its sides: left, top, right, bottom. cut: the part of the original that it shows; null for
    all of it.
    """

    base = serializers.CharField()
    image = serializers.CharField()
    action = serializers.CharField()
    reason = serializers.CharField()
    bytes = serializers.IntegerField()
    document_bytes = serializers.IntegerField()
    ppi = serializers.FloatField(allow_null=True)
    quality = serializers.IntegerField(allow_null=True)
    score = serializers.FloatField(allow_null=True)
    words = serializers.IntegerField()
    lost = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    cut = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    width_px = serializers.IntegerField()
    height_px = serializers.IntegerField()


class StripActions:
    """Actions of the documents' view set."""

    if TYPE_CHECKING:

        def get_object(self) -> Document: ...

    @extend_schema(
        parameters=[OpenApiParameter("base", str, description='"current", or a preset\'s name')],
        responses=StakeSerializer(many=True),
    )
    @action(detail=True)
    def stakes(self, request: Request, pk: str | None = None) -> Response:
        """Pictures by what a setting puts at stake in them: words first, then lowest scores."""
        document = self._weighed()
        try:
            found = show_stakes(document, request.query_params.get("base", CURRENT))
        except KeyError as error:
            raise _no_preset(error) from error
        return Response(StakeSerializer(found, many=True).data)

    @extend_schema(request=StripsRequestSerializer, responses=StripSerializer(many=True))
    @action(detail=True, methods=["post"])
    def strips(self, request: Request, pk: str | None = None) -> Response:
        """Return one picture as each of up to four settings would leave it."""
        document = self._weighed()
        asked = StripsRequestSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        part = asked.validated_data["part"]
        if not document.has_picture(part):
            raise Problem("not_found", "There is no such picture.", status=404)
        settings = [StripSetting(**setting) for setting in asked.validated_data["settings"]]
        try:
            strips = show_strips(document, part, settings)
        except KeyError as error:
            raise _no_preset(error) from error
        except JobFailedError as error:
            raise Problem("not_drawn", error.message, status=422) from error
        return Response(StripSerializer(strips, many=True).data)

    @extend_schema(
        parameters=[OpenApiParameter("key", str, required=True)],
        responses={(200, "image/png"): OpenApiTypes.BINARY},
    )
    @action(detail=True, url_path="strip-image")
    def strip_image(self, request: Request, pk: str | None = None) -> FileResponse:
        """The pixels of a strip, by its key, as PNG or JPEG."""
        found = strip_file(self.get_object(), request.query_params.get("key", ""))
        if found is None:
            raise Problem("not_found", "This strip is not kept. Have it made again.", status=404)
        path, media_type = found
        response = FileResponse(path.open("rb"), content_type=media_type)
        response["Cache-Control"] = "private, max-age=86400"
        return response

    def _weighed(self) -> Document:
        document = self.get_object()
        if document.state != Document.State.WEIGHED:
            raise Problem("not_weighed", f"{document.name}: has not been weighed yet.")
        return document


def _no_preset(error: KeyError) -> Problem:
    return Problem("no_preset", f"There is no preset {error.args[0]}.", status=404)
