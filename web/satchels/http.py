"""Helpers for the views of satchels."""

from typing import Any, cast

from django.contrib.auth.models import User
from django.http import FileResponse, HttpRequest
from drf_spectacular.types import OpenApiTypes
from rest_framework.request import Request

__all__ = ["BINARY", "account_of", "attachment"]

# Of the schema: a file that no browser shows.
BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}


def account_of(request: Request | HttpRequest) -> User:
    return cast(User, request.user)


def attachment(file: Any, name: str) -> FileResponse:
    """A download that no browser opens by itself."""
    return FileResponse(
        file, as_attachment=True, filename=name, content_type="application/octet-stream"
    )
