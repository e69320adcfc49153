"""Guessing at many names from one address, held up without shutting an office out."""

from datetime import timedelta

from axes.helpers import get_client_ip_address
from axes.models import AccessAttempt, AccessLog
from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

__all__ = ["is_spraying"]


def is_spraying(request: HttpRequest, username: str) -> bool:
    """Return whether an unknown address has recently failed with too many names.

    Many people share an office's address: whoever has signed in from there before still can. How
    often one name may be tried is held down by itself (AXES_FAILURE_LIMIT).
    """
    address = get_client_ip_address(request)
    since = timezone.now() - timedelta(hours=settings.AXES_COOLOFF_TIME)
    tried = AccessAttempt.objects.filter(ip_address=address, attempt_time__gte=since)
    if tried.values("username").distinct().count() < settings.SPRAYED_NAMES_LIMIT:
        return False
    return not AccessLog.objects.filter(ip_address=address, username=username).exists()
