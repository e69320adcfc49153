"""Delete what nobody has changed for the stated number of days."""

from datetime import timedelta
from typing import Any

from django.apps import apps
from django.conf import settings
from django.core.management.base import BaseCommand
from django.utils import timezone


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Delete expired rows of every model that has a retention."""
        moment = timezone.now() - timedelta(days=settings.KEPT_DAYS)
        for model in apps.get_models():
            if forget_before := getattr(model, "forget_before", None):
                count, title = forget_before(moment), model._meta.verbose_name_plural
                days = settings.KEPT_DAYS
                self.stdout.write(f"{count} {title} of more than {days} days deleted")
