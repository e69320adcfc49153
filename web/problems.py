"""Errors as problem+json (RFC 9457): one place for codes, statuses and words."""

import errno
import sqlite3
from typing import Any

from django.db import OperationalError
from django.http import Http404, HttpRequest, JsonResponse
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import exception_handler

from lighten import LightenError

__all__ = ["Problem", "as_problem", "csrf_failed", "no_room"]

_STATUS_BY_CODE = {"unsupported": 415, "too_large": 413}


class Problem(exceptions.APIException):
    """A request that cannot be done, with what to do instead."""

    status_code = 409

    def __init__(self, code: str, message: str, *, status: int = 409) -> None:
        super().__init__(detail=message, code=code)
        self.code = code
        self.status_code = status


def no_room(name: str) -> Problem:
    """The disk is full (RFC 4918, 11.5)."""
    return Problem(
        "no_room",
        f"There is no room left on the server's disk: {name}. Nothing was kept of this. Delete "
        "satchels that are done, or tell whoever looks after the server.",
        status=507,
    )


def csrf_failed(_request: HttpRequest, reason: str = "") -> JsonResponse:
    """To a change that did not come from a page of ours."""
    body = {
        "code": "not_from_here",
        "detail": "This did not come from a page of this application, or the page is out of date. "
        "Load it again.",
        "status": 403,
    }
    return JsonResponse(body, status=403, content_type="application/problem+json")


def as_problem(error: Exception, context: dict[str, Any]) -> Response | None:
    """Return the response for a known error; None for a fault of ours."""
    if isinstance(error, LightenError):
        status = _STATUS_BY_CODE.get(error.code, 422)
        return _response(error.code, error.message, status)
    if _is_disk_full(error):
        error = no_room("it filled up meanwhile")
    elif isinstance(error, FileNotFoundError):
        # Somebody deleted it while this was being answered.
        error = Problem("gone", "A file of this has been deleted. Load the page again.", status=404)
    response = exception_handler(error, context)
    if response is None:
        return None
    code = "not_found" if isinstance(error, Http404) else getattr(error, "code", None)
    if code is None:
        code = getattr(error, "default_code", "failed")
    answer = _response(str(code), _words(response.data), response.status_code)
    for header in ("WWW-Authenticate", "Retry-After"):
        if header in response:
            answer[header] = response[header]
    return answer


def _is_disk_full(error: BaseException) -> bool:
    """A write failed for want of room, in the file system or in the database."""
    if isinstance(error, OperationalError):
        cause = error.__cause__
        return getattr(cause, "sqlite_errorcode", None) == sqlite3.SQLITE_FULL
    return isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)


def _response(code: str, message: str, status: int) -> Response:
    body = {"code": code, "detail": message, "status": status}
    return Response(body, status=status, content_type="application/problem+json")


def _words(data: Any) -> str:
    """Return the first message of a framework error, in any of its shapes."""
    while isinstance(data, dict | list) and data:
        if isinstance(data, dict):
            name, data = next(iter(data.items()))
            if name not in ("detail", "non_field_errors") and isinstance(data, list) and data:
                return f"{name}: {data[0]}"
        else:
            data = data[0]
    return str(data)
