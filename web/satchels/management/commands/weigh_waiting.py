"""Have documents weighed that wait for it, as after an update that changes weight sheets."""

from typing import Any

from django.core.management.base import BaseCommand

from web.satchels.models import Document
from web.satchels.tasks import weigh_document


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        waiting = Document.objects.filter(state=Document.State.WAITING)
        for document in waiting:
            # One that is in the queue already is claimed by whoever comes first.
            weigh_document.enqueue(str(document.pk))
        self.stdout.write(f"{len(waiting)} documents to be weighed")
