"""Whether a file is a text document of ECMA-376, sound or not."""

import re

from lighten.source import Source

__all__ = ["OLE_MARK", "is_text_document"]

_ZIP_MARK = b"PK\x03\x04"
OLE_MARK = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
# In the heads of members, which come one after another; a cut file has some of them still.
_OWN_MEMBER = re.compile(rb"word/(?:document|styles|settings|fontTable|media/|theme/)")
# A locked document of any kind lies in a stream of that name, in two bytes a letter.
_LOCKED = "EncryptedPackage".encode("utf-16-le")
_LOOKED_AT = 4_000_000


def is_text_document(source: Source) -> bool:
    """Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
        if head.startswith(OLE_MARK):
            return _LOCKED in head
        if not head.startswith(_ZIP_MARK):
            return False
        if _OWN_MEMBER.search(head):
            return True
        # The list of members is at the end.
        file.seek(max(0, source.path.stat().st_size - _LOOKED_AT))
        return bool(_OWN_MEMBER.search(file.read()))
