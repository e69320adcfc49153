"""Recognition of presentations of ECMA-376, sound or not."""

import re

from lighten.containers.recognise import names_member
from lighten.model.source import Source

__all__ = ["is_presentation"]

_OWN_MEMBER = re.compile(rb"ppt/(?:presentation|slides/|slideLayouts/|slideMasters/|media/|theme/)")


def is_presentation(source: Source) -> bool:
    """Raises: OSError."""
    return names_member(source, _OWN_MEMBER)
