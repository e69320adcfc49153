"""Exif: what a camera writes into a picture (CIPA DC-008, Exif 2.32; in the form of TIFF 6.0)."""

import struct
from collections.abc import Collection
from dataclasses import dataclass, field, replace

from lighten.weights import ExtraKind

__all__ = ["Directory", "ExifChange", "exif_dots", "exif_weights", "read_exif", "rewrite_exif"]

_POINTERS = {0x8769: "exif", 0x8825: "gps", 0xA005: "interop"}
_MAKERS_NOTE = 0x927C
_THUMBNAIL, _THUMBNAIL_BYTES = 0x0201, 0x0202
_ACROSS, _DOWN, _UNIT = 0x011A, 0x011B, 0x0128
_WIDTHS, _HEIGHTS = (0x0100, 0xA002), (0x0101, 0xA003)
_ORIENTATION, _COLOURS = 0x0112, 0xA001
# Title, author, rights, comment, and what one system writes beside them; their times stay camera
# data.
_CAPTIONS = {0x010D, 0x010E, 0x013B, 0x8298, 0x9286, *range(0x9C9B, 0x9CA0), 0x4746, 0x4749}
# Without these a picture would be shown otherwise, or read wrongly.
_NEEDED = {
    _ORIENTATION,
    _ACROSS,
    _DOWN,
    _UNIT,
    0x0213,
    _COLOURS,
    *_WIDTHS,
    *_HEIGHTS,
    0xA000,
    0x9000,
}
_TYPE_BYTES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
_MOST_ENTRIES, _MOST_DEPTH = 2_000, 4
_ENTRY_BYTES = 12
_CM_PER_INCH = 2.54


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


@dataclass(frozen=True, slots=True, kw_only=True)
class ExifChange:
    """dropped: kinds to leave out. size_px: of the picture from now on, or None as it was.

    share: of the old lines that stay, by which dots per inch become fewer.
    """

    dropped: Collection[ExtraKind] = ()
    size_px: tuple[int, int] | None = None
    share: float = 1.0

    @property
    def is_none(self) -> bool:
        return not self.dropped and self.size_px is None


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
        """Where the directory after the one at `at` lies; 0 for none."""
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
        if tag in _POINTERS and size == 4:
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
        found = {entry.tag: entry.value for entry in entries}
        if _THUMBNAIL not in found or _THUMBNAIL_BYTES not in found:
            return b""
        start, size = (
            int.from_bytes(found[tag], "little" if self.order == "<" else "big")
            for tag in (_THUMBNAIL, _THUMBNAIL_BYTES)
        )
        return self.data[start : start + size]


def read_exif(content: bytes) -> Directory:
    """Its first directory, with those below and after it. Raises: ValueError if unreadable."""
    order = {b"II": "<", b"MM": ">"}.get(content[:2])
    if order is None or len(content) < 8:
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


def exif_weights(content: bytes) -> dict[ExtraKind, int]:
    """Bytes by kind, adding up to the content; what cannot be read counts as camera data."""
    try:
        first = read_exif(content)
    except ValueError:
        return {ExtraKind.CAMERA_DATA: len(content)}
    weights: dict[ExtraKind, int] = {}
    for directory, entry in _all_entries(first):
        kind = _kind_of(directory, entry.tag)
        if kind is not ExtraKind.CAMERA_DATA:
            weights[kind] = weights.get(kind, 0) + entry.size_bytes
    if first.next is not None:
        weights[ExtraKind.THUMBNAILS] = first.next.size_bytes
    # Directories may share bytes, or claim more than there are.
    left = len(content)
    for kind in list(weights):
        weights[kind] = min(weights[kind], left)
        left -= weights[kind]
    weights[ExtraKind.CAMERA_DATA] = left
    return {kind: size for kind, size in weights.items() if size}


def exif_dots(content: bytes) -> tuple[float, float] | None:
    """Dots per inch, across and down, by its tags; None where it does not say."""
    try:
        first = read_exif(content)
    except ValueError:
        return None
    order = "<" if content[:2] == b"II" else ">"
    across, down = (_ratio(first.value(tag), order) for tag in (_ACROSS, _DOWN))
    unit = first.value(_UNIT)
    kind = struct.unpack(order + "H", unit.value)[0] if unit and len(unit.value) == 2 else 2
    if not across or not down or kind not in (2, 3):
        return None
    scale = 1.0 if kind == 2 else _CM_PER_INCH
    return across * scale, down * scale


