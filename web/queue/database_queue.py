"""The queue in the database, and workers of this machine, known by a lock that each holds."""

from collections.abc import Iterator
from contextlib import AbstractContextManager

from django.core.management import call_command
from django.db import DatabaseError
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from web.queue.task_queue import BegunTask, Waiting
from web.queue.worker_locks import is_alive, kept_alive, living_workers

__all__ = ["DatabaseQueue"]


class DatabaseQueue:
    """`TaskQueue` in the application's database."""

    errors: tuple[type[Exception], ...] = (DatabaseError,)

    def waiting(self) -> Waiting:
        ready = DBTaskResult.objects.ready().order_by("enqueued_at")
        first = ready.first()
        oldest_s = (timezone.now() - first.enqueued_at).total_seconds() if first else 0.0
        return Waiting(count=ready.count(), oldest_s=oldest_s)

    def waiting_about(self) -> set[str]:
        queued = DBTaskResult.objects.filter(status=TaskResultStatus.READY)
        arguments = queued.values_list("args_kwargs", flat=True)
        return {str(id_) for given in arguments for id_ in given["args"]}

    def has_more_urgent(self, priority: int) -> bool:
        return DBTaskResult.objects.ready().filter(priority__gt=priority).exists()

    def begun(self) -> Iterator[BegunTask]:
        for task in DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING):
            workers = task.worker_ids
            yield BegunTask(
                id=str(task.pk),
                about=tuple(str(id_) for id_ in task.args_kwargs["args"]),
                worker=workers[-1] if workers else "",
                tries=len(workers),
            )

    def hand_back(self, task: BegunTask) -> None:
        DBTaskResult.objects.filter(pk=task.id).update(
            status=TaskResultStatus.READY, started_at=None
        )

    def give_up(self, task: BegunTask) -> None:
        DBTaskResult.objects.filter(pk=task.id).update(status=TaskResultStatus.FAILED)

    def kept_alive(self, worker: str) -> AbstractContextManager[None]:
        return kept_alive(worker)

    def is_alive(self, worker: str) -> bool:
        return is_alive(worker)

    def living_workers(self) -> int:
        return living_workers()

    def work(self, worker: str, interval_s: float) -> None:
        call_command(
            "db_worker",
            worker_id=worker,
            interval=interval_s,
            startup_delay=False,
            reload=False,
        )
