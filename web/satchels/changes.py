"""Changes on a bench since a moment, so that pages need not fetch all of it."""

from datetime import UTC, datetime, timedelta
from typing import Any

from django.conf import settings
from django.utils import timezone
from rest_framework import serializers

from web.satchels.models import Copy, Satchel
from web.satchels.serializers import (
    ASKED_SOON_MS,
    DocumentSerializer,
    RunSerializer,
    show_documents,
)
from web.satchels.sheets.orders import orders_of

__all__ = ["ChangesSerializer", "SinceSerializer", "changes_of"]

# Rows are dated a moment before others can see them, and on several machines by several clocks: so
# far back they are told once more.
_OVERLAP, _CLOCKS_APART = timedelta(seconds=2), timedelta(seconds=30)
_ASKED_LATER_MS = 2000
_BEFORE_ALL = datetime(2000, 1, 1, tzinfo=UTC)


class SinceSerializer(serializers.Serializer[Any]):
    """since: `as_of` of what is shown."""

    since = serializers.DateTimeField()


class ChangesSerializer(serializers.Serializer[Any]):
    """Changes on the bench since a moment.

    as_of: from when to ask the next time. choices_mark: see `Satchel`. documents: new ones and
    changed ones. document_count: of all, which tells that some have gone. ask_again_ms: after how
    long; what waits for its turn behind others' is asked after less often, so that all go on.
    """

    as_of = serializers.DateTimeField()
    ask_again_ms = serializers.IntegerField()
    choices_mark = serializers.CharField()
    document_count = serializers.IntegerField()
    documents = DocumentSerializer(many=True)
    run = RunSerializer(allow_null=True)


def changes_of(satchel: Satchel, since: datetime) -> dict[str, Any]:
    """Return the changes in the form of `ChangesSerializer`."""
    as_of = timezone.now()
    dated = max(since, _BEFORE_ALL) - (_CLOCKS_APART if settings.REDIS_URL else _OVERLAP)
    copies = Copy.objects.filter(document__satchel=satchel, changed_at__gte=dated)
    changed = {
        *satchel.documents.filter(changed_at__gte=dated).order_by().values_list("pk", flat=True),
        *copies.order_by().values_list("document", flat=True),
    }
    run = satchel.runs.first()
    return {
        "as_of": as_of,
        "ask_again_ms": ASKED_SOON_MS if changed else _ASKED_LATER_MS,
        "choices_mark": satchel.choices_mark,
        "document_count": satchel.documents.count(),
        # Most often nothing is new, and this is asked for all the time.
        "documents": show_documents(satchel, orders_of(satchel), changed) if changed else [],
        "run": RunSerializer(run).data if run else None,
    }
