"""Logs of events in lines for machines: ids, and no names of files.

`GREEN_SATCHEL_LOG=json` has every line written as one JSON object, from INFO up.
"""

import logging
import time
from collections.abc import Mapping
from contextvars import ContextVar
from types import MappingProxyType
from typing import Any

__all__ = ["AboutWork", "log_tasks"]

logger = logging.getLogger(__name__)
_ids: ContextVar[Mapping[str, str]] = ContextVar("ids", default=MappingProxyType({}))
_began: ContextVar[float] = ContextVar("began", default=0.0)


class AboutWork(logging.Filter):
    """Adds the task that this thread is at, and the ids that it is about."""

    def filter(self, record: logging.LogRecord) -> bool:
        for name, id_ in _ids.get().items():
            setattr(record, name, id_)
        return True


def log_tasks() -> None:
    """Begin and end of every task that this process does."""
    from django_tasks.signals import task_finished, task_started

    task_started.connect(_on_start)
    task_finished.connect(_on_end)


def _on_start(task_result: Any, **_described: Any) -> None:
    # Tasks take ids, so that what they were given tells what they are about.
    name, ids = task_result.task.name, [str(id_) for id_ in task_result.args]
    _ids.set({"task": str(task_result.id), "task_name": name, "about": " ".join(ids)})
    _began.set(time.monotonic())
    logger.info("task began")


def _on_end(task_result: Any, **_described: Any) -> None:
    seconds = round(time.monotonic() - _began.get(), 3)
    outcome = str(task_result.status).lower()
    logger.info("task ended", extra={"seconds": seconds, "outcome": outcome})
    _ids.set({})
