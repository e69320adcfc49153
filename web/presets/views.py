"""What a person can choose from: presets, limits, formats."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from lighten import FORMATS, PRESETS
from web.presets.limits import SHIPPED_LIMITS

__all__ = ["ChoicesView"]


class PresetSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    title = serializers.CharField()
    description = serializers.CharField()


class LimitSerializer(serializers.Serializer[Any]):
    """file_bytes: the heaviest file that fits, when a message carries it too."""

    name = serializers.CharField()
    title = serializers.CharField()
    size_bytes = serializers.IntegerField(source="limit.size_bytes")
    carrier = serializers.ChoiceField(choices=["file", "message"], source="limit.carrier")
    file_bytes = serializers.IntegerField(source="limit.file_bytes")


class FormatSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    suffix = serializers.CharField()
    media_type = serializers.CharField()


class ChoicesSerializer(serializers.Serializer[Any]):
    presets = PresetSerializer(many=True)
    limits = LimitSerializer(many=True)
    formats = FormatSerializer(many=True)


class ChoicesView(APIView):
    """Presets, limits and formats, each in the order in which they are offered."""

    @extend_schema(responses=ChoicesSerializer)
    def get(self, request: Request) -> Response:
        choices = {"presets": PRESETS, "limits": SHIPPED_LIMITS, "formats": FORMATS}
        return Response(ChoicesSerializer(choices).data)
