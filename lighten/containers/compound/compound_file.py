"""A compound file as a tree, and the tree as a file again ([MS-CFB], version 3).

Reading is olefile's; nothing in the registries writes.
"""

import io
import struct
import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import olefile

from lighten.containers.recognise import OLE_MARK
from lighten.model.errors import UnreadableFileError

__all__ = ["DAMAGED", "Entry", "is_compound", "read_compound", "write_compound"]

# What a damaged file makes the library raise.
DAMAGED = (OSError, ValueError, IndexError, TypeError, AttributeError, OverflowError)
_SECTOR, _SMALL_SECTOR, _ENTRY = 512, 64, 128
_A_SECTOR = _SECTOR // 4  # numbers in a sector
_FREE, _END, _OF_FAT, _OF_DIFAT = 0xFFFFFFFF, 0xFFFFFFFE, 0xFFFFFFFD, 0xFFFFFFFC
_NONE = 0xFFFFFFFF
_STORAGE, _STREAM, _ROOT, _BLACK = 1, 2, 5, 1
# Smaller streams share one, in smaller sectors.
_CUTOFF = 4096
_IN_HEADER = 109
_NIL = uuid.UUID(int=0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A stream with its content, or a storage with what is in it.

    class_id: of the program it belongs to. state, created, modified: as they are stored.
    """

    name: str
    content: bytes | None = field(default=None, repr=False)
    children: tuple["Entry", ...] = ()
    class_id: uuid.UUID = _NIL
    state: int = 0
    created: int = 0
    modified: int = 0


def is_compound(content: bytes) -> bool:
    """Return whether the first bytes are those of a compound file."""
    return content.startswith(OLE_MARK)


def read_compound(content: bytes) -> Entry:
    """The root, with all that is in it. Raises: UnreadableFileError."""
    try:
        with olefile.OleFileIO(io.BytesIO(content)) as file:
            return _entry(file, file.root, (), set())
    except DAMAGED as error:
        raise UnreadableFileError("A compound file that cannot be read.") from error


def _entry(file: Any, record: Any, path: tuple[str, ...], seen: set[int]) -> Entry:
    """Read a directory entry. seen: numbers already read. Raises: UnreadableFileError."""
    if record.sid in seen:
        raise UnreadableFileError("A compound file with a folder that is within itself.")
    seen.add(record.sid)
    is_stream = record.entry_type == _STREAM
    return Entry(
        name=record.name,
        content=file.openstream(list(path)).read() if is_stream else None,
        children=tuple(_entry(file, child, (*path, child.name), seen) for child in record.kids),
        class_id=uuid.UUID(record.clsid) if record.clsid else _NIL,
        state=record.dwUserFlags,
        created=record.createTime,
        modified=record.modifyTime,
    )


def write_compound(root: Entry) -> bytes:
    """The whole file."""
    placed = list(_in_order(root))
    number = {id(entry): place for place, entry in enumerate(placed)}
    small = _Sectors(_SMALL_SECTOR)
    large = _Sectors(_SECTOR)
    starts = {}
    for entry in placed:
        if entry.content:
            home = large if len(entry.content) >= _CUTOFF else small
            starts[id(entry)] = home.put(entry.content)
    of_small = b"".join(small.sectors)
    starts[id(root)] = large.put(of_small) if of_small else _END
    links = _links(root, number)
    directory = b"".join(
        _as_stored(
            entry,
            links[id(entry)],
            start=starts.get(id(entry), _END if entry.content is not None else 0),
            size=len(of_small) if entry is root else len(entry.content or b""),
            is_root=entry is root,
        )
        for entry in placed
    )
    directory_at = large.put(directory, filled_with=_unused_entry())
    small_fat_at = large.put(_numbers(small.chain), filled_with=b"\xff") if small.chain else _END
    return _with_tables(large, directory_at, small_fat_at, -(-len(small.chain) // _A_SECTOR))


class _Sectors:
    """Sectors of one size, and of each which is next."""

    def __init__(self, size: int) -> None:
        self.sectors: list[bytes] = []
        self.chain: list[int] = []
        self._size = size

    def put(self, content: bytes, filled_with: bytes = b"\0") -> int:
        """Append a stream; return its start."""
        first, count = len(self.sectors), -(-len(content) // self._size)
        missing = count * self._size - len(content)
        content += filled_with * (missing // len(filled_with))
        self.sectors += (content[at : at + self._size] for at in range(0, len(content), self._size))
        self.chain += [*range(first + 1, first + count), _END]
        return first


def _with_tables(
    large: _Sectors, directory_at: int, small_fat_at: int, small_fat_sectors: int
) -> bytes:
    """The header, all sectors, and the table of which is next, which counts itself."""
    fat_sectors = more = 0
    while True:
        all_sectors = len(large.sectors) + fat_sectors + more
        needed = -(-all_sectors // _A_SECTOR)
        needed_more = max(0, -(-(needed - _IN_HEADER) // (_A_SECTOR - 1)))
        if (needed, needed_more) == (fat_sectors, more):
            break
        fat_sectors, more = needed, needed_more
    fat_at = len(large.sectors)
    more_at = fat_at + fat_sectors
    chain = [*large.chain, *[_OF_FAT] * fat_sectors, *[_OF_DIFAT] * more]
    fat = _numbers(chain).ljust(fat_sectors * _SECTOR, b"\xff")
    places = [*range(fat_at, more_at)]
    in_header, beyond = places[:_IN_HEADER], places[_IN_HEADER:]
    header = struct.pack(
        "<8s16x5H6x9I",
        OLE_MARK,
        *(0x3E, 3, 0xFFFE, 9, 6),
        *(0, fat_sectors, directory_at, 0, _CUTOFF, small_fat_at, small_fat_sectors),
        *(more_at if more else _END, more),
    )
    header += _numbers([*in_header, *[_FREE] * (_IN_HEADER - len(in_header))])
    tables = []
    for index in range(more):
        own = beyond[index * (_A_SECTOR - 1) : (index + 1) * (_A_SECTOR - 1)]
        following = more_at + index + 1 if index + 1 < more else _END
        own += [_FREE] * (_A_SECTOR - 1 - len(own))
        tables.append(_numbers([*own, following]))
    return header + b"".join((*large.sectors, fat, *tables))


def _numbers(values: Sequence[int]) -> bytes:
    return struct.pack(f"<{len(values)}I", *values)


def _in_order(entry: Entry) -> Iterator[Entry]:
    yield entry
    for child in entry.children:
        yield from _in_order(child)


def _links(root: Entry, number: dict[int, int]) -> dict[int, tuple[int, int, int]]:
    """Return, for each entry, its siblings in the tree of its storage, and its first child."""
    links = {id(root): (_NONE, _NONE, _NONE)}

    def grow(entries: Sequence[Entry]) -> int:
        """A balanced tree, all of whose nodes may be black; its top."""
        if not entries:
            return _NONE
        middle = len(entries) // 2
        top = entries[middle]
        before, after = grow(entries[:middle]), grow(entries[middle + 1 :])
        links[id(top)] = (before, after, _NONE)
        return number[id(top)]

    def fill(storage: Entry) -> None:
        top = grow(sorted(storage.children, key=_sorting))
        before, after, _ = links[id(storage)]
        links[id(storage)] = (before, after, top)
        for child in storage.children:
            fill(child)

    fill(root)
    return links


def _sorting(entry: Entry) -> tuple[int, str]:
    """Return the sorting key of a name: by length, then by letters without case (2.6.4)."""
    return len(entry.name.encode("utf-16-le")), entry.name.upper()


def _as_stored(
    entry: Entry, links: tuple[int, int, int], *, start: int, size: int, is_root: bool
) -> bytes:
    name = entry.name.encode("utf-16-le") + b"\0\0"
    kind = _ROOT if is_root else _STORAGE if entry.content is None else _STREAM
    return struct.pack(
        "<64sHBB3I16sI2QIQ",
        *(name, len(name), kind, _BLACK, *links, entry.class_id.bytes_le, entry.state),
        *(entry.created, entry.modified, start, size),
    )


def _unused_entry() -> bytes:
    return struct.pack("<64sHBB3I16sI2QIQ", b"", 0, 0, 0, *[_NONE] * 3, b"", 0, 0, 0, 0, 0)
