"""Byte ranges of the objects in a file."""

import mmap
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

__all__ = ["FileSpans", "ObjectId", "read_spans", "reference_pattern", "references_in"]

# Object number and generation (ISO 32000-1, 7.3.10).
ObjectId = tuple[int, int]

_OBJECT = re.compile(rb"(?<![0-9])(\d{1,10})[ \t\r\n\0\f]+(\d{1,5})[ \t\r\n\0\f]+obj(?![a-zA-Z])")
_BODY_END = re.compile(rb"endobj|(?<![a-zA-Z])stream(?=[\r\n])|(?<![a-zA-Z])endstream")
_DIRECT_LENGTH = re.compile(rb"/Length[ \t\r\n]+(\d+)(?![ \t\r\n]*\d+[ \t\r\n]+R)")
_REFERENCE = re.compile(rb"(\d{1,10})[ \t\r\n]+(\d{1,5})[ \t\r\n]+R(?![a-zA-Z])")
_TAIL_BYTES = 64


@dataclass(slots=True, kw_only=True)
class FileSpans:
    """The objects as they lie in the file.

    size: bytes from "12 0 obj" to its "endobj", of the object in force.
    stale_bytes: bytes of objects that a later one of the same number replaced.
    references: what the text of an object points to (streams: their dictionary only).
    inner: bytes of objects inside object streams, their share of the packed stream.
    """

    size: dict[ObjectId, int] = field(default_factory=dict)
    references: dict[ObjectId, frozenset[ObjectId]] = field(default_factory=dict)
    inner: dict[ObjectId, int] = field(default_factory=dict)
    stale_bytes: int = 0

    def weight_of(self, object_id: ObjectId) -> int:
        """Return the bytes of an object in the file; 0 if it is absent."""
        return self.size.get(object_id) or self.inner.get(object_id, 0)

    def unpack(self, stream_id: ObjectId, content: bytes, first: int, count: int) -> None:
        """Share the weight of an object stream out to the objects in it (ISO 32000-1, 7.5.7)."""
        numbers = [int(word) for word in content[:first].split()[: 2 * count]]
        places = sorted(zip(numbers[1::2], numbers[::2], strict=False))
        ends = [place for place, _ in places[1:]] + [len(content) - first]
        for (place, number), end in zip(places, ends, strict=True):
            share = max(0, end - place) / max(1, len(content))
            self.inner[number, 0] = int(self.size.get(stream_id, 0) * share)


def read_spans(path: Path, stream_length: Callable[[ObjectId], int | None]) -> FileSpans:
    """Return the byte ranges of all objects that are not in object streams.

    Reads the file from front to back and not by its cross-reference table, so it works for
    damaged files as well; of two objects of one number the later counts (ISO 32000-1, 7.5.6).
    stream_length: the length of a stream whose own text does not declare it.
    """
    spans = FileSpans()
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        for object_id, start, body_end, end in _objects(data, stream_length):
            spans.stale_bytes += spans.size.get(object_id, 0)
            spans.size[object_id] = end - start
            spans.references[object_id] = references_in(data[start:body_end]) - {object_id}
    return spans


def reference_pattern() -> re.Pattern[bytes]:
    """Return the pattern of "12 0 R", with number and generation as groups."""
    return _REFERENCE


def references_in(text: bytes) -> frozenset[ObjectId]:
    """Return all "12 0 R" in a piece of PDF."""
    return frozenset(
        (int(number), int(generation)) for number, generation in _REFERENCE.findall(text)
    )


def _objects(
    data: mmap.mmap, stream_length: Callable[[ObjectId], int | None]
) -> Iterator[tuple[ObjectId, int, int, int]]:
    """Yield each object's id, start, end of its text, and end."""
    position = 0
    while (head := _OBJECT.search(data, position)) is not None:
        object_id = (int(head[1]), int(head[2]))
        stop = _BODY_END.search(data, head.end())
        if stop is None:
            return
        body_end, end = stop.start(), stop.end()
        if stop[0] == b"stream":
            end = _stream_end(data, head.end(), stop.end(), object_id, stream_length)
        yield object_id, head.start(), body_end, end
        position = end


def _stream_end(
    data: mmap.mmap,
    text_start: int,
    keyword_end: int,
    object_id: ObjectId,
    stream_length: Callable[[ObjectId], int | None],
) -> int:
    """Return the end of the object whose "stream" ends at `keyword_end`."""
    content = keyword_end + (2 if data[keyword_end : keyword_end + 2] == b"\r\n" else 1)
    declared = _DIRECT_LENGTH.search(data, text_start, keyword_end)
    length = int(declared[1]) if declared else stream_length(object_id)
    if length is not None:
        tail = data[content + length : content + length + _TAIL_BYTES]
        if tail.lstrip().startswith(b"endstream"):
            closing = tail.find(b"endobj")
            return content + length + (closing + 6 if closing >= 0 else tail.find(b"endstream") + 9)
    end = data.find(b"endstream", content)
    if end < 0:
        return len(data)
    closing = data[end : end + _TAIL_BYTES].find(b"endobj")
    return end + (closing + 6 if closing >= 0 else 9)
