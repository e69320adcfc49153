"""Streams of compound files, in which office programs of before 2007 keep theirs ([MS-CFB]).

Names and records below are those of [MS-DOC], [MS-XLS] and [MS-PPT], from memory.
"""

import hashlib
import io
import struct
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any, BinaryIO, TypeVar

import olefile

from lighten.containers.compound.compound_file import DAMAGED
from lighten.model.source import Source

__all__ = ["Within", "has_stream", "macros_mark", "within"]

Answer = TypeVar("Answer")

# Storages of macros in workbooks and text documents; of documents within both.
_MACROS = ("_VBA_PROJECT_CUR", "Macros")
# What a project of macros says of itself ([MS-OVBA] 2.3.1): its number, and locks made with it.
_NUMBERED = ["PROJECT"]
_POOL, _OF_WORKBOOK = "ObjectPool", "MBD"
# Slides have all of theirs in one stream of records: kind and version in one word, type, length.
_SLIDES = "PowerPoint Document"
_RECORD = struct.Struct("<HHI")
_IS_CONTAINER, _MACROS_ATOM, _FLAG_AT = 0xF, 0x0400, 4
_DOCUMENT, _SOUND, _FILMS = 0x1011, 0x07E6, (0x1006, 0x1007)
_DEEPEST = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Within:
    """Parts of a file that the office suite may not carry over."""

    has_macros: bool = False
    documents: int = 0
    films_and_sounds: int = 0


def has_stream(source: Source, names: Iterable[str]) -> bool:
    """Return whether one of these streams is in the root of the file. Raises: OSError."""
    with source.path.open("rb") as file:
        return _asked(file, lambda streams: any(map(streams.exists, names)), otherwise=False)


def within(source: Source) -> Within:
    """Return those parts, as far as the file can be read. Raises: OSError."""
    with source.path.open("rb") as file:
        return _asked(file, _within, otherwise=Within())


def macros_mark(content: bytes) -> str:
    """Return a mark equal for projects of equal macros: saving gives a project another number."""
    as_it_is = hashlib.sha256(content).hexdigest()
    return _asked(io.BytesIO(content), _mark_of_streams, otherwise=as_it_is)


def _asked(file: BinaryIO, ask: Callable[[Any], Answer], *, otherwise: Answer) -> Answer:
    try:
        with olefile.OleFileIO(file) as streams:
            return ask(streams)
    except DAMAGED:
        return otherwise


def _within(streams: Any) -> Within:
    storages = streams.listdir(streams=False, storages=True)
    documents = [path for path in storages if _is_document(path)]
    if not streams.exists(_SLIDES):
        has_macros = any(map(streams.exists, _MACROS))
        return Within(has_macros=has_macros, documents=len(documents))
    content = streams.openstream(_SLIDES).read()
    has_macros, count = False, Counter[int]()
    for kind, at in _records(content, 0, len(content), 0):
        count[kind] += 1
        flag = content[at + _FLAG_AT : at + _FLAG_AT + 4]
        has_macros |= kind == _MACROS_ATOM and any(flag)
    return Within(
        has_macros=has_macros,
        documents=count[_DOCUMENT],
        films_and_sounds=sum(count[kind] for kind in (_SOUND, *_FILMS)),
    )


def _mark_of_streams(streams: Any) -> str:
    digests = [
        ("/".join(path), hashlib.sha256(streams.openstream(path).read()).hexdigest())
        for path in streams.listdir()
        if path != _NUMBERED
    ]
    return hashlib.sha256(repr(digests).encode()).hexdigest()


def _is_document(path: list[str]) -> bool:
    if len(path) == 1:
        return path[0].startswith(_OF_WORKBOOK)
    return len(path) == 2 and path[0] == _POOL


def _records(content: bytes, start: int, end: int, depth: int) -> Iterator[tuple[int, int]]:
    """Yield the type of each record and the offset of its content."""
    while start + _RECORD.size <= end:
        version, kind, length = _RECORD.unpack_from(content, start)
        start += _RECORD.size
        yield kind, start
        if version & 0xF == _IS_CONTAINER and depth < _DEEPEST:
            yield from _records(content, start, min(end, start + length), depth + 1)
        start += length
