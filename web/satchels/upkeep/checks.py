"""Checks of an installation for `manage.py check`."""

import shutil
from typing import Any

from django.core.checks import CheckMessage, Info, register

__all__ = ["office_suite"]


@register()
def office_suite(**_options: Any) -> list[CheckMessage]:
    """Proofs of text documents show pages only where a free office suite is installed."""
    if shutil.which("soffice"):
        return []
    return [
        Info(
            "No office suite here: no pages of documents in proofs, no .doc, .xls and .ppt.",
            hint="On Debian: apt-get install libreoffice-{writer,impress,calc}-nogui",
            id="satchels.I001",
        )
    ]
