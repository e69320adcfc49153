"""What the page asks for, and is told, of pages as pictures."""

from typing import Any

from rest_framework import serializers

from lighten import PageColours, RasterTreatment, TwoToneMethod
from web.rasters.models import Raster

__all__ = ["RasterRequestSerializer", "RasterSerializer"]

_USUAL = RasterTreatment()


class RasterRequestSerializer(serializers.Serializer[Any]):
    ppi = serializers.FloatField(min_value=20, max_value=1200, default=_USUAL.ppi)
    colours = serializers.ChoiceField(choices=list(PageColours), default=str(_USUAL.colours))
    divide = serializers.ChoiceField(choices=list(TwoToneMethod), default=str(_USUAL.divide))
    threshold = serializers.IntegerField(min_value=1, max_value=255, default=_USUAL.threshold)
    keeps_photos_grey = serializers.BooleanField(default=_USUAL.keeps_photos_grey)
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
    file_name = serializers.SerializerMethodField()

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

    def get_file_name(self, raster: Raster) -> str:
        name = raster.file_name()
        return name.replace(".tif", ".zip") if raster.is_each else name
