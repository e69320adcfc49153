"""IPP messages as bytes and back (RFC 8010, 3)."""

import struct
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import IntEnum
from typing import BinaryIO

__all__ = [
    "Attribute",
    "BadMessageError",
    "Group",
    "IppMessage",
    "Tag",
    "read_message",
    "write_message",
]

_LONGEST_VALUE, _MOST_ATTRIBUTES = 65_535, 2_000


class BadMessageError(ValueError):
    """Not an IPP message, or cut short."""


class Tag(IntEnum):
    """Tags of values (RFC 8010, 3.5.2), and of the ends of groups."""

    OPERATION, JOB, END, PRINTER, UNSUPPORTED = 0x01, 0x02, 0x03, 0x04, 0x05
    UNSUPPORTED_VALUE, UNKNOWN, NO_VALUE = 0x10, 0x12, 0x13
    INTEGER, BOOLEAN, ENUM = 0x21, 0x22, 0x23
    OCTETS, DATE_TIME, RESOLUTION, RANGE = 0x30, 0x31, 0x32, 0x33
    BEGIN_COLLECTION, END_COLLECTION = 0x34, 0x37
    TEXT, NAME = 0x41, 0x42
    KEYWORD, URI, URI_SCHEME, CHARSET, LANGUAGE, MIME, MEMBER = (
        0x44,
        0x45,
        0x46,
        0x47,
        0x48,
        0x49,
        0x4A,
    )


_WORDS = (
    Tag.TEXT,
    Tag.NAME,
    Tag.KEYWORD,
    Tag.URI,
    Tag.URI_SCHEME,
    Tag.CHARSET,
    Tag.LANGUAGE,
    Tag.MIME,
)
_OUT_OF_BAND = range(0x10, 0x20)
_GROUP_TAGS = range(0x10)


@dataclass(frozen=True, slots=True)
class Attribute:
    """values: as Python has them: int, bool, str, datetime, (x, y) in dots an inch, (from, to), or
    a collection as {name: Attribute}.
    """

    tag: int
    values: tuple[object, ...]


# By name, in the order in which they are told.
Group = dict[str, Attribute]


@dataclass(slots=True)
class IppMessage:
    """code: the operation asked for, or the status answered. groups: each with its tag."""

    code: int
    request_id: int
    version: tuple[int, int] = (1, 1)
    groups: list[tuple[int, Group]] = field(default_factory=list)

    def group(self, tag: int) -> Group:
        """The first group of that kind; an empty one where there is none."""
        return next((group for found, group in self.groups if found == tag), {})


def read_message(stream: BinaryIO) -> IppMessage:
    """The message; what follows it in the stream is the document.

    Raises: BadMessageError.
    """
    head = stream.read(8)
    if len(head) < 8:
        raise BadMessageError("cut short")
    major, minor, code, request_id = struct.unpack(">BBHI", head)
    message = IppMessage(code, request_id, (major, minor))
    count = 0
    tag = _byte(stream)
    while tag != Tag.END:
        if tag not in _GROUP_TAGS:
            raise BadMessageError("no group begins where one should")
        group: Group = {}
        message.groups.append((tag, group))
        tag, count = _read_group(stream, group, count)
    return message


def _read_group(stream: BinaryIO, group: Group, count: int) -> tuple[int, int]:
    """Fills the group; the tag that ends it, and how many attributes there were so far."""
    last = ""
    while True:
        tag = _byte(stream)
        if tag in _GROUP_TAGS:
            return tag, count
        count += 1
        if count > _MOST_ATTRIBUTES:
            raise BadMessageError("too many attributes")
        name = _counted(stream).decode("utf-8", "replace")
        value = _read_value(stream, tag, _counted(stream), 0)
        if name:
            last = name
            group[name] = Attribute(tag, (value,))
        elif last:
            before = group[last]
            group[last] = Attribute(before.tag, (*before.values, value))
        else:
            raise BadMessageError("a value without a name")


