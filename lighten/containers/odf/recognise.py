"""What kind of OpenDocument a file is, sound or not."""

import re

from lighten.source import Source

__all__ = ["is_open_document"]

# The first member, stored, so that the kind can be read at a place that is known (part 3, 3.3).
_AT_START = re.compile(
    rb"PK\x03\x04.{26}mimetype.{0,64}?application/vnd\.oasis\.opendocument\.([a-z]+)", re.DOTALL
)
_LOOKED_AT = 4096


def is_open_document(source: Source, kind: str) -> bool:
    """kind: as "text". Raises: OSError."""
    with source.path.open("rb") as file:
        found = _AT_START.match(file.read(_LOOKED_AT))
    return found is not None and found[1].decode() == kind
