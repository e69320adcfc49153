"""Files that come in: refused before they are written where they are too much."""

from typing import Any

from django.conf import settings
from django.core.files.uploadhandler import TemporaryFileUploadHandler

from web.disk_room import check_room
from web.problems import Problem

__all__ = ["CheckedUploadHandler"]

_FORM_OVERHEAD_BYTES = 10_000


class CheckedUploadHandler(TemporaryFileUploadHandler):
    """Asks first. A view would come too late: looking for the CSRF token reads the whole form."""

    def handle_raw_input(
        self,
        input_data: Any,
        META: Any,  # noqa: N803 - Django's name
        content_length: int,
        boundary: Any,
        encoding: str | None = None,
    ) -> None:
        """Raises: Problem."""
        if content_length > settings.UPLOAD_LIMIT_BYTES + _FORM_OVERHEAD_BYTES:
            most = settings.UPLOAD_LIMIT_BYTES // 1_000_000
            raise Problem(
                "too_large", f"A file may have at most {most} MB. Split it first.", status=413
            )
        check_room(content_length)
