"""Preparation of an installation before its server and workers start."""

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from web.satchels.upkeep.leftovers import sweep_leftovers


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Prepare in one process, as each start of Django would take a second."""
        call_command("migrate", verbosity=0)
        # Workers of other machines may be at work.
        sweep_leftovers(is_nobody_at_work=not settings.REDIS_URL)
        call_command("weigh_waiting", stdout=self.stdout)
