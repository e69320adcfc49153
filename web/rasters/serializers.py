"""Serializers of pages as pictures."""

from typing import Any

from rest_framework import serializers

from web.presets.treatments import RasterTreatmentSerializer
from web.rasters.models import Raster

__all__ = ["RasterRequestSerializer", "RasterSerializer"]


class RasterRequestSerializer(RasterTreatmentSerializer):
    is_each = serializers.BooleanField(default=False)
    may_blur_text = serializers.BooleanField(default=False)


class RasterPageSerializer(serializers.Serializer[Any]):
    """has_place: there is a place that has lost something, to be looked at."""

    page = serializers.IntegerField()
    width_px = serializers.IntegerField()
    height_px = serializers.IntegerField()
    kind = serializers.CharField()
    size_bytes = serializers.IntegerField()
    remark = serializers.CharField(allow_blank=True)
    has_place = serializers.BooleanField()


class RasterSerializer(serializers.ModelSerializer[Raster]):
    pages = RasterPageSerializer(many=True, read_only=True)
    file_name = serializers.CharField(read_only=True)

    class Meta:
        model = Raster
        fields = (
            "id",
            "state",
            "progress",
            "seconds_left",
            "is_each",
            "pages",
            "size_bytes",
            "file_name",
            "error_code",
            "error_message",
        )
        read_only_fields = fields
