"""The page behind a link, for whoever has it: what it is, how heavy, until when; and the file."""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TypeVar

from django.core import signing
from django.db.models import F
from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_http_methods

from lighten import rounded_size
from web.satchels.copies.copies_zip import files_of
from web.satchels.http import attachment
from web.satchels.models import Copy, HandOver

__all__ = ["show_link", "take_over"]

_RANGE = re.compile(r"bytes=(\d*)-(\d*)")
_CHUNK_BYTES = 1 << 18
_OPENED_FOR_S = 3600

Answer = TypeVar("Answer", bound=HttpResponseBase)


@require_http_methods(["GET", "POST"])
def show_link(request: HttpRequest, token: str) -> HttpResponse:
    """Show the contents of a share link; with a password, only after it was given."""
    link = _open_link(token)
    if link is None:
        return _quiet(render(request, "hand_over_ended.html", status=404))
    if request.method == "POST":
        if link.check_password(request.POST.get("password", "")):
            answer = redirect("hand-over", token=token)
            answer.set_signed_cookie(
                _cookie(link),
                "opened",
                max_age=_OPENED_FOR_S,
                httponly=True,
                samesite="Lax",
                secure=request.is_secure(),
            )
            return answer
        return _quiet(render(request, "hand_over.html", {"asks": True, "is_wrong": True}))
    if not _is_opened(request, link):
        return _quiet(render(request, "hand_over.html", {"asks": True}))
    name, path = _file_of(link)
    context = {
        "name": name,
        "size": rounded_size(path.stat().st_size),
        "size_bytes": path.stat().st_size,
        "ends_at": link.ends_at,
        "sha256": link.sha256,
        "token": token,
    }
    return _quiet(render(request, "hand_over.html", context))


@require_GET
def take_over(request: HttpRequest, token: str) -> HttpResponseBase:
    """Return the file or the requested range of it (RFC 9110, 14)."""
    link = _open_link(token)
    if link is None:
        return _quiet(render(request, "hand_over_ended.html", status=404))
    if not _is_opened(request, link):
        return redirect("hand-over", token=token)
    name, path = _file_of(link)
    size = path.stat().st_size
    tag = f'"{link.sha256 or link.pk}"'
    wanted = _wanted(request, size, tag)
    if wanted is None:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    first, last = wanted
    if first == 0:
        HandOver.objects.filter(pk=link.pk).update(downloads=F("downloads") + 1)
    answer: FileResponse | StreamingHttpResponse
    if (first, last) == (0, size - 1):
        answer = attachment(path.open("rb"), name)
    else:
        answer = StreamingHttpResponse(
            _part(path, first, last),
            status=206,
            content_type="application/octet-stream",
            headers={
                "Content-Range": f"bytes {first}-{last}/{size}",
                "Content-Length": str(last - first + 1),
                "Content-Disposition": content_disposition_header(True, name) or "attachment",
            },
        )
    answer["Accept-Ranges"] = "bytes"
    answer["ETag"] = tag
    return _quiet(answer)


def _open_link(token: str) -> HandOver | None:
    links = HandOver.objects.select_related("copy__document__satchel")
    link = links.filter(token=token, copy__state=Copy.State.DONE).first()
    return link if link is not None and link.is_open else None


def _file_of(link: HandOver) -> tuple[str, Path]:
    """Return the file of a link, never split: links have no limit."""
    copy = link.copy
    if copy.pieces:
        return copy.document.satchel.copy_name(copy.document, copy), copy.path
    return files_of(copy)[0]


def _cookie(link: HandOver) -> str:
    return f"hand-over-{link.pk}"


def _is_opened(request: HttpRequest, link: HandOver) -> bool:
    if not link.password:
        return True
    try:
        request.get_signed_cookie(_cookie(link), max_age=_OPENED_FOR_S)
    except (KeyError, signing.BadSignature):
        return False
    return True


def _wanted(request: HttpRequest, size: int, tag: str) -> tuple[int, int] | None:
    """Return first and last byte of a range; None if it is unsatisfiable."""
    match = _RANGE.fullmatch(request.headers.get("Range", ""))
    is_other = request.headers.get("If-Range", tag) != tag
    if match is None or is_other or not (match[1] or match[2]):
        return 0, size - 1
    if not match[1]:
        return (max(0, size - int(match[2])), size - 1) if int(match[2]) else None
    first = int(match[1])
    if match[2] and int(match[2]) < first:
        return 0, size - 1  # no part that anybody can mean
    last = min(int(match[2]) if match[2] else size - 1, size - 1)
    return (first, last) if first <= last else None


def _part(path: Path, first: int, last: int) -> Iterator[bytes]:
    with path.open("rb") as file:
        file.seek(first)
        left = last - first + 1
        while left and (piece := file.read(min(_CHUNK_BYTES, left))):
            left -= len(piece)
            yield piece


def _quiet(answer: Answer) -> Answer:
    """Set headers that keep the link's address from leaking to other sites."""
    answer["Referrer-Policy"] = "no-referrer"
    answer["X-Robots-Tag"] = "noindex"
    return answer
