"""Delete satchels that nobody has changed for the stated number of days."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.utils import timezone

from web.satchels.models import Satchel


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        oldest = timezone.now() - timedelta(days=settings.KEPT_DAYS)
        old = list(Satchel.objects.filter(changed_at__lt=oldest))
        for satchel in old:
            satchel.remove()
        self.stdout.write(f"{len(old)} satchels of more than {settings.KEPT_DAYS} days deleted")
