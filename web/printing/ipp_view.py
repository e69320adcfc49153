"""Printing by programs: IPP over HTTP (RFC 8010, 4), under the secret address of a queue."""

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.csrf import csrf_exempt

from printers import BadMessageError, answer, read_message, write_message
from web.printing.desk import QueueDesk
from web.printing.models import PrintQueue

__all__ = ["ipp_uri", "print_to"]

_MEDIA_TYPE = "application/ipp"


# The address is the permission, and no browser has it: there is no session to be misused.
@csrf_exempt
def print_to(request: HttpRequest, token: str, job: int = 0) -> HttpResponse:
    if request.method != "POST" or request.content_type != _MEDIA_TYPE:
        return HttpResponse("A printer: print to it.", status=405, content_type="text/plain")
    queue = PrintQueue.objects.select_related("owner").filter(token=token).first()
    if queue is None:
        return HttpResponse(status=404)
    try:
        message = read_message(request)  # type: ignore[arg-type] # it reads as a file does
    except BadMessageError as error:
        return HttpResponse(str(error), status=400, content_type="text/plain")
    desk = QueueDesk(queue, ipp_uri(request, queue), request.build_absolute_uri("/intake"))
    reply = write_message(answer(message, request, desk))  # type: ignore[arg-type]
    return HttpResponse(reply, content_type=_MEDIA_TYPE)


def ipp_uri(request: HttpRequest, queue: PrintQueue) -> str:
    """The address of a queue as programs are given it."""
    scheme = "ipps" if request.is_secure() else "ipp"
    path = reverse("print-to", args=[queue.token])
    host = request.get_host()
    # Without a port the protocol's own would be taken.
    if ":" not in host.rpartition("]")[2]:
        host = f"{host}:{443 if request.is_secure() else 80}"
    return f"{scheme}://{host}{path}"
