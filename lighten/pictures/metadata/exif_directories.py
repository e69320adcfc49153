"""The directories of an Exif block, read and laid out anew (in the form of TIFF 6.0, section 2)."""

import struct
from dataclasses import dataclass, field, replace

__all__ = [
    "EXIF_POINTER",
    "MAKERS_NOTE",
    "PLACE_POINTER",
    "POINTERS",
    "Directory",
    "Entry",
    "build_exif",
    "byte_order",
    "read_exif",
]

EXIF_POINTER, PLACE_POINTER = 0x8769, 0x8825
POINTERS = {EXIF_POINTER: "exif", PLACE_POINTER: "gps", 0xA005: "interop"}
MAKERS_NOTE = 0x927C
_THUMBNAIL, _THUMBNAIL_BYTES = 0x0201, 0x0202
_TYPE_BYTES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
_MOST_ENTRIES, _MOST_DEPTH = 2_000, 4
_ENTRY_BYTES = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One tag. value: its bytes as they are stored; offset: where, if not within the entry."""

    tag: int
    type: int
    count: int
    value: bytes
    offset: int | None = None
    directory: "Directory | None" = None

    @property
    def size_bytes(self) -> int:
        own = _ENTRY_BYTES + (len(self.value) if self.offset is not None else 0)
        return own + (self.directory.size_bytes if self.directory else 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Directory:
    """The tags of one directory, in their order; next: that follows it, as of the preview.

    thumbnail: the preview's own bytes.
    """

    entries: tuple[Entry, ...]
    next: "Directory | None" = None
    thumbnail: bytes = b""

    @property
    def size_bytes(self) -> int:
        return 6 + sum(entry.size_bytes for entry in self.entries) + len(self.thumbnail)

    def value(self, tag: int) -> Entry | None:
        return next((entry for entry in self.entries if entry.tag == tag), None)


def byte_order(content: bytes) -> str:
    """Return the byte order as in `struct`: "<" or ">"; "" for neither."""
    return {b"II": "<", b"MM": ">"}.get(content[:2], "")


def read_exif(content: bytes) -> Directory:
    """Read the first directory, with those below and after it. Raises: ValueError if unreadable."""
    order = byte_order(content)
    if not order or len(content) < 8:
        raise ValueError("it does not begin as it should")
    reader = _Reader(content, order)
    start = reader.number("I", 4)
    first = reader.directory(start, 0)
    after = reader.following(start)
    if not after or after in reader.seen:
        return first
    try:
        return replace(first, next=reader.directory(after, 0))
    except ValueError:
        return first


def build_exif(first: Directory, order: str) -> bytes:
    """A block with those directories. A maker's note keeps its place: it points into itself."""
    return _Writer(order, _note_place(first)).file(first)


def _note_place(directory: Directory) -> tuple[int, int]:
    """Return the start and end of the maker's note; (0, 0) without one."""
    for entry in directory.entries:
        if entry.tag == MAKERS_NOTE and entry.offset is not None:
            return entry.offset, entry.offset + len(entry.value)
        if entry.directory is not None and (place := _note_place(entry.directory)) != (0, 0):
            return place
    return 0, 0


