"""What a file is by the names of its members, sound or not: a cut one has some of them still."""

import re

from lighten.source import Source

__all__ = ["OLE_MARK", "is_locked_package", "is_old_office_file", "names_member"]

OLE_MARK = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
_ZIP_MARK = b"PK\x03\x04"
# A locked document of any kind lies in a stream of that name, in two bytes a letter.
_LOCKED = "EncryptedPackage".encode("utf-16-le")
_OLD_STREAMS = tuple(
    name.encode("utf-16-le") for name in ("WordDocument", "Workbook", "PowerPoint Document", "Book")
)
_LOOKED_AT = 4_000_000


def names_member(source: Source, names: re.Pattern[bytes]) -> bool:
    """It is an archive, and the head of a member has such a name. Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
        if not head.startswith(_ZIP_MARK):
            return False
        if names.search(head):
            return True
        # The list of members is at the end.
        file.seek(max(0, source.path.stat().st_size - _LOOKED_AT))
        return bool(names.search(file.read()))


def is_old_office_file(source: Source) -> bool:
    """A document of before 2007, by the streams within it. Raises: OSError."""
    with source.path.open("rb") as file:
        content = file.read(_LOOKED_AT)
        file.seek(max(0, source.path.stat().st_size - _LOOKED_AT))
        content += file.read()
    return content.startswith(OLE_MARK) and any(name in content for name in _OLD_STREAMS)


def is_locked_package(source: Source) -> bool:
    """An office file of any kind that is locked with a password. Raises: OSError."""
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    return head.startswith(OLE_MARK) and _LOCKED in head
