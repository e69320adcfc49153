"""What every view of this noun needs."""

from typing import Any, cast

from django.conf import settings
from django.contrib.auth.models import User
from django.http import FileResponse, HttpRequest
from drf_spectacular.types import OpenApiTypes
from rest_framework.request import Request

from web.problems import Problem

__all__ = ["BINARY", "account_of", "attachment", "check_upload_size"]

_FORM_OVERHEAD_BYTES = 10_000
# Of the schema: a file that no browser shows.
BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}


def account_of(request: Request | HttpRequest) -> User:
    return cast(User, request.user)


def check_upload_size(request: Request) -> None:
    """Refuse what is too much before it is read."""
    length = int(request.META.get("CONTENT_LENGTH") or 0)
    if length > settings.UPLOAD_LIMIT_BYTES + _FORM_OVERHEAD_BYTES:
        most = settings.UPLOAD_LIMIT_BYTES // 1_000_000
        raise Problem(
            "too_large", f"A file may have at most {most} MB. Split it first.", status=413
        )


def attachment(file: Any, name: str) -> FileResponse:
    """A download that no browser opens by itself."""
    return FileResponse(
        file, as_attachment=True, filename=name, content_type="application/octet-stream"
    )
