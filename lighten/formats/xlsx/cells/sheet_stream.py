"""A sheet as a stream: what stands before its rows, whole rows a piece at a time, what follows."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from lighten.model.errors import LimitExceededError, UnreadableFileError

__all__ = ["SheetStream"]

PIECE_BYTES = 4_000_000
_MOST_AROUND = 60_000_000
# Of one row: 16,384 cells of a kilobyte each are 16 MB.
_MOST_IN_ROW = 30_000_000
_BEGIN, _END, _ROW = b"<sheetData", b"</sheetData>", b"<row"


@dataclass
class SheetStream:
    """chunks: of the plain form. Once `rows` is through, `head` and `tail` are all the rest.

    head ends with the tag that opens the rows, tail begins with the one that closes them; a sheet
    without rows is all head.
    """

    chunks: Iterable[bytes]
    shown_as: str
    head: bytes = b""
    tail: bytes = field(default=b"", repr=False)

    def rows(self) -> Iterator[bytes]:
        """Yield whole rows. Raises: LimitExceededError; UnreadableFileError if their end is
        missing.
        """
        chunks = iter(self.chunks)
        buffer = self._read_head(chunks)
        if buffer is None:
            return
        for chunk in chunks:
            end = buffer.find(_END)
            if end >= 0:
                buffer += chunk
                break
            cut = buffer.rfind(_ROW) if len(buffer) >= PIECE_BYTES else 0
            if cut > 0:
                yield buffer[:cut]
                buffer = buffer[cut:]
            if len(buffer) > _MOST_IN_ROW:
                raise LimitExceededError(
                    f"{self.shown_as}: one row of it is longer than can be worked on safely "
                    f"({_MOST_IN_ROW // 1_000_000} MB of XML)."
                )
            buffer += chunk
        end = buffer.find(_END)
        if end < 0:
            raise UnreadableFileError(
                f"{self.shown_as}: ends before its rows do. Open it in the program it came from "
                "and save it again, and try that file."
            )
        while end > PIECE_BYTES:
            cut = buffer.rfind(_ROW, 0, PIECE_BYTES)
            if cut <= 0:
                break
            yield buffer[:cut]
            buffer, end = buffer[cut:], end - cut
        yield buffer[:end]
        self.tail = self._within_limit(buffer[end:] + b"".join(chunks))

    def _read_head(self, chunks: Iterator[bytes]) -> bytes | None:
        """Read up to the first row; return the rest of the buffer, or None if there are no rows."""
        buffer = b""
        for chunk in chunks:
            buffer += chunk
            begin = buffer.find(_BEGIN)
            close = buffer.find(b">", begin) if begin >= 0 else -1
            if close >= 0 and buffer[close - 1 : close] != b"/":
                self.head = buffer[: close + 1]
                return buffer[close + 1 :]
            if close >= 0:
                break
            self._within_limit(buffer)
        self.head = self._within_limit(buffer + b"".join(chunks))
        return None

    def _within_limit(self, around: bytes) -> bytes:
        if len(around) > _MOST_AROUND:
            raise LimitExceededError(
                f"{self.shown_as}: holds more beside its rows than can be worked on safely "
                f"({_MOST_AROUND // 1_000_000} MB of XML)."
            )
        return around
