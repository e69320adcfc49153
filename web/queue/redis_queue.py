"""The queue in Redis (rq), for workers on several machines.

rq knows no priorities: each has a queue of its own, and workers look at the most urgent first.
"""

import contextlib
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

import django_rq
from django.db import DatabaseError, close_old_connections
from django.utils import timezone
from django_tasks.base import Task, TaskResult
from django_tasks_rq import Job, RQBackend
from redis.exceptions import RedisError
from rq import Queue, SimpleWorker
from rq.exceptions import NoSuchJobError
from rq.executions import Execution
from rq.job import Job as BaseJob
from rq.job import JobStatus
from rq.registry import StartedJobRegistry

from web.problems import Problem
from web.queue.priorities import PRIORITIES, queue_name
from web.queue.task_queue import BegunTask, Waiting

__all__ = ["PrioritisedBackend", "RedisQueue"]

# How long a worker counts as alive that says nothing, and how often it says so.
_ALIVE_S, _SAID_EVERY_S = 16, 4.0
_A_DAY_S = 86_400
_ALIVE = "green-satchel:worker:"


class PrioritisedBackend(RQBackend):
    """Puts each task into the queue of its priority. Raises: Problem where Redis is gone."""

    supports_priority = True

    def enqueue(self, task: Task[Any, Any], args: Any, kwargs: Any) -> TaskResult[Any]:
        if task.queue_name == "default":
            task = task.using(priority=0, queue_name=queue_name(task.priority))
        try:
            return super().enqueue(task, args, kwargs)
        except RedisError as error:
            raise Problem(
                "no_queue",
                "The queue of work does not answer just now. Documents that you brought are kept, "
                "and are worked on once it does; try anything else again then.",
                status=503,
            ) from error


class _Worker(SimpleWorker):
    """Does tasks in its own process, as their jobs are done in others."""

    def get_heartbeat_ttl(self, job: BaseJob, working_time: float = 0.0) -> int:
        """Others look by themselves whether it is alive; a task may take as long as it takes."""
        return _A_DAY_S

    def perform_job(self, *args: Any, **options: Any) -> bool:
        close_old_connections()
        try:
            return bool(super().perform_job(*args, **options))
        finally:
            close_old_connections()


class RedisQueue:
    """`TaskQueue` in Redis."""

    errors: tuple[type[Exception], ...] = (RedisError, DatabaseError)

    def __init__(self) -> None:
        self._redis = django_rq.get_connection()

    def waiting(self) -> Waiting:
        queues = self._queues()
        firsts = self._jobs([id_ for queue in queues for id_ in queue.get_job_ids(0, 1)])
        since = [job.enqueued_at for job in firsts if job.enqueued_at is not None]
        oldest_s = (timezone.now() - min(since)).total_seconds() if since else 0.0
        return Waiting(count=sum(self._lengths(PRIORITIES)), oldest_s=oldest_s)

    def waiting_about(self) -> set[str]:
        ids = [id_ for queue in self._queues() for id_ in queue.get_job_ids()]
        return {str(argument) for job in self._jobs(ids) for argument in job.args}

    def has_more_urgent(self, priority: int) -> bool:
        return any(self._lengths([higher for higher in PRIORITIES if higher > priority]))

    def begun(self) -> Iterator[BegunTask]:
        for queue in self._queues():
            for job_id, execution_id in self._begun_in(queue):
                for job in self._jobs([job_id]):
                    yield BegunTask(
                        id=job.id,
                        about=tuple(map(str, job.args)),
                        worker=self._worker_of(job_id, execution_id),
                        tries=job.meta.get("tries", 0) + 1,
                    )

    def hand_back(self, task: BegunTask) -> None:
        for job, queue in self._taken_from(task):
            job.meta["tries"] = task.tries
            job.set_status(JobStatus.QUEUED)
            job.save()
            queue.push_job_id(job.id, at_front=True)

    def give_up(self, task: BegunTask) -> None:
        for job, _queue in self._taken_from(task):
            job.delete()

    @contextmanager
    def kept_alive(self, worker: str) -> Iterator[None]:
        is_ended = threading.Event()

        def say() -> None:
            self._redis.set(_ALIVE + worker, "", ex=_ALIVE_S)

        def keep_saying() -> None:
            while not is_ended.wait(_SAID_EVERY_S):
                # It does without for a moment: whoever looks later finds it alive again.
                with contextlib.suppress(RedisError):
                    say()

        say()
        threading.Thread(target=keep_saying, daemon=True).start()
        try:
            yield
        finally:
            is_ended.set()
            self._redis.delete(_ALIVE + worker)

    def is_alive(self, worker: str) -> bool:
        return bool(self._redis.exists(_ALIVE + worker))

    def living_workers(self) -> int:
        return sum(1 for _ in self._redis.scan_iter(match=_ALIVE + "*"))

    def work(self, worker: str, interval_s: float) -> None:
        """Told of new tasks at once, so that there is no interval."""
        _Worker(self._queues(), connection=self._redis, name=worker, job_class=Job).work()

    def _taken_from(self, task: BegunTask) -> Iterator[tuple[BaseJob, Queue]]:
        """The task, which is begun no more; nothing where another has taken it already."""
        for job in self._jobs([task.id]):
            queue = self._queue(job.origin)
            entries = [f"{id_}:{execution}" for id_, execution in self._begun_in(queue)]
            own = [entry for entry in entries if entry.startswith(f"{job.id}:")]
            if own and self._redis.zrem(StartedJobRegistry(queue=queue).key, *own):
                yield job, queue

    def _begun_in(self, queue: Queue) -> list[tuple[str, str]]:
        """Return the id of each task that was begun, and that of the attempt."""
        return StartedJobRegistry(queue=queue).get_job_and_execution_ids(cleanup=False)

    def _worker_of(self, job_id: str, execution_id: str) -> str:
        """The job itself learns of it later."""
        try:
            return Execution.fetch(execution_id, job_id, self._redis).worker_name
        except ValueError:
            return ""

    def _queue(self, name: str) -> Queue:
        return django_rq.get_queue(name, job_class=Job, connection=self._redis)

    def _queues(self) -> list[Queue]:
        """The most urgent first."""
        return [self._queue(queue_name(priority)) for priority in PRIORITIES]

    def _lengths(self, priorities: Iterable[int]) -> list[int]:
        with self._redis.pipeline() as pipeline:
            for priority in priorities:
                pipeline.llen(Queue.redis_queue_namespace_prefix + queue_name(priority))
            return list(pipeline.execute())

    def _jobs(self, ids: Iterable[str]) -> Iterator[BaseJob]:
        """Those that are there still."""
        for id_ in ids:
            with contextlib.suppress(NoSuchJobError):
                yield Job.fetch(id_, connection=self._redis)