@dataclass(slots=True)
class _Reader:
    data: bytes
    order: str
    seen: set[int] = field(default_factory=set)

    def number(self, form: str, at: int) -> int:
        size = struct.calcsize(form)
        if at < 0 or at + size > len(self.data):
            raise ValueError("a tag points past its end")
        value: int = struct.unpack(self.order + form, self.data[at : at + size])[0]
        return value

    def directory(self, at: int, depth: int) -> Directory:
        if at in self.seen or depth > _MOST_DEPTH:
            raise ValueError("its directories loop")
        self.seen.add(at)
        count = self.number("H", at)
        if count > _MOST_ENTRIES:
            raise ValueError("it has too many tags")
        entries = [
            entry
            for index in range(count)
            if (entry := self._entry(at + 2 + index * _ENTRY_BYTES, depth)) is not None
        ]
        return Directory(entries=tuple(entries), thumbnail=self._thumbnail(entries))

    def following(self, at: int) -> int:
        """Return the offset of the directory after the one at `at`; 0 for none."""
        try:
            return self.number("I", at + 2 + self.number("H", at) * _ENTRY_BYTES)
        except ValueError:
            return 0

    def _entry(self, at: int, depth: int) -> Entry | None:
        tag, type_ = self.number("H", at), self.number("H", at + 2)
        count = self.number("I", at + 4)
        size = _TYPE_BYTES.get(type_, 0) * count
        if not size and count:
            return None  # of a type that is not known
        offset = self.number("I", at + 8) if size > 4 else None
        start = at + 8 if offset is None else offset
        if start + size > len(self.data):
            return None  # a tag that lies about where its value is
        below = None
        if tag in POINTERS and size == 4:
            below = self.directory(self.number("I", at + 8), depth + 1)
        return Entry(
            tag=tag,
            type=type_,
            count=count,
            value=self.data[start : start + size],
            offset=offset,
            directory=below,
        )

    def _thumbnail(self, entries: list[Entry]) -> bytes:
        values = {entry.tag: entry.value for entry in entries}
        if _THUMBNAIL not in values or _THUMBNAIL_BYTES not in values:
            return b""
        start, size = (
            int.from_bytes(values[tag], "little" if self.order == "<" else "big")
            for tag in (_THUMBNAIL, _THUMBNAIL_BYTES)
        )
        return self.data[start : start + size]


class _Writer:
    """Lays directories and values out one after the other, around a place that is taken."""

    def __init__(self, order: str, taken: tuple[int, int]) -> None:
        self._order, self._taken = order, taken
        self._out = bytearray(8)
        self._free = 8

    def file(self, first: Directory) -> bytes:
        mark = b"II*\0" if self._order == "<" else b"MM\0*"
        self._put(0, mark + struct.pack(self._order + "I", self._directory(first)))
        return bytes(self._out)

    def _directory(self, directory: Directory) -> int:
        """Write a directory; return its offset."""
        entries = directory.entries
        start = self._place(6 + _ENTRY_BYTES * len(entries))
        self._put(start, struct.pack(self._order + "H", len(entries)))
        at = start + 2
        for entry in entries:
            head = struct.pack(self._order + "HHI", entry.tag, entry.type, entry.count)
            self._put(at, head + self._value(entry, directory))
            at += _ENTRY_BYTES
        following = self._directory(directory.next) if directory.next is not None else 0
        self._put(at, struct.pack(self._order + "I", following))
        return start

    def _value(self, entry: Entry, directory: Directory) -> bytes:
        """The four bytes of an entry that hold its value or say where it is."""
        if entry.directory is not None:
            return struct.pack(self._order + "I", self._directory(entry.directory))
        if entry.tag == _THUMBNAIL and directory.thumbnail:
            return struct.pack(self._order + "I", self._blob(directory.thumbnail))
        if len(entry.value) <= 4:
            return entry.value.ljust(4, b"\0")
        if entry.tag == MAKERS_NOTE and entry.offset == self._taken[0]:
            self._put(self._taken[0], entry.value)
            return struct.pack(self._order + "I", self._taken[0])
        return struct.pack(self._order + "I", self._blob(entry.value))

    def _blob(self, value: bytes) -> int:
        start = self._place(len(value))
        self._put(start, value)
        return start

    def _place(self, size: int) -> int:
        """Return the next free even offset for some bytes."""
        start = self._free + self._free % 2
        if start < self._taken[1] and start + size > self._taken[0]:
            start = self._taken[1] + self._taken[1] % 2
        self._free = start + size
        return start

    def _put(self, start: int, value: bytes) -> None:
        end = start + len(value)
        if len(self._out) < end:
            self._out.extend(bytes(end - len(self._out)))
        self._out[start:end] = value
