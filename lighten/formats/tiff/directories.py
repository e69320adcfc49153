"""The directories of a TIFF file, each tag with the bytes it takes.

Source: TIFF 6.0, section 2; of files above 4 GB, the BigTIFF design (from memory).
"""

import mmap
import struct
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from lighten.formats.tiff import tags
from lighten.model.errors import LimitExceededError, UnreadableFileError

__all__ = ["TYPE_BYTES", "Directory", "Entry", "TiffFile", "begins_like_tiff", "read_directories"]

# Bytes a value of each type (section 2), and of BigTIFF's (16 to 18).
TYPE_BYTES: Mapping[int, int] = {
    **{1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4},
    **{16: 8, 17: 8, 18: 8},
}
_FORMS = {1: "B", 3: "H", 4: "I", 6: "b", 8: "h", 9: "i", 11: "f", 12: "d", 13: "I"} | {
    16: "Q",
    17: "q",
    18: "Q",
}
_RATIONALS = {5: "I", 10: "i"}
_MOST_PAGES, _MOST_ENTRIES, _MOST_DEPTH = 10_000, 4_096, 4

Span = tuple[int, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One tag of a directory. start, end: its value's bytes in the file; size_bytes: that it takes
    besides its place in the directory.
    """

    tag: int
    type: int
    count: int
    start: int
    end: int
    is_inline: bool

    @property
    def size_bytes(self) -> int:
        return 0 if self.is_inline else self.end - self.start


@dataclass(frozen=True, slots=True, kw_only=True)
class Directory:
    """The tags of one picture, or of a group of Exif tags. start, end: of itself in the file.

    below: directories that tags of it point to.
    """

    start: int
    end: int
    entries: Mapping[int, Entry]
    below: Mapping[int, tuple["Directory", ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class TiffFile:
    """order: as `struct` writes it. pages: in the order in which they follow one another.

    remarks: what a person should know of the file.
    """

    data: bytes | mmap.mmap
    order: str
    is_big: bool
    pages: tuple[Directory, ...]
    remarks: tuple[str, ...] = ()

    @property
    def size_bytes(self) -> int:
        return len(self.data)

    def raw(self, entry: Entry) -> bytes:
        return self.data[entry.start : entry.end]

    def numbers(self, directory: Directory, tag: int) -> tuple[int, ...]:
        """Return whole numbers of a tag; none if absent or of another type."""
        entry = directory.entries.get(tag)
        if entry is None or _FORMS.get(entry.type, "f") in "fd":
            return ()
        return struct.unpack(f"{self.order}{entry.count}{_FORMS[entry.type]}", self.raw(entry))

    def number(self, directory: Directory, tag: int, default: int) -> int:
        return next(iter(self.numbers(directory, tag)), default)

    def ratio(self, directory: Directory, tag: int) -> float | None:
        """The first fraction, or number, under a tag."""
        entry = directory.entries.get(tag)
        if entry is None or not entry.count:
            return None
        if (form := _RATIONALS.get(entry.type)) is not None:
            above, below = struct.unpack(f"{self.order}2{form}", self.raw(entry)[:8])
            return above / below if below else None
        if entry.type not in _FORMS:
            return None
        form = self.order + _FORMS[entry.type]
        value: float = struct.unpack(form, self.raw(entry)[: struct.calcsize(form)])[0]
        return value

    def text(self, directory: Directory, tag: int) -> str:
        entry = directory.entries.get(tag)
        if entry is None:
            return ""
        return self.raw(entry).split(b"\0")[0].decode("utf-8", errors="replace")


def begins_like_tiff(head: bytes) -> bool:
    """Return whether the first 8 bytes are those of a TIFF, of any byte order, classic or big."""
    return head[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


def read_directories(data: bytes | mmap.mmap, name: str) -> TiffFile:
    """Every page's directory, with those below. name: for messages.

    Raises: UnreadableFileError if damaged or cut short; LimitExceededError.
    """
    reader = _Reader(data)
    try:
        start = reader.first()
        pages: list[Directory] = []
        remarks: list[str] = []
        while start:
            if start in reader.seen:
                remarks.append("its list of pages loops; every page was found once")
                break
            if len(pages) == _MOST_PAGES:
                raise LimitExceededError(f"{name}: more than {_MOST_PAGES:,} pages.")
            directory, start = reader.directory(start, 0)
            pages.append(directory)
    except (ValueError, struct.error) as error:
        raise UnreadableFileError(
            f"{name}: cannot be read. It is damaged or cut short ({error}). Fetch or save it "
            "again, and try that file."
        ) from error
    if not pages:
        raise UnreadableFileError(f"{name}: cannot be read. It has no page in it.")
    return TiffFile(
        data=data,
        order=reader.order,
        is_big=reader.is_big,
        pages=tuple(pages),
        remarks=tuple(remarks),
    )


class _Reader:
    """Reads directories of one file, each once."""

    def __init__(self, data: bytes | mmap.mmap) -> None:
        self.data = data
        self.order = "<" if data[:2] == b"II" else ">"
        self.is_big = data[2:4] in (b"+\0", b"\0+")
        self.seen: set[int] = set()

    def first(self) -> int:
        return self._number("Q", 8) if self.is_big else self._number("I", 4)

    def directory(self, start: int, depth: int) -> tuple[Directory, int]:
        """Return a directory and the offset of the next one; 0 if it is the last."""
        if start in self.seen or depth > _MOST_DEPTH:
            raise ValueError("its directories loop")
        self.seen.add(start)
        count_form, entry_bytes, link_form = ("Q", 20, "Q") if self.is_big else ("H", 12, "I")
        count = self._number(count_form, start)
        if not 0 < count <= _MOST_ENTRIES:
            raise ValueError(f"a page of {count} tags")
        at = start + struct.calcsize(count_form)
        entries = {
            entry.tag: entry
            for entry in self._entries(range(at, at + count * entry_bytes, entry_bytes))
        }
        end = at + count * entry_bytes
        following = self._number(link_form, end)
        below = dict(self._below(entries, depth))
        directory = Directory(
            start=start, end=end + struct.calcsize(link_form), entries=entries, below=below
        )
        return directory, following

    def _entries(self, places: range) -> Iterator[Entry]:
        value_form, room = ("Q", 8) if self.is_big else ("I", 4)
        for at in places:
            tag, type_ = self._number("H", at), self._number("H", at + 2)
            count = self._number(value_form, at + 4)
            if type_ not in TYPE_BYTES:
                continue  # as the standard asks readers to
            size = TYPE_BYTES[type_] * count
            value = at + 4 + room
            is_inline = size <= room
            start = value if is_inline else self._number(value_form, value)
            if start + size > len(self.data):
                raise ValueError(f"tag {tag} points past its end")
            yield Entry(
                tag=tag, type=type_, count=count, start=start, end=start + size, is_inline=is_inline
            )

    def _below(
        self, entries: Mapping[int, Entry], depth: int
    ) -> Iterator[tuple[int, tuple[Directory, ...]]]:
        for tag in (*tags.SUBDIRECTORIES, tags.SUB_IFDS):
            if (entry := entries.get(tag)) is None or entry.type not in (4, 13, 16, 18):
                continue
            form = self.order + str(entry.count) + _FORMS[entry.type]
            starts = struct.unpack(form, self.data[entry.start : entry.end])
            yield tag, tuple(self.directory(start, depth + 1)[0] for start in starts)

    def _number(self, form: str, at: int) -> int:
        size = struct.calcsize(form)
        if at + size > len(self.data):
            raise ValueError("a directory lies past its end")
        value: int = struct.unpack(self.order + form, self.data[at : at + size])[0]
        return value
