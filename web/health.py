"""How the installation is, for whatever watches over it: figures, and nobody's names."""

from django.db import OperationalError
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from web.disk_room import free_bytes
from web.satchels.worker_locks import living_workers

__all__ = ["show_health"]


def show_health(_request: HttpRequest) -> JsonResponse:
    """200 where work can be done, 503 where it cannot, with what is missing.

    waiting: tasks that nobody has begun; oldest_s: how long the first of them has waited; workers:
    that live on this machine; free_bytes: of the disk.
    """
    told: dict[str, object] = {"free_bytes": free_bytes(), "workers": living_workers()}
    try:
        ready = DBTaskResult.objects.ready().order_by("enqueued_at")
        first = ready.first()
        told["waiting"] = ready.count()
        told["oldest_s"] = (
            round((timezone.now() - first.enqueued_at).total_seconds(), 1) if first else 0
        )
    except OperationalError:
        told["missing"] = "the database does not answer"
    if not told["workers"]:
        told["missing"] = "no worker is running"
    is_well = "missing" not in told
    return JsonResponse({"is_well": is_well, **told}, status=200 if is_well else 503)
