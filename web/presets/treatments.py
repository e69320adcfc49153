"""Treatments as the API shows them; `lighten.treatment_from_json` checks them."""

from typing import Any

from rest_framework import serializers

from lighten import (
    ASSUMED_CM,
    BitonalMethod,
    ColourChange,
    ExtraKind,
    FilterKind,
    PageColours,
    PictureClass,
    PictureCoding,
    RasterTreatment,
    present_choice,
)

__all__ = [
    "PictureTreatmentSerializer",
    "PresentChoiceField",
    "RasterTreatmentSerializer",
    "TreatmentSerializer",
]

_RASTER = RasterTreatment()


class PresentChoiceField(serializers.ChoiceField):
    """A choice that is also accepted in its former spelling."""

    def to_internal_value(self, data: Any) -> Any:
        return super().to_internal_value(present_choice(data) if isinstance(data, str) else data)


class FilterSerializer(serializers.Serializer[Any]):
    kind = PresentChoiceField(choices=list(FilterKind))
    strength = serializers.FloatField()


class PictureTreatmentSerializer(serializers.Serializer[Any]):
    """Treatment of pictures of a class; null where nothing is set."""

    finest_ppi = serializers.FloatField(allow_null=True)
    above_ppi = serializers.FloatField(allow_null=True)
    scale_percent = serializers.FloatField(allow_null=True)
    smallest_px = serializers.IntegerField(allow_null=True)
    largest_px = serializers.IntegerField(allow_null=True)
    coding = serializers.ChoiceField(choices=list(PictureCoding))
    quality = serializers.IntegerField(allow_null=True)
    floor = serializers.FloatField()
    colour = PresentChoiceField(choices=list(ColourChange))
    bitonal_method = serializers.ChoiceField(choices=list(BitonalMethod))
    threshold = serializers.IntegerField()
    filters = FilterSerializer(many=True)
    cuts_hidden = serializers.BooleanField()
    keeps_words = serializers.BooleanField(default=True)
    least_score = serializers.FloatField(default=0.0)


class PicturesSerializer(serializers.Serializer[Any]):
    """Treatment by class of picture."""

    def get_fields(self) -> dict[str, Any]:
        # Some classes have a hyphen in their name, which no attribute can have.
        return {str(picture_class): PictureTreatmentSerializer() for picture_class in PictureClass}


class FontsSerializer(serializers.Serializer[Any]):
    subset = serializers.BooleanField()
    drops_standard = serializers.BooleanField()
    drops_embedded = serializers.BooleanField(default=False)


class DrawingSerializer(serializers.Serializer[Any]):
    tolerance_pt = serializers.FloatField(allow_null=True)
    constant_width = serializers.BooleanField()
    ordinary_too = serializers.BooleanField()


class RasterTreatmentSerializer(serializers.Serializer[Any]):
    """Treatment of pages that become pictures."""

    ppi = serializers.FloatField(min_value=20, max_value=1200, default=_RASTER.ppi)
    colours = PresentChoiceField(choices=list(PageColours), default=str(_RASTER.colours))
    divide = serializers.ChoiceField(choices=list(BitonalMethod), default=str(_RASTER.divide))
    threshold = serializers.IntegerField(min_value=1, max_value=255, default=_RASTER.threshold)
    keeps_photos_grey = serializers.BooleanField(default=_RASTER.keeps_photos_grey)


class TreatmentSerializer(serializers.Serializer[Any]):
    """Treatment of a whole document."""

    pictures = PicturesSerializer()
    fonts = FontsSerializer()
    drawing = DrawingSerializer()
    dropped_extras = serializers.ListField(child=serializers.ChoiceField(choices=list(ExtraKind)))
    is_linearized = serializers.BooleanField()
    assumed_cm = serializers.FloatField(default=ASSUMED_CM)
    lightens_embedded = serializers.BooleanField(default=False)
    raster = RasterTreatmentSerializer()
