"""Options for a person: presets, limits, formats, extras; and their own presets."""

from collections.abc import Mapping
from enum import StrEnum
from typing import Any, cast

from django.contrib.auth.models import User
from django.db.models import QuerySet
from django.http import HttpResponse, JsonResponse
from drf_spectacular.utils import extend_schema, extend_schema_field, inline_serializer
from rest_framework import serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from lighten import (
    ASSUMED_CM,
    BITONAL_METHOD_TITLES,
    CLASSES_EXPLAINED,
    COLOUR_TITLES,
    EXTRAS,
    FILTER_TITLES,
    FORMATS,
    KIND_TITLES,
    PAGE_COLOUR_TITLES,
    PICTURE_CLASS_NAMES,
    PICTURE_CODING_TITLES,
    PRESETS,
    BitonalMethod,
    ColourChange,
    ExtraKind,
    FilterKind,
    PageColours,
    PartKind,
    PictureClass,
    PictureCoding,
    Preset,
    Switch,
    preset_from_json,
    preset_to_json,
    treatment_from_json,
    treatment_to_json,
)
from web.presets.keeping import keep
from web.presets.library import find_preset, presets_of, usual_preset
from web.presets.limit_views import LimitSerializer, limits_of
from web.presets.models import OwnPreset, UsualPreset
from web.presets.treatments import TreatmentSerializer
from web.problems import Problem

__all__ = ["ChoicesView", "PresetViewSet"]

_SHIPPED_NAMES = {preset.name for preset in PRESETS}


class PresetSerializer(serializers.Serializer[Any]):
    """is_own: made by the person, so that it can be changed and deleted."""

    name = serializers.CharField()
    title = serializers.CharField()
    description = serializers.CharField()
    is_own = serializers.SerializerMethodField()
    treatment = serializers.SerializerMethodField()

    def get_is_own(self, preset: Preset) -> bool:
        return preset.name not in _SHIPPED_NAMES

    @extend_schema_field(TreatmentSerializer)
    def get_treatment(self, preset: Preset) -> Any:
        return treatment_to_json(preset.treatment)


class FileKindSerializer(serializers.Serializer[Any]):
    """A kind of file. suffixes: the usual one first, with the dot."""

    title = serializers.CharField()
    media_type = serializers.CharField()
    suffixes = serializers.ListField(child=serializers.CharField())


class FormatSerializer(serializers.Serializer[Any]):
    """Choices that a format offers. switches: those that change something; codings: those it can
    hold.
    """

    name = serializers.CharField()
    kinds = FileKindSerializer(many=True, source="offers.kinds")
    has_pages = serializers.BooleanField(source="offers.has_pages")
    can_split = serializers.BooleanField(source="offers.can_split")
    extras = serializers.ListField(
        child=serializers.ChoiceField(choices=list(ExtraKind)), source="offers.extras"
    )
    switches = serializers.SerializerMethodField()
    codings = serializers.SerializerMethodField()

    @extend_schema_field(serializers.ListField(child=serializers.ChoiceField(choices=list(Switch))))
    def get_switches(self, format_: Any) -> list[str]:
        return sorted(format_.offers.switches)

    @extend_schema_field(
        serializers.ListField(child=serializers.ChoiceField(choices=list(PictureCoding)))
    )
    def get_codings(self, format_: Any) -> list[str]:
        return sorted(format_.offers.codings)


class PartKindSerializer(serializers.Serializer[Any]):
    """A kind of part, with what its parts together are called."""

    kind = serializers.ChoiceField(choices=list(PartKind))
    title = serializers.CharField()


class ExtraSerializer(serializers.Serializer[Any]):
    """Purpose of an extra, and the loss without it."""

    kind = serializers.ChoiceField(choices=list(ExtraKind))
    title = serializers.CharField()
    purpose = serializers.CharField()
    loss = serializers.CharField()
    is_safe = serializers.BooleanField()


class PictureClassSerializer(serializers.Serializer[Any]):
    """A class of pictures. title: of its pictures together; name: of one of them."""

    value = serializers.ChoiceField(choices=list(PictureClass))
    title = serializers.CharField()
    name = serializers.CharField()


def _titled(name: str, enum: type[StrEnum]) -> serializers.Serializer[Any]:
    """Return a serializer of a list of values with their titles."""
    fields: dict[str, serializers.Field[Any, Any, Any, Any]] = {
        "value": serializers.ChoiceField(choices=list(enum)),
        "title": serializers.CharField(),
    }
    return inline_serializer(name, fields, many=True)


class ChoicesSerializer(serializers.Serializer[Any]):
    presets = PresetSerializer(many=True)
    usual_preset = serializers.CharField()
    limits = LimitSerializer(many=True)
    formats = FormatSerializer(many=True)
    kinds = PartKindSerializer(many=True)
    extras = ExtraSerializer(many=True)
    picture_classes = PictureClassSerializer(many=True)
    picture_codings = _titled("TitledCoding", PictureCoding)
    colours = _titled("TitledColourChange", ColourChange)
    bitonal_methods = _titled("TitledBitonalMethod", BitonalMethod)
    filters = _titled("TitledFilter", FilterKind)
    page_colours = _titled("TitledPageColours", PageColours)
    assumed_cm = serializers.FloatField()


