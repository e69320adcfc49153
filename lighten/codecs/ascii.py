"""Bytes written as letters (ISO 32000-1, 7.4.2 and 7.4.3)."""

import re

import numpy as np

__all__ = ["decode_ascii85", "decode_ascii_hex"]

_BLANK = b" \t\r\n\f\0"
_FIRST_DIGIT, _DIGITS = ord("!"), 85
_PLACES = np.array([_DIGITS**place for place in (4, 3, 2, 1, 0)], np.int64)


def decode_ascii85(text: bytes) -> bytes:
    """Decode five letters to four bytes, up to the end mark. Raises: ValueError.

    By arrays: the standard library goes letter by letter, which took a third of all the time on
    files whose pictures are written so.
    """
    letters = text.translate(None, _BLANK).removeprefix(b"<~").split(b"~>")[0]
    letters = letters.replace(b"z", b"!!!!!")
    missing = -len(letters) % 5
    digits = np.frombuffer(letters + b"u" * missing, np.uint8).astype(np.int64) - _FIRST_DIGIT
    if not digits.size:
        return b""
    if digits.min() < 0 or digits.max() >= _DIGITS:
        raise ValueError("letters that are none of ASCII85")
    numbers = digits.reshape(-1, 5) @ _PLACES
    if numbers.max() >= 1 << 32:
        raise ValueError("a group of ASCII85 that is too large")
    decoded = numbers.astype(">u4").tobytes()
    return decoded[: len(decoded) - missing]


def decode_ascii_hex(text: bytes) -> bytes:
    """Decode two letters to a byte, up to the end mark; other letters are skipped."""
    digits = re.sub(rb"[^0-9A-Fa-f]", b"", text.split(b">")[0])
    return bytes.fromhex((digits + b"0" * (len(digits) % 2)).decode())
