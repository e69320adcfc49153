"""How heavy a copy may be: as a file, or as a mail message that carries it."""

from dataclasses import dataclass
from enum import StrEnum

__all__ = ["Carrier", "Limit", "file_bytes_in_message", "message_bytes"]

_LINE_BYTES = 57  # of the file; 76 characters of base64
_LINE_CHARACTERS = 78  # 76 and CRLF


class Carrier(StrEnum):
    """What the limit counts."""

    FILE = "file"
    MESSAGE = "message"


def message_bytes(file_bytes: int) -> int:
    """The characters that base64 makes of `file_bytes`, line ends included.

    Headers and the text of the mail are not in it.
    Source: RFC 2045, 6.8: four characters for three bytes, lines of at most 76 and CRLF.
    """
    whole_lines, rest = divmod(file_bytes, _LINE_BYTES)
    last_line = -(-rest // 3) * 4 + 2 if rest else 0
    return whole_lines * _LINE_CHARACTERS + last_line


def file_bytes_in_message(limit_bytes: int) -> int:
    """The largest file whose base64 form is no longer than `limit_bytes`."""
    whole_lines, rest = divmod(max(limit_bytes, 0), _LINE_CHARACTERS)
    return whole_lines * _LINE_BYTES + max(rest - 2, 0) // 4 * 3


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