def _extra(kind: ExtraKind) -> dict[str, Any]:
    extra = EXTRAS[kind]
    return {
        "kind": kind,
        "title": extra.title,
        "purpose": extra.purpose,
        "loss": extra.loss,
        "is_safe": extra.is_safe,
    }


def _with_titles(titles: Mapping[Any, str]) -> list[dict[str, Any]]:
    return [{"value": value, "title": title} for value, title in titles.items()]


class ChoicesView(APIView):
    """Presets, limits, formats, kinds of parts, extras and the values of a treatment with their
    titles, each in the order of offering.

    assumed_cm: how long the longer side is taken to be of a picture that nothing says the size of.
    """

    @extend_schema(responses=ChoicesSerializer)
    def get(self, request: Request) -> Response:
        owner = _account(request)
        choices = {
            "presets": presets_of(owner),
            "usual_preset": usual_preset(owner),
            "limits": limits_of(owner),
            "formats": FORMATS,
            "kinds": [{"kind": kind, "title": title} for kind, title in KIND_TITLES.items()],
            "extras": [_extra(kind) for kind in EXTRAS],
            "picture_classes": [
                {"value": value, "title": CLASSES_EXPLAINED[value].title, "name": name}
                for value, name in PICTURE_CLASS_NAMES.items()
            ],
            "picture_codings": _with_titles(PICTURE_CODING_TITLES),
            "colours": _with_titles(COLOUR_TITLES),
            "bitonal_methods": _with_titles(BITONAL_METHOD_TITLES),
            "filters": _with_titles(FILTER_TITLES),
            "page_colours": _with_titles(PAGE_COLOUR_TITLES),
            "assumed_cm": ASSUMED_CM,
        }
        return Response(ChoicesSerializer(choices).data)


class OwnPresetSerializer(serializers.ModelSerializer[OwnPreset]):
    """A preset of the person's own. name: what satchels and the command call it."""

    name = serializers.CharField(source="id", read_only=True)
    treatment = TreatmentSerializer()

    class Meta:
        model = OwnPreset
        fields = ("name", "title", "description", "treatment")

    def validate_treatment(self, value: Any) -> Any:
        return treatment_to_json(treatment_from_json(self.initial_data["treatment"]))


class PresetFileSerializer(serializers.Serializer[Any]):
    """The JSON of a preset file, as export writes it."""

    content = serializers.JSONField()


class PresetViewSet(viewsets.GenericViewSet[OwnPreset]):
    """Own presets: make, change, delete, take from a file and give as one."""

    serializer_class = OwnPresetSerializer
    lookup_value_regex = "[^/]+"

    def get_queryset(self) -> QuerySet[OwnPreset]:
        if getattr(self, "swagger_fake_view", False):
            return OwnPreset.objects.none()
        return OwnPreset.objects.filter(owner=_account(self.request))

    def create(self, request: Request) -> Response:
        """Keep a treatment under a title."""
        serializer = OwnPresetSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        kept = keep(serializer, "preset", owner=_account(request))
        return Response(OwnPresetSerializer(kept).data, status=status.HTTP_201_CREATED)

    def partial_update(self, request: Request, pk: str) -> Response:
        """Change title, description or treatment; shipped presets can only be copied."""
        own = self._own(pk)
        serializer = OwnPresetSerializer(own, data=request.data, partial=True)
        serializer.is_valid(raise_exception=True)
        return Response(OwnPresetSerializer(keep(serializer, "preset")).data)

    @extend_schema(responses={204: None})
    def destroy(self, request: Request, pk: str) -> Response:
        """Delete it; satchels that used it go back to the preset that ships as the usual one."""
        self._own(pk).delete()
        UsualPreset.objects.filter(owner=_account(request), name=pk).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"])
    def usual(self, request: Request, pk: str) -> Response:
        """Let new satchels begin with this preset, shipped or own."""
        preset = find_preset(_account(request), pk)
        UsualPreset.objects.update_or_create(
            owner=_account(request), defaults={"name": preset.name}
        )
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(responses={(200, "application/json"): dict})
    @action(detail=True)
    def file(self, request: Request, pk: str) -> HttpResponse:
        """The preset as a file, for another account or the command's --preset-file."""
        preset = find_preset(_account(request), pk)
        answer = JsonResponse(preset_to_json(preset), json_dumps_params={"indent": 2})
        answer["Content-Disposition"] = 'attachment; filename="preset.json"'
        return answer

    @extend_schema(request=PresetFileSerializer, responses={201: OwnPresetSerializer})
    @action(detail=False, methods=["post"], url_path="import")
    def take(self, request: Request) -> Response:
        """Keep the preset of a file; a bad one is refused with the place of its first mistake."""
        serializer = PresetFileSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        preset = preset_from_json(serializer.validated_data["content"])
        body = {
            "title": preset.title,
            "description": preset.description,
            "treatment": treatment_to_json(preset.treatment),
        }
        own = OwnPresetSerializer(data=body)
        own.is_valid(raise_exception=True)
        kept = keep(own, "preset", owner=_account(request))
        return Response(OwnPresetSerializer(kept).data, status=status.HTTP_201_CREATED)

    def _own(self, name: str) -> OwnPreset:
        if name in _SHIPPED_NAMES:
            raise Problem("shipped", "Shipped presets stay as they are. Copy it, then change that.")
        own = self.get_queryset().filter(pk=find_preset(_account(self.request), name).name).first()
        assert own is not None
        return own


def _account(request: Request) -> User:
    return cast(User, request.user)