def rewrite_exif(content: bytes, change: ExifChange) -> bytes:
    """The same without what is dropped, and with the picture's new size; b"" if nothing is left.

    What cannot be read stays as it is, unless camera data or the place go. A maker's note that
    stays keeps its place: it points into itself from there.
    """
    if change.is_none:
        return content
    try:
        first = read_exif(content)
    except ValueError:
        is_dropped = {ExtraKind.CAMERA_DATA, ExtraKind.LOCATION} & set(change.dropped)
        return b"" if is_dropped else content
    order = "<" if content[:2] == b"II" else ">"
    kept = _changed(first, "", change, order)
    if kept is None:
        return b""
    if first.next is not None and ExtraKind.THUMBNAILS not in change.dropped:
        kept = replace(kept, next=first.next)
    return _Writer(order, _note_place(kept)).file(kept)


def _changed(directory: Directory, name: str, change: ExifChange, order: str) -> Directory | None:
    """The directory without what is dropped; None where only what every picture has is left."""
    entries: list[Entry] = []
    for entry in directory.entries:
        below = entry.directory
        if below is not None:
            kind = ExtraKind.LOCATION if entry.tag == 0x8825 else None
            if kind not in change.dropped:
                changed = _changed(below, _POINTERS[entry.tag], change, order)
                if changed is not None:
                    entries.append(replace(entry, directory=changed))
            continue
        if _kind_of(name, entry.tag) in change.dropped and entry.tag not in _NEEDED:
            continue
        entries.append(_resized(entry, change, order))
    is_idle = all(entry.tag in _NEEDED and not _says_much(entry, order) for entry in entries)
    has_lost = len(entries) < len(directory.entries)
    if has_lost and is_idle and (name or not any(entry.tag == _ACROSS for entry in entries)):
        return None
    return replace(directory, entries=tuple(entries), next=None)


def _says_much(entry: Entry, order: str) -> bool:
    """It says that the picture is to be turned, or that its colours are not the usual ones."""
    usual = struct.pack(order + "H", 1)
    return entry.tag in (_ORIENTATION, _COLOURS) and entry.value != usual


def _resized(entry: Entry, change: ExifChange, order: str) -> Entry:
    if change.size_px is None:
        return entry
    if entry.tag in _WIDTHS + _HEIGHTS and entry.count == 1 and entry.type in (3, 4):
        side = change.size_px[0 if entry.tag in _WIDTHS else 1]
        return replace(entry, value=struct.pack(order + ("H" if entry.type == 3 else "I"), side))
    ratio = _ratio(entry, order) if entry.tag in (_ACROSS, _DOWN) else None
    if ratio:
        dots = struct.pack(order + "II", max(1, round(ratio * change.share * 100)), 100)
        return replace(entry, value=dots)
    return entry


def _ratio(entry: Entry | None, order: str) -> float | None:
    if entry is None or entry.type != 5 or len(entry.value) != 8:
        return None
    over, under = struct.unpack(order + "II", entry.value)
    return over / under if under else None


def _all_entries(directory: Directory, name: str = "") -> list[tuple[str, Entry]]:
    """Every tag with the name of its directory; those below a location count with it."""
    entries: list[tuple[str, Entry]] = []
    for entry in directory.entries:
        entries.append((name, entry))
        if entry.directory is not None and entry.tag != 0x8825:
            entries += _all_entries(entry.directory, _POINTERS[entry.tag])
    return entries


def _kind_of(directory: str, tag: int) -> ExtraKind:
    if tag == 0x8825:
        return ExtraKind.LOCATION
    if directory == "exif" and tag == _MAKERS_NOTE:
        return ExtraKind.MAKERS_NOTES
    return ExtraKind.METADATA if tag in _CAPTIONS else ExtraKind.CAMERA_DATA


def _note_place(directory: Directory) -> tuple[int, int]:
    """Where the maker's note lies, from and to; (0, 0) without one."""
    for _, entry in _all_entries(directory):
        if entry.tag == _MAKERS_NOTE and entry.offset is not None:
            return entry.offset, entry.offset + len(entry.value)
    return 0, 0


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
        """Where it was put."""
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
        if entry.tag == _MAKERS_NOTE and entry.offset == self._taken[0]:
            self._put(self._taken[0], entry.value)
            return struct.pack(self._order + "I", self._taken[0])
        return struct.pack(self._order + "I", self._blob(entry.value))

    def _blob(self, value: bytes) -> int:
        start = self._place(len(value))
        self._put(start, value)
        return start

    def _place(self, size: int) -> int:
        """The next free place for so many bytes, at an even address."""
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
