"""Engine of the queue, chosen by the settings."""

from functools import cache

from django.conf import settings

from web.queue.task_queue import TaskQueue

__all__ = ["task_queue"]


@cache
def task_queue() -> TaskQueue:
    """Return the task queue that the settings name."""
    if settings.REDIS_URL:
        from web.queue.redis_queue import RedisQueue

        return RedisQueue()
    from web.queue.database_queue import DatabaseQueue

    return DatabaseQueue()
