"""Have documents weighed that wait for it, as after an update that changes weight sheets."""

from typing import Any

from django.core.management.base import BaseCommand

from web.satchels.models import Document
from web.satchels.upkeep.recovery import take_up_lost


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        take_up_lost(after_s=0)
        waiting = Document.objects.filter(state=Document.State.WAITING)
        self.stdout.write(f"{waiting.count()} documents to be weighed")
