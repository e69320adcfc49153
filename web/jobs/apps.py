from typing import cast

from django.apps import AppConfig, apps

from web.jobs.nursery import Nursery
from web.logs import log_tasks

__all__ = ["JobsConfig", "nursery"]


class JobsConfig(AppConfig):
    """Owns what this process forks its jobs from, and has its tasks logged."""

    name = "web.jobs"

    def ready(self) -> None:
        self.nursery = Nursery()
        log_tasks()


def nursery() -> Nursery:
    """The one of this process."""
    return cast(JobsConfig, apps.get_app_config("jobs")).nursery
