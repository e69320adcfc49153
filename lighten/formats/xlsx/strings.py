"""Strings that the cells of a workbook share: each once, and none that no cell shows.

Source: ECMA-376 part 1, 18.4.8 and 18.4.9.
"""

import hashlib
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lighten.model.errors import LimitExceededError, UnreadableFileError

__all__ = ["StringList", "new_numbers", "read_strings", "write_strings"]

_BEGIN, _END = b"<si", b"</si>"
# Of an entry within an entry, which there is not (others are "sid" and the like).
_BEGINS = re.compile(rb"<si[\s/>]")
_COUNTS = re.compile(rb'\s(?:count|uniqueCount)="[^"]*"')
_EMPTY = re.compile(rb"<si\s*/>")
_MARK_BYTES = 16
_WRITTEN_AT_ONCE = 20_000
# Of one string: the standard's programs hold 32,767 characters, each of which may have its format.
_MOST_IN_ENTRY = 16_000_000


@dataclass(frozen=True, slots=True)
class StringList:
    """marks: (how many, 2) uint64, equal for equal strings."""

    marks: NDArray[np.uint64]

    def __len__(self) -> int:
        return len(self.marks)


def read_strings(chunks: Iterable[bytes], shown_as: str) -> StringList:
    """Read the plain form. Raises: LimitExceededError; UnreadableFileError if cut short."""
    marks = bytearray()
    for entry in _Entries(chunks, shown_as):
        marks += hashlib.blake2b(entry, digest_size=_MARK_BYTES).digest()
    return StringList(np.frombuffer(bytes(marks), np.uint64).reshape(-1, 2))


def new_numbers(strings: StringList, used: NDArray[np.bool_]) -> NDArray[np.int32]:
    """Return, for each string, its number among kept strings; -1 for those that no cell shows."""
    numbers = np.full(len(strings), -1, np.int32)
    shown = np.flatnonzero(used)
    if not len(shown):
        return numbers
    marks = strings.marks[shown]
    # Equal ones side by side, each group in the order in which they stood.
    order = np.lexsort((shown, marks[:, 1], marks[:, 0]))
    sorted_marks = marks[order]
    begins = np.ones(len(shown), np.bool_)
    begins[1:] = (sorted_marks[1:] != sorted_marks[:-1]).any(axis=1)
    firsts = order[begins]
    rank = np.empty(len(firsts), np.int32)
    rank[np.argsort(firsts)] = np.arange(len(firsts), dtype=np.int32)
    numbers[shown[order]] = rank[np.cumsum(begins) - 1]
    return numbers


def write_strings(
    chunks: Iterable[bytes], numbers: NDArray[np.int32], shown_as: str
) -> Iterator[bytes]:
    """Write the kept strings in the order of their new numbers."""
    entries = _Entries(chunks, shown_as)
    written = 0
    kept: list[bytes] = []
    for number, entry in zip(numbers.tolist(), entries, strict=True):
        if not kept and not written:
            kept.append(_with_counts(entries.head, numbers))
        if number == written:
            kept.append(entry)
            written += 1
        if len(kept) > _WRITTEN_AT_ONCE:
            yield b"".join(kept)
            kept.clear()
    yield b"".join((*kept, entries.tail if len(numbers) else entries.head + entries.tail))


def _with_counts(head: bytes, numbers: NDArray[np.int32]) -> bytes:
    """Write the count of strings, which may not be wrong; the count of uses is optional and
    dropped.
    """
    count = int(numbers.max(initial=-1)) + 1
    return _COUNTS.sub(b"", head).replace(b"<sst", f'<sst uniqueCount="{count}"'.encode(), 1)


class _Entries:
    """Each entry with its tags; head and tail are what stands around them."""

    def __init__(self, chunks: Iterable[bytes], shown_as: str) -> None:
        self._chunks, self._shown_as = chunks, shown_as
        self.head = self.tail = b""

    def __iter__(self) -> Iterator[bytes]:
        buffer = b""
        for chunk in self._chunks:
            # An empty one that is cut in two is made whole with the next chunk.
            buffer = _EMPTY.sub(b"<si></si>", buffer + chunk)
            *whole, buffer = buffer.split(_END)
            for entry in whole:
                begin = entry.find(_BEGIN)
                if begin < 0 or _BEGINS.search(entry, begin + 1):
                    raise UnreadableFileError(
                        f"{self._shown_as}: its list of strings is damaged. Open it in the program "
                        "it came from and save it again, and try that file."
                    )
                if not self.head:
                    self.head = entry[:begin]
                yield entry[begin:] + _END
            if len(buffer) > _MOST_IN_ENTRY:
                raise LimitExceededError(
                    f"{self._shown_as}: one string of it is longer than can be worked on safely "
                    f"({_MOST_IN_ENTRY // 1_000_000} MB of XML)."
                )
        if b"</sst>" not in buffer and b"<sst" not in buffer:
            raise UnreadableFileError(
                f"{self._shown_as}: its list of strings ends early. Open it in the program it came "
                "from and save it again, and try that file."
            )
        self.tail = buffer.lstrip() if self.head else buffer