def _read_value(stream: BinaryIO, tag: int, data: bytes, depth: int) -> object:
    if tag == Tag.BEGIN_COLLECTION:
        return _read_collection(stream, depth + 1)
    try:
        return _value(tag, data)
    except (struct.error, ValueError) as error:
        raise BadMessageError(f"a value of kind {tag:#x} that is none") from error


def _value(tag: int, data: bytes) -> object:
    if tag in (Tag.INTEGER, Tag.ENUM):
        return struct.unpack(">i", data)[0]
    if tag == Tag.BOOLEAN:
        return data != b"\0"
    if tag == Tag.RANGE:
        return struct.unpack(">ii", data)
    if tag == Tag.RESOLUTION:
        across, down, unit = struct.unpack(">iib", data)
        return (across, down) if unit == 3 else (round(across * 2.54), round(down * 2.54))
    if tag in _WORDS:
        return data.decode("utf-8", "replace")
    return None if tag in _OUT_OF_BAND else data


def _read_collection(stream: BinaryIO, depth: int) -> Group:
    if depth > 8:
        raise BadMessageError("collections lie too deep in one another")
    members: Group = {}
    name = ""
    while True:
        tag = _byte(stream)
        _counted(stream)  # members have no names of their own
        data = _counted(stream)
        if tag == Tag.END_COLLECTION:
            return members
        if tag == Tag.MEMBER:
            name = data.decode("utf-8", "replace")
            continue
        value = _read_value(stream, tag, data, depth)
        before = members.get(name)
        values = (*before.values, value) if before else (value,)
        members[name] = Attribute(before.tag if before else tag, values)
        if len(members) > _MOST_ATTRIBUTES:
            raise BadMessageError("too many attributes")


def _byte(stream: BinaryIO) -> int:
    data = stream.read(1)
    if not data:
        raise BadMessageError("cut short")
    return data[0]


def _counted(stream: BinaryIO) -> bytes:
    head = stream.read(2)
    if len(head) < 2:
        raise BadMessageError("cut short")
    length = struct.unpack(">H", head)[0]
    data = stream.read(length)
    if len(data) < length:
        raise BadMessageError("cut short")
    return data


def write_message(message: IppMessage) -> bytes:
    out = [struct.pack(">BBHI", *message.version, message.code, message.request_id)]
    for tag, group in message.groups:
        out.append(bytes([tag]))
        for name, attribute in group.items():
            out += _written(name.encode(), attribute)
    out.append(bytes([Tag.END]))
    return b"".join(out)


def _written(name: bytes, attribute: Attribute) -> Iterable[bytes]:
    for value in attribute.values:
        if isinstance(value, dict):
            yield _record(Tag.BEGIN_COLLECTION, name, b"")
            for member, inner in value.items():
                yield _record(Tag.MEMBER, b"", member.encode())
                yield from _written(b"", inner)
            yield _record(Tag.END_COLLECTION, b"", b"")
        else:
            yield _record(attribute.tag, name, _coded(attribute.tag, value))
        name = b""


def _record(tag: int, name: bytes, data: bytes) -> bytes:
    data = data[:_LONGEST_VALUE]
    return struct.pack(">BH", tag, len(name)) + name + struct.pack(">H", len(data)) + data


def _coded(tag: int, value: object) -> bytes:
    if isinstance(value, bool):
        return bytes([value])
    if isinstance(value, int):
        return struct.pack(">i", value)
    if isinstance(value, str):
        return value.encode()
    if isinstance(value, datetime):
        moment = value.astimezone(UTC)
        return struct.pack(
            ">H9B",
            moment.year,
            *(moment.month, moment.day, moment.hour, moment.minute, moment.second, 0),
            *(ord("+"), 0, 0),
        )
    if isinstance(value, tuple):
        first, last = value
        plain = struct.pack(">ii", first, last)
        return plain + b"\x03" if tag == Tag.RESOLUTION else plain
    return value if isinstance(value, bytes) else b""
