"""Whether a file is a text document of ISO/IEC 26300, sound or not."""

import re

from lighten.source import Source

__all__ = ["is_open_document_text"]

# The first member, stored, so that the kind can be read at a place that is known (part 3, 3.3).
_AT_START = re.compile(
    rb"PK\x03\x04.{26}mimetype.{0,64}?application/vnd\.oasis\.opendocument\.text(?:-template)?PK",
    re.DOTALL,
)
_LOOKED_AT = 4096
_OTHERWISE = b"mimetypeapplication/vnd.oasis.opendocument.text"


def is_open_document_text(source: Source) -> bool:
    """Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    if not head.startswith(b"PK\x03\x04"):
        return False
    return _AT_START.match(head) is not None or head.find(_OTHERWISE) == 30
