"""Own limits: made, changed, deleted, taken from a file and given as one."""

from typing import Any, cast

from django.contrib.auth.models import User
from django.db.models import QuerySet
from django.http import HttpResponse, JsonResponse
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from lighten import (
    Carrier,
    Limit,
    NamedLimit,
    checklist_from_json,
    checklist_to_json,
    limit_from_json,
    limit_to_json,
)
from web.presets.keeping import keep
from web.presets.limits import SHIPPED_LIMITS
from web.presets.models import OwnLimit
from web.problems import Problem

__all__ = ["ChecklistSerializer", "LimitSerializer", "LimitViewSet", "limits_of"]


class NameRuleSerializer(serializers.Serializer[Any]):
    no_spaces = serializers.BooleanField(default=False)
    ascii_only = serializers.BooleanField(default=False)
    most_letters = serializers.IntegerField(
        min_value=12, max_value=255, allow_null=True, default=None
    )


class ChecklistSerializer(serializers.Serializer[Any]):
    """endings: with the dot, in small letters; none for all."""

    endings = serializers.ListField(child=serializers.CharField(max_length=11), default=list)
    most_pages = serializers.IntegerField(
        min_value=1, max_value=100_000, allow_null=True, default=None
    )
    needs_pdf_a = serializers.BooleanField(default=False)
    names = NameRuleSerializer(required=False)

    def to_representation(self, instance: Any) -> Any:
        return instance if isinstance(instance, dict) else checklist_to_json(instance)


class LimitSerializer(serializers.Serializer[Any]):
    """file_bytes: the heaviest file that fits, when a message carries it too."""

    name = serializers.CharField()
    title = serializers.CharField()
    size_bytes = serializers.IntegerField(source="limit.size_bytes")
    carrier = serializers.ChoiceField(choices=["file", "message"], source="limit.carrier")
    file_bytes = serializers.IntegerField(source="limit.file_bytes")
    checklist = ChecklistSerializer()
    is_own = serializers.BooleanField()


class OwnLimitSerializer(serializers.ModelSerializer[OwnLimit]):
    """A limit of the person's own."""

    name = serializers.CharField(source="id", read_only=True)
    size_bytes = serializers.IntegerField(min_value=1000, max_value=10**12)
    checklist = ChecklistSerializer(required=False)

    class Meta:
        model = OwnLimit
        fields = ("name", "title", "size_bytes", "carrier", "checklist")

    def validate_checklist(self, value: Any) -> Any:
        return checklist_to_json(checklist_from_json(self.initial_data["checklist"]))

    def create(self, validated_data: Any) -> OwnLimit:
        return OwnLimit.objects.create(**validated_data)

    def update(self, instance: OwnLimit, validated_data: Any) -> OwnLimit:
        for name, value in validated_data.items():
            setattr(instance, name, value)
        instance.save()
        return instance


class LimitFileSerializer(serializers.Serializer[Any]):
    """The JSON of a limit's file, as export writes it."""

    content = serializers.JSONField()


def limits_of(owner: User) -> list[dict[str, Any]]:
    """Return shipped limits, then the account's own, for `LimitSerializer`."""
    shipped = [
        {"name": one.name, "title": one.title, "limit": one.limit, "checklist": one.checklist}
        for one in SHIPPED_LIMITS
    ]
    own = [
        {
            "name": str(one.pk),
            "title": one.title,
            "limit": _limit(one),
            "checklist": checklist_from_json(one.checklist),
        }
        for one in OwnLimit.objects.filter(owner=owner)
    ]
    return [
        *({**one, "is_own": False} for one in shipped),
        *({**one, "is_own": True} for one in own),
    ]


def _limit(own: OwnLimit) -> Limit:
    return Limit(size_bytes=own.size_bytes, carrier=Carrier(own.carrier))


class LimitViewSet(viewsets.GenericViewSet[OwnLimit]):
    """Own limits, with their checklists."""

    serializer_class = OwnLimitSerializer
    lookup_value_regex = "[^/]+"

    def get_queryset(self) -> QuerySet[OwnLimit]:
        if getattr(self, "swagger_fake_view", False):
            return OwnLimit.objects.none()
        return OwnLimit.objects.filter(owner=cast(User, self.request.user))

    def create(self, request: Request) -> Response:
        """Keep a limit under a title."""
        serializer = OwnLimitSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        kept = keep(serializer, "limit", owner=request.user)
        return Response(OwnLimitSerializer(kept).data, status=status.HTTP_201_CREATED)

    def partial_update(self, request: Request, pk: str) -> Response:
        """Change title, size, carrier or checklist."""
        serializer = OwnLimitSerializer(self._own(pk), data=request.data, partial=True)
        serializer.is_valid(raise_exception=True)
        return Response(OwnLimitSerializer(keep(serializer, "limit")).data)

    @extend_schema(responses={204: None})
    def destroy(self, request: Request, pk: str) -> Response:
        """Delete it; satchels keep what they took of it."""
        self._own(pk).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(responses={(200, "application/json"): dict})
    @action(detail=True)
    def file(self, request: Request, pk: str) -> HttpResponse:
        """The limit as a file, for another account."""
        known = {one["name"]: one for one in limits_of(cast(User, request.user))}
        if pk not in known:
            raise Problem("unknown_limit", "There is no such limit any more.", status=404)
        named = NamedLimit(
            title=known[pk]["title"], limit=known[pk]["limit"], checklist=known[pk]["checklist"]
        )
        answer = JsonResponse(limit_to_json(named), json_dumps_params={"indent": 2})
        answer["Content-Disposition"] = 'attachment; filename="limit.json"'
        return answer

    @extend_schema(request=LimitFileSerializer, responses={201: OwnLimitSerializer})
    @action(detail=False, methods=["post"], url_path="import")
    def take(self, request: Request) -> Response:
        """Keep the limit of a file; a bad one is refused with the place of its first mistake."""
        serializer = LimitFileSerializer(data=request.data)
        serializer.is_valid(raise_exception=True)
        named = limit_from_json(serializer.validated_data["content"])
        own = OwnLimitSerializer(
            data={
                "title": named.title,
                "size_bytes": named.limit.size_bytes,
                "carrier": str(named.limit.carrier),
                "checklist": checklist_to_json(named.checklist),
            }
        )
        own.is_valid(raise_exception=True)
        kept = keep(own, "limit", owner=request.user)
        return Response(OwnLimitSerializer(kept).data, status=status.HTTP_201_CREATED)

    def _own(self, name: str) -> OwnLimit:
        if any(one.name == name for one in SHIPPED_LIMITS):
            raise Problem("shipped", "Shipped limits stay as they are. Copy it, then change that.")
        own = next((one for one in self.get_queryset() if str(one.pk) == name), None)
        if own is None:
            raise Problem("unknown_limit", "There is no such limit any more.", status=404)
        return own
