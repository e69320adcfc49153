"""A Deflate stream written in pieces that several threads pack at a time.

The packer that packs tightest ends every stream for good. Here the end of a piece is cleared:
its last block is no longer marked as such, and an empty block brings it to a whole byte.
Source: RFC 1951, 3.2.
"""

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled, jit_helper

__all__ = ["clear_final_block", "joined"]

# Symbols of lengths and distances: extra bits, by symbol (3.2.5).
_LENGTH_BITS = np.array([0] * 8 + [n for n in range(1, 6) for _ in range(4)] + [0], np.int64)
_DISTANCE_BITS = np.array([0, 0, *(n for n in range(14) for _ in range(2))], np.int64)
_ORDER = np.array([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15], np.int64)
_BLOCK_HEAD_BITS = 3
# Lengths of codes, those of their own codes, and the codes: per length their number
# of each length, 16 on their symbols in order; literals at 0, distances at 320.
Room = tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]
# Of an empty block that holds nothing: length and its complement (3.2.4).
_EMPTY = b"\x00\x00\xff\xff"


def joined(pieces: Iterable[bytes]) -> Iterator[bytes]:
    """Join whole raw Deflate streams into one, in order. Raises: as `clear_final_block`."""
    waiting: bytes | None = None
    for piece in pieces:
        if waiting is not None:
            yield clear_final_block(waiting)
        waiting = piece
    if waiting is not None:
        yield waiting


def clear_final_block(piece: bytes) -> bytes:
    """Clear the final bit of a whole raw Deflate stream, so that others may follow it."""
    data = np.frombuffer(piece, np.uint8)
    found = np.zeros(3, np.int64)
    room = np.zeros(320, np.int64), np.zeros(19, np.int64), np.zeros(656, np.int64)
    _find_end(data, (_LENGTH_BITS, _DISTANCE_BITS, _ORDER), room, found)
    is_sound, last_at, end = (int(value) for value in found)
    if not is_sound or (end + 7) // 8 != len(piece):
        raise ValueError("no whole Deflate stream")
    out = bytearray(piece)
    out[last_at // 8] &= ~(1 << (last_at % 8)) & 0xFF
    # Three bits of zero for an empty stored block: those that are left over are zero already.
    if end % 8 == 0 or end % 8 + _BLOCK_HEAD_BITS > 8:
        out.append(0)
    return bytes(out) + _EMPTY


@jit_helper
def _bits(data: NDArray[np.uint8], at: int, count: int) -> int:  # pragma: no cover - compiled
    """Return `count` bits from the bit `at`; zeros beyond the end."""
    value = 0
    for place in range(count):
        byte = (at + place) >> 3
        if byte < len(data) and (data[byte] >> ((at + place) & 7)) & 1:
            value |= 1 << place
    return value


@jit_helper
def _build(
    lengths: NDArray[np.int64], first: int, count: int, codes: NDArray[np.int64], at: int
) -> None:  # pragma: no cover - compiled
    """The canonical code of `count` symbols: at `at` how many of each length, then in order."""
    for place in range(at, at + 320):
        codes[place] = 0
    for symbol in range(count):
        codes[at + lengths[first + symbol]] += 1
    codes[at] = 0
    start = at + 16
    for length in range(1, 16):
        for symbol in range(count):
            if lengths[first + symbol] == length:
                codes[start] = symbol
                start += 1


@jit_helper
def _symbol(
    data: NDArray[np.uint8], at: int, codes: NDArray[np.int64], base: int
) -> int:  # pragma: no cover - compiled
    """Return the symbol at a bit, plus 512 times its code's length; -1 if there is none."""
    code, first, index = 0, 0, 0
    for length in range(1, 16):
        byte = (at + length - 1) >> 3
        if byte >= len(data):
            return -1
        code |= (data[byte] >> ((at + length - 1) & 7)) & 1
        count = codes[base + length]
        if code - count < first:
            return int(codes[base + 16 + index + code - first]) + 512 * length
        index += count
        first = (first + count) << 1
        code <<= 1
    return -1


@jit_helper
def _read_codes(
    data: NDArray[np.uint8],
    at: int,
    order: NDArray[np.int64],
    room: Room,
) -> int:  # pragma: no cover - compiled
    """Read both codes of a block that carries its own (3.2.7); and the bit after them, or -1."""
    lengths, small, codes = room
    literals = _bits(data, at, 5) + 257
    distances = _bits(data, at + 5, 5) + 1
    count = _bits(data, at + 10, 4) + 4
    at += 14
    for place in range(19):
        small[place] = 0
    for place in range(count):
        small[order[place]] = _bits(data, at, 3)
        at += 3
    _build(small, 0, 19, codes, 0)
    place = 0
    while place < literals + distances:
        found = _symbol(data, at, codes, 0)
        if found < 0:
            return -1
        symbol, value, times = found & 511, 0, 1
        at += found >> 9
        if symbol < 16:
            value = symbol
        elif symbol == 16:
            if place == 0:
                return -1
            value, times = lengths[place - 1], 3 + _bits(data, at, 2)
            at += 2
        elif symbol == 17:
            times = 3 + _bits(data, at, 3)
            at += 3
        else:
            times = 11 + _bits(data, at, 7)
            at += 7
        if place + times > literals + distances:
            return -1
        for _ in range(times):
            lengths[place] = value
            place += 1
    _build(lengths, 0, literals, codes, 0)
    _build(lengths, literals, distances, codes, 320)
    return at


@jit_helper
def _fixed_codes(room: Room) -> None:  # pragma: no cover - compiled
    """Return the fixed codes of a block without its own (3.2.6)."""
    lengths, _, codes = room
    for place in range(318):
        lengths[place] = 5 if place >= 288 else 8
    for place in range(144, 280):
        lengths[place] = 9 if place < 256 else 7
    _build(lengths, 0, 288, codes, 0)
    _build(lengths, 288, 30, codes, 320)


@compiled
def _find_end(
    data: NDArray[np.uint8],
    tables: Room,
    room: Room,
    found: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    """Write to `found`: 1 if sound, the bit where the last block begins, the bit after the stream.

    tables: extra bits of lengths and of distances, order of the lengths of codes.
    """
    length_bits, distance_bits, order = tables
    codes = room[2]
    at, total = 0, len(data) * 8
    while at < total:
        begin = at
        is_last, kind = _bits(data, at, 1), _bits(data, at + 1, 2)
        at += 3
        if kind == 3:
            return
        if kind == 0:
            at = (at + 7) & ~7
            at += 32 + 8 * _bits(data, at, 16)
        else:
            if kind == 1:
                _fixed_codes(room)
            else:
                at = _read_codes(data, at, order, room)
            symbol = 0
            while symbol != 256:
                step = _symbol(data, at, codes, 0) if at >= 0 else -1
                if step < 0:
                    return
                symbol = step & 511
                at += step >> 9
                if symbol > 285:
                    return
                if symbol > 256:
                    at += length_bits[symbol - 257]
                    step = _symbol(data, at, codes, 320)
                    if step < 0 or step & 511 > 29:
                        return
                    at += (step >> 9) + distance_bits[step & 511]
        if is_last:
            found[0], found[1], found[2] = 1, begin, at
            return
