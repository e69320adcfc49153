"""Health of the installation, for monitoring: figures without names."""

from django.http import HttpRequest, JsonResponse

from web.disk_room import free_bytes
from web.queue.engine import task_queue

__all__ = ["show_health"]


def show_health(_request: HttpRequest) -> JsonResponse:
    """Answer 200 if work can be done, else 503 with the reason.

    waiting: tasks that nobody has begun; oldest_s: how long the first of them has waited; workers:
    that live on this machine; free_bytes: of the disk.
    """
    figures: dict[str, object] = {"free_bytes": free_bytes(), "workers": 0}
    queue = task_queue()
    try:
        waiting = queue.waiting()
        figures |= {"waiting": waiting.count, "oldest_s": round(waiting.oldest_s, 1)}
        figures["workers"] = queue.living_workers()
    except queue.errors:
        figures["missing"] = "the database or the queue does not answer"
    if not figures["workers"] and "missing" not in figures:
        figures["missing"] = "no worker is running"
    is_well = "missing" not in figures
    return JsonResponse({"is_well": is_well, **figures}, status=200 if is_well else 503)
