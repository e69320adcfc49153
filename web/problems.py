"""Errors as problem+json (RFC 9457): one place for codes, statuses and words."""

from typing import Any

from django.http import Http404
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import exception_handler

from lighten import LightenError

__all__ = ["Problem", "as_problem"]

_STATUS_BY_CODE = {"unsupported": 415, "too_large": 413}


class Problem(exceptions.APIException):
    """A request that cannot be done, with what to do instead."""

    status_code = 409

    def __init__(self, code: str, message: str, *, status: int = 409) -> None:
        super().__init__(detail=message, code=code)
        self.code = code
        self.status_code = status


def as_problem(error: Exception, context: dict[str, Any]) -> Response | None:
    """The answer to a request that ended in `error`; None for what is a fault of ours."""
    if isinstance(error, LightenError):
        status = _STATUS_BY_CODE.get(error.code, 422)
        return _response(error.code, error.message, status)
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


def _response(code: str, message: str, status: int) -> Response:
    body = {"code": code, "detail": message, "status": status}
    return Response(body, status=status, content_type="application/problem+json")


def _words(data: Any) -> str:
    """The first sentence in whatever shape the framework reports an error."""
    while isinstance(data, dict | list) and data:
        if isinstance(data, dict):
            name, data = next(iter(data.items()))
            if name not in ("detail", "non_field_errors") and isinstance(data, list) and data:
                return f"{name}: {data[0]}"
        else:
            data = data[0]
    return str(data)
