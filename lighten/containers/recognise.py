"""Recognition of packages by the names of their members, in sound and damaged files."""

import re

from lighten.model.source import Source

__all__ = ["OLE_MARK", "ZIP_MARK", "has_ole_mark", "is_locked_package", "names_member"]

OLE_MARK = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
ZIP_MARK = b"PK\x03\x04"
# A locked document of any kind lies in a stream of that name, in two bytes a letter.
_LOCKED = "EncryptedPackage".encode("utf-16-le")
_LOOKED_AT = 4_000_000


def names_member(source: Source, names: re.Pattern[bytes]) -> bool:
    """Return whether it is an archive with a member of such a name. Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
        if not head.startswith(ZIP_MARK):
            return False
        if names.search(head):
            return True
        # The list of members is at the end.
        file.seek(max(0, source.path.stat().st_size - _LOOKED_AT))
        return bool(names.search(file.read()))


def has_ole_mark(source: Source) -> bool:
    """A compound file, as office files of before 2007 and locked ones are. Raises: OSError."""
    with source.path.open("rb") as file:
        return file.read(len(OLE_MARK)) == OLE_MARK


def is_locked_package(source: Source) -> bool:
    """An office file of any kind that is locked with a password. Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    return head.startswith(OLE_MARK) and _LOCKED in head
