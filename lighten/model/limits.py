"""Limits of a copy's weight: as a file, or as a mail message that carries it."""

import re
from dataclasses import dataclass
from enum import StrEnum

__all__ = [
    "Carrier",
    "Limit",
    "file_bytes_in_message",
    "message_bytes",
    "read_limit",
    "rounded_size",
]

_LINE_BYTES = 57  # of the file; 76 characters of base64
_LINE_CHARACTERS = 78  # 76 and CRLF


class Carrier(StrEnum):
    """Carrier whose bytes the limit counts."""

    FILE = "file"
    MESSAGE = "message"


def message_bytes(file_bytes: int) -> int:
    """The characters that base64 makes of `file_bytes`, line ends included.

    Headers and the text of the mail are not in it.
    Source: RFC 2045, 6.8: four characters for three bytes, lines of at most 76 and CRLF.
    """
    whole_lines, left_over = divmod(file_bytes, _LINE_BYTES)
    last_line = -(-left_over // 3) * 4 + 2 if left_over else 0
    return whole_lines * _LINE_CHARACTERS + last_line


def file_bytes_in_message(limit_bytes: int) -> int:
    """The largest file whose base64 form is no longer than `limit_bytes`."""
    whole_lines, left_over = divmod(max(limit_bytes, 0), _LINE_CHARACTERS)
    return whole_lines * _LINE_BYTES + max(left_over - 2, 0) // 4 * 3


# IEC 80000-13: k and M count by thousands, Ki and Mi by 1024.
_UNITS = {"b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "kib": 2**10, "mib": 2**20, "gib": 2**30}


def read_limit(text: str) -> "Limit":
    """The limit that "5MB", "800 kB", "2MiB" or "5MB:message" means. Raises: ValueError."""
    size, _, carrier = text.strip().lower().partition(":")
    match = re.fullmatch(r"(\d+(?:\.\d+)?)\s*([kmg]?i?b)", size)
    if match is None or carrier not in ("", *Carrier):
        raise ValueError(f'"{text}" is no limit; write 5MB, 800kB, 2MiB or 5MB:message')
    size_bytes = round(float(match[1]) * _UNITS[match[2]])
    if size_bytes <= 0:
        raise ValueError("a limit is above zero bytes")
    return Limit(size_bytes=size_bytes, carrier=Carrier(carrier or Carrier.FILE))


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """`size_bytes`: of the file, or of the whole message, as `carrier` says."""

    size_bytes: int
    carrier: Carrier = Carrier.FILE

    def __post_init__(self) -> None:
        if self.size_bytes <= 0:
            raise ValueError("a limit is above zero bytes")

    @property
    def file_bytes(self) -> int:
        """The heaviest file that fits."""
        if self.carrier is Carrier.MESSAGE:
            return file_bytes_in_message(self.size_bytes)
        return self.size_bytes


def rounded_size(size_bytes: float) -> str:
    """Format a size for a sentence, in kB or MB of 1000 (IEC 80000-13)."""
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.0f} kB"
    return f"{size_bytes / 1_000_000:.1f} MB"
