"""Recognition of text documents of ECMA-376, sound or not."""

import re

from lighten.containers.recognise import is_locked_package, names_member
from lighten.model.source import Source

__all__ = ["is_text_document"]

_OWN_MEMBER = re.compile(rb"word/(?:document|styles|settings|fontTable|media/|theme/)")


def is_text_document(source: Source) -> bool:
    """A locked one of any kind counts, as nothing says of which it is. Raises: OSError."""
    return names_member(source, _OWN_MEMBER) or is_locked_package(source)
