"""Recognition of workbooks of ECMA-376, sound or not."""

import re

from lighten.containers.recognise import names_member
from lighten.model.source import Source

__all__ = ["is_workbook"]

_OWN_MEMBER = re.compile(rb"xl/(?:workbook|worksheets/|styles|sharedStrings|media/|theme/)")


def is_workbook(source: Source) -> bool:
    """Raises: OSError."""
    return names_member(source, _OWN_MEMBER)
