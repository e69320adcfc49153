"""Queues over HTTP: made, named, ended, given another address; each account its own."""

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from printers import JobState
from web.presets.library import find_preset
from web.printing.desk import QueueDesk
from web.printing.ipp_view import ipp_uri
from web.printing.models import PrintQueue
from web.problems import Problem
from web.satchels.http import account_of

__all__ = ["PrintQueueViewSet"]

_MOST_QUEUES = 20
_SHOWN = 12


class PrintedJobSerializer(serializers.Serializer[Any]):
    number = serializers.IntegerField()
    name = serializers.CharField()
    user = serializers.CharField()
    state = serializers.ChoiceField(choices=[one.name.lower() for one in JobState])
    message = serializers.CharField()
    pages = serializers.IntegerField()
    created_at = serializers.DateTimeField()


class PrintQueueSerializer(serializers.ModelSerializer[PrintQueue]):
    """uri: what a program prints to; whoever has it can. jobs: the latest first."""

    uri = serializers.SerializerMethodField()
    jobs = serializers.SerializerMethodField()

    class Meta:
        model = PrintQueue
        fields = ("id", "name", "preset", "uri", "satchel", "jobs", "created_at")
        read_only_fields = ("satchel", "created_at")

    def validate_preset(self, value: str) -> str:
        return find_preset(self.context["request"].user, value).name

    def get_uri(self, queue: PrintQueue) -> str:
        return ipp_uri(self.context["request"], queue)

    @extend_schema_field(PrintedJobSerializer(many=True))
    def get_jobs(self, queue: PrintQueue) -> Any:
        jobs = QueueDesk(queue, "", "").jobs()[:_SHOWN]
        rows = [{**_fields(job), "state": job.state.name.lower()} for job in jobs]
        return PrintedJobSerializer(rows, many=True).data


def _fields(job: Any) -> dict[str, Any]:
    return {
        name: getattr(job, name)
        for name in ("number", "name", "user", "message", "pages", "created_at")
    }


class PrintQueueViewSet(viewsets.ModelViewSet[PrintQueue]):
    """None until a person makes one."""

    serializer_class = PrintQueueSerializer
    http_method_names = ("get", "post", "patch", "delete")
    pagination_class = None

    def get_queryset(self) -> QuerySet[PrintQueue]:
        if getattr(self, "swagger_fake_view", False):
            return PrintQueue.objects.none()
        return PrintQueue.objects.filter(owner=account_of(self.request))

    def perform_create(self, serializer: Any) -> None:
        owner = account_of(self.request)
        if self.get_queryset().count() >= _MOST_QUEUES:
            raise Problem("too_many", f"There are {_MOST_QUEUES} printers already. End one first.")
        serializer.save(owner=owner)

    @extend_schema(request=None, responses=PrintQueueSerializer)
    @action(detail=True, methods=["post"])
    def renew(self, request: Request, pk: str | None = None) -> Response:
        """Another address: the one before ends."""
        queue = self.get_object()
        queue.renew()
        return Response(self.get_serializer(queue).data, status=status.HTTP_200_OK)

    @extend_schema(request=None, responses=PrintQueueSerializer)
    @action(detail=True, methods=["post"], url_path=r"jobs/(?P<number>\d+)/cancel")
    def cancel(self, request: Request, number: str, pk: str | None = None) -> Response:
        """End a job that is not over; what came of it goes."""
        queue = self.get_object()
        if not queue.jobs.filter(number=int(number)).exists():
            raise Problem("not_found", "There is no such job.", status=404)
        QueueDesk(queue, "", "").cancel(int(number))
        return Response(self.get_serializer(queue).data)
