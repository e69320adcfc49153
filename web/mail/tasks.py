"""Mail is sent in the background. What was sent is not sent again."""

import mimetypes
import smtplib

from django.conf import settings
from django.core.mail import EmailMessage, get_connection
from django_tasks import task

from web.mail.models import Sending
from web.mail.run_messages import messages_of

__all__ = ["send_messages"]

_SOON = 60


@task(priority=_SOON)
def send_messages(sending_id: str) -> None:
    """Send what is still to be sent of the messages of a run."""
    sending = Sending.objects.select_related("run__satchel").filter(pk=sending_id).first()
    if sending is None or sending.state != Sending.State.WAITING:
        return
    messages = messages_of(sending.run)
    try:
        with get_connection() as connection:
            for message in messages[sending.messages :]:
                mail = EmailMessage(
                    message.subject,
                    message.text,
                    settings.DEFAULT_FROM_EMAIL,
                    sending.receivers,
                    connection=connection,
                )
                for one in message.attachments:
                    kind = mimetypes.guess_type(one.name)[0] or "application/octet-stream"
                    mail.attach(one.name, one.path.read_bytes(), kind)
                mail.send()
                # One by one: what has gone must not go twice.
                sending.messages += 1
                sending.save(update_fields=["messages"])
    except (OSError, smtplib.SMTPException) as error:
        sent = f"{sending.messages} of {len(messages)} messages went. " if sending.messages else ""
        error_text = (
            f"{sent}The mail server did not take them ({error}). Try again, or download them."
        )
        Sending.objects.filter(pk=sending_id).update(
            state=Sending.State.FAILED, error_message=error_text
        )
        return
    Sending.objects.filter(pk=sending_id).update(state=Sending.State.SENT)
