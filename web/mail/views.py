"""The copies of a run by mail: to download, or sent from here; each account sees its own."""

import io

from django.conf import settings
from django.db import transaction
from django.http import FileResponse
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.decorators import api_view
from rest_framework.request import Request
from rest_framework.response import Response

from web.mail.models import Sending
from web.mail.run_messages import message_limit, messages_of
from web.mail.serializers import MailSerializer, SendingSerializer, SendRequestSerializer
from web.mail.tasks import send_messages
from web.problems import Problem
from web.satchels.http import BINARY, account_of, attachment
from web.satchels.models import Run

__all__ = ["download_message", "run_mail", "send_mail"]


@extend_schema(responses=MailSerializer)
@api_view(["GET"])
def run_mail(request: Request, id: str) -> Response:
    """Return the copies of a run as messages, and the recipients they were sent to."""
    run = _run(request, id)
    most = message_limit(run)
    values = {
        "messages": [
            {
                "number": number,
                "subject": message.subject,
                "size_bytes": message.size_bytes,
                "fits": most is None or message.size_bytes <= most,
                "files": [one.name for one in message.attachments],
            }
            for number, message in enumerate(messages_of(run), start=1)
        ],
        "can_send": settings.HAS_MAIL,
        "sendings": run.sendings.all(),
    }
    return Response(MailSerializer(values).data)


@extend_schema(responses=BINARY)
@api_view(["GET"])
def download_message(request: Request, id: str, number: int) -> FileResponse:
    """One message as a file that mail programs open."""
    messages = messages_of(_run(request, id))
    if not 1 <= number <= len(messages):
        raise Problem("no_such_message", "There is no such message.", status=404)
    return attachment(io.BytesIO(messages[number - 1].as_bytes()), f"message-{number}.eml")


@extend_schema(request=SendRequestSerializer, responses=SendingSerializer)
@api_view(["POST"])
def send_mail(request: Request, id: str) -> Response:
    """Send the messages to those addresses."""
    run = _run(request, id)
    if not settings.HAS_MAIL:
        raise Problem("no_mail", "No mail server is set up here. Download the messages instead.")
    serializer = SendRequestSerializer(data=request.data)
    serializer.is_valid(raise_exception=True)
    if not messages_of(run):
        raise Problem("no_copies", "There is no copy to send yet.")
    if Sending.in_last_hour(account_of(request)) >= settings.MAIL_LIMIT_AN_HOUR:
        raise Problem(
            "too_many", "That is all that may be sent in an hour. Wait a while.", status=429
        )
    receivers = list(dict.fromkeys(serializer.validated_data["receivers"]))
    with transaction.atomic():
        sending = Sending.objects.create(run=run, receivers=receivers)
        transaction.on_commit(lambda: send_messages.enqueue(str(sending.pk)))
    return Response(SendingSerializer(sending).data, status=status.HTTP_201_CREATED)


def _run(request: Request, pk: str) -> Run:
    runs = Run.objects.filter(satchel__owner=account_of(request)).select_related("satchel")
    run = runs.filter(pk=pk).first()
    if run is None:
        raise Problem("not_found", "There is no such run here.", status=404)
    return run
