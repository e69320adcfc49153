"""Members that hold the same bytes."""

import hashlib
from collections import Counter
from collections.abc import Iterable

from lighten.containers.archive import Archive

__all__ = ["equal_members"]


def equal_members(archive: Archive, names: Iterable[str]) -> dict[str, str]:
    """Return, for each name, the first member of equal content; its own where it is the first."""
    firsts: dict[tuple[int, int, bytes], str] = {}
    by_name: dict[str, str] = {}
    listed = list(names)
    # Length and checksum differ for nearly all that differ, and are known without unpacking.
    marks = [(archive.members[name].size_bytes, archive.members[name].crc) for name in listed]
    counts = Counter(marks)
    for name, mark in zip(listed, marks, strict=True):
        is_alone = counts[mark] == 1
        digest = b"" if is_alone else hashlib.sha256(archive.content(name)).digest()
        by_name[name] = firsts.setdefault((*mark, digest), name)
    return by_name
