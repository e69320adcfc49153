"""The whole file that an embedded object wraps, and another in its place.

Objects of programs keep it as it is in a stream of their own; a file that was dropped into a
document is packed with its name ([MS-OLEDS] 2.3.6, and what the packer writes, from memory).
"""

import struct
from dataclasses import dataclass, replace

from lighten.containers.compound.compound_file import Entry, read_compound, write_compound
from lighten.model.errors import UnreadableFileError

__all__ = ["file_inside", "with_file_inside"]

_AS_IT_IS = ("CONTENTS", "Package")
_PACKED = "\x01Ole10Native"
# Numbers before the names, and between those and the content.
_BEFORE_NAMES, _BETWEEN, _LENGTH = 6, 4, struct.Struct("<I")
_MOST_NAME = 1000


@dataclass(frozen=True, slots=True)
class _Place:
    """Position of the file in a stream: from `start` to `end`."""

    stream: Entry
    start: int
    end: int

    @property
    def content(self) -> bytes:
        return (self.stream.content or b"")[self.start : self.end]


def file_inside(content: bytes) -> bytes | None:
    """Find the file that an object wraps; None where it declares none."""
    try:
        place = _place(read_compound(content))
    except UnreadableFileError:
        return None
    return place.content if place else None


def with_file_inside(content: bytes, file: bytes) -> bytes:
    """Wrap another file in the compound object. Raises: UnreadableFileError; ValueError if it wraps
    none.
    """
    root = read_compound(content)
    place = _place(root)
    if place is None:
        raise ValueError("wraps no file")
    before, after = _around(place, file)
    stream = replace(place.stream, content=before + file + after)
    children = tuple(stream if child is place.stream else child for child in root.children)
    return write_compound(replace(root, children=children))


def _place(root: Entry) -> _Place | None:
    for child in root.children:
        if child.content is None:
            continue
        if child.name in _AS_IT_IS:
            return _Place(child, 0, len(child.content))
        if child.name == _PACKED:
            return _packed(child, child.content)
    return None


def _packed(stream: Entry, content: bytes) -> _Place | None:
    """Build the stream: length, a number, name and path, two numbers, the former path, the file."""
    at = _BEFORE_NAMES
    for _ in range(2):
        at = content.find(b"\0", at, at + _MOST_NAME) + 1
        if not at:
            return None
    at += _BETWEEN
    if at + _LENGTH.size > len(content):
        return None
    at += _LENGTH.size + _LENGTH.unpack_from(content, at)[0]
    if at + _LENGTH.size > len(content):
        return None
    start = at + _LENGTH.size
    end = start + _LENGTH.unpack_from(content, at)[0]
    is_whole = _LENGTH.unpack_from(content)[0] == len(content) - _LENGTH.size
    return _Place(stream, start, end) if is_whole and end <= len(content) else None


def _around(place: _Place, file: bytes) -> tuple[bytes, bytes]:
    """Return the bytes before and after the file, with the lengths that depend on it."""
    content = place.stream.content or b""
    before, after = content[: place.start], content[place.end :]
    if place.stream.name == _PACKED:
        grown = len(file) - (place.end - place.start)
        whole = _LENGTH.pack(len(content) - _LENGTH.size + grown)
        before = whole + before[_LENGTH.size : -_LENGTH.size] + _LENGTH.pack(len(file))
    return before, after
