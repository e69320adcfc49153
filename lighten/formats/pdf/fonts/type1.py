"""Type 1 fonts as a PDF embeds them, read letter by letter.

Source: Adobe Type 1 Font Format (1990), chapters 2 and 7. The font library reads them by running
their PostScript, which takes a second a font; all of them are written by one pattern.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled

if TYPE_CHECKING:
    from fontTools.misc.psCharStrings import T1CharString

__all__ = ["FILE_KEY", "LETTER_KEY", "NOTDEF", "Type1Font", "decrypted", "read_type1"]

NOTDEF = ".notdef"
# The two keys of chapter 7.
FILE_KEY, LETTER_KEY = 55665, 4330
_FILE_LEAD, _USUAL_LEAD = 4, 4
_EEXEC = re.compile(rb"currentfile\s+eexec(?:\r\n|[ \t\r\n])")
_HEX_START = re.compile(rb"[0-9A-Fa-f\s]{8}")
_LEAD = re.compile(rb"/lenIV\s+(-?\d+)")
_NUMBERS = rb"/%s\s*[\[{]([^\]}]*)[\]}]"
_STANDARD = re.compile(rb"/Encoding\s+StandardEncoding\s+def")
_CODE = re.compile(rb"dup\s+(\d+#)?(\w+)\s*/(\S+)\s+put")
# "dup 5 12 RD " and "/A 12 RD ", then so many bytes; what stands between two is a word or two.
_SUBROUTINE = re.compile(rb"dup\s+(\d+)\s+(\d+)\s+[^\s/]+ ")
_LETTER = re.compile(rb"/(\S+)\s+(\d+)\s+[^\s/]+ ")
_MOST_BETWEEN = 80
_LETTERS = b"/CharStrings"


@dataclass(frozen=True, slots=True)
class Type1Font:
    """encoding: the name for each of 256 codes. matrix, box: /FontMatrix and /FontBBox.

    letters: by name, what draws each.
    """

    encoding: tuple[str, ...]
    matrix: tuple[float, ...]
    box: tuple[float, ...]
    letters: "Mapping[str, T1CharString]"


def read_type1(data: bytes) -> Type1Font:
    """Parse the font of a /FontFile. Raises: ValueError for other formats."""
    from fontTools.misc.psCharStrings import T1CharString

    found = _EEXEC.search(data)
    if found is None:
        raise ValueError("a Type 1 font without its encrypted part")
    plain, private = data[: found.end()], _private(data[found.end() :])
    lead = _LEAD.search(private)
    skipped = int(lead[1]) if lead else _USUAL_LEAD
    start = private.find(_LETTERS) + len(_LETTERS)
    if start < len(_LETTERS):
        raise ValueError("a Type 1 font without letters")
    routines: list[T1CharString | None] = []
    for name, program in _programs(_SUBROUTINE, private, private.find(b"/Subrs"), start, skipped):
        place = int(name)
        routines += [None] * (place + 1 - len(routines))
        routines[place] = T1CharString(program, subrs=routines)
    return Type1Font(
        encoding=_encoding(plain),
        matrix=_numbers(b"FontMatrix", plain),
        box=_numbers(b"FontBBox", plain),
        letters={
            name: T1CharString(program, subrs=routines)
            for name, program in _programs(_LETTER, private, start, len(private), skipped)
        },
    )


def _private(encrypted: bytes) -> bytes:
    """Return the encrypted portion as bytes, from binary or hexadecimal form (7.2)."""
    if _HEX_START.match(encrypted):
        digits = re.sub(rb"\s+", b"", encrypted.split(b"cleartomark")[0])
        encrypted = bytes.fromhex(digits[: len(digits) // 2 * 2].decode("ascii"))
    return decrypted(encrypted, FILE_KEY)[_FILE_LEAD:]


def _programs(
    entry: re.Pattern[bytes], private: bytes, start: int, end: int, lead: int
) -> Iterator[tuple[str, bytes]]:
    """The name or number of each, and its bytes; lead: how many come first that mean nothing."""
    if start < 0:
        return
    found = entry.search(private, start, end)
    while found is not None:
        stop = found.end() + int(found[2])
        if stop > len(private):
            raise ValueError("a Type 1 font that ends early")
        program = private[found.end() : stop]
        name = found[1].decode("latin-1")
        yield name, program if lead < 0 else decrypted(program, LETTER_KEY)[lead:]
        found = entry.search(private, stop, min(end, stop + _MOST_BETWEEN))


def _encoding(plain: bytes) -> tuple[str, ...]:
    from fontTools.encodings.StandardEncoding import StandardEncoding

    if _STANDARD.search(plain):
        return tuple(StandardEncoding)
    names = [NOTDEF] * 256
    for base, code, name in _CODE.findall(plain, max(0, plain.find(b"/Encoding"))):
        names[int(code, int(base[:-1]) if base else 10)] = name.decode("latin-1")
    return tuple(names)


def _numbers(key: bytes, plain: bytes) -> tuple[float, ...]:
    found = re.search(_NUMBERS % key, plain)
    if found is None:
        raise ValueError(f"a Type 1 font without {key.decode()}")
    return tuple(float(number) for number in found[1].split())


def decrypted(data: bytes, key: int) -> bytes:
    """Decrypt a portion of a font, without the random bytes at its start (Type 1 format, 7.1)."""
    cipher = np.frombuffer(data, np.uint8)
    plain = np.empty(len(cipher), np.uint8)
    _decrypt(cipher, key, plain)
    return plain.tobytes()


@compiled
def _decrypt(
    cipher: NDArray[np.uint8], key: int, plain: NDArray[np.uint8]
) -> None:  # pragma: no cover - compiled
    state = key
    for place in range(len(cipher)):
        byte = int(cipher[place])
        plain[place] = byte ^ (state >> 8)
        state = ((byte + state) * 52845 + 22719) & 0xFFFF
