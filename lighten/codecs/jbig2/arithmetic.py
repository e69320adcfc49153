"""The arithmetic coder of ITU-T T.88: decisions (annex E), whole numbers and symbols (annex A).

A coder is four numbers that its callers hold: the interval and its base (A and C in the standard),
how many shifts are left until a byte is full (CT), and the place of the last byte (BP). `out` has
a zero before the first byte. A context is a state of `STATES`: place in table E.1 times 2, plus
the likelier bit.
"""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import jit_helper

__all__ = ["STATES", "coded_bit", "coded_symbol", "coded_whole", "flushed"]

Bytes = NDArray[np.uint8]
Table = NDArray[np.int32]

# Table E.1: the less likely bit's share, the next place after either bit, and whether it changes
# which is likelier.
_TABLE_E1 = (
    *((0x5601, 1, 1, 1), (0x3401, 2, 6, 0), (0x1801, 3, 9, 0), (0x0AC1, 4, 12, 0)),
    *((0x0521, 5, 29, 0), (0x0221, 38, 33, 0), (0x5601, 7, 6, 1), (0x5401, 8, 14, 0)),
    *((0x4801, 9, 14, 0), (0x3801, 10, 14, 0), (0x3001, 11, 17, 0), (0x2401, 12, 18, 0)),
    *((0x1C01, 13, 20, 0), (0x1601, 29, 21, 0), (0x5601, 15, 14, 1), (0x5401, 16, 14, 0)),
    *((0x5101, 17, 15, 0), (0x4801, 18, 16, 0), (0x3801, 19, 17, 0), (0x3401, 20, 18, 0)),
    *((0x3001, 21, 19, 0), (0x2801, 22, 19, 0), (0x2401, 23, 20, 0), (0x2201, 24, 21, 0)),
    *((0x1C01, 25, 22, 0), (0x1801, 26, 23, 0), (0x1601, 27, 24, 0), (0x1401, 28, 25, 0)),
    *((0x1201, 29, 26, 0), (0x1101, 30, 27, 0), (0x0AC1, 31, 28, 0), (0x09C1, 32, 29, 0)),
    *((0x08A1, 33, 30, 0), (0x0521, 34, 31, 0), (0x0441, 35, 32, 0), (0x02A1, 36, 33, 0)),
    *((0x0221, 37, 34, 0), (0x0141, 38, 35, 0), (0x0111, 39, 36, 0), (0x0085, 40, 37, 0)),
    *((0x0049, 41, 38, 0), (0x0025, 42, 39, 0), (0x0015, 43, 40, 0), (0x0009, 44, 41, 0)),
    *((0x0005, 45, 42, 0), (0x0001, 45, 43, 0), (0x5601, 46, 46, 0)),
)
# By state: share of the less likely bit, next state after the likelier bit, and after the other.
STATES: Table = np.array(
    [
        (share, likelier * 2 + bit, other * 2 + (bit ^ changes))
        for share, likelier, other, changes in _TABLE_E1
        for bit in (0, 1)
    ],
    np.int32,
)


@jit_helper
def coded_bit(
    a: int,
    c: int,
    ct: int,
    at: int,
    out: Bytes,
    contexts: Bytes,
    place: int,
    bit: int,
    states: Table,
) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """The coder after one decision in the context at `place` (E.2.2 to E.2.6)."""
    state = contexts[place]
    share = int(states[state, 0])
    a -= share
    if (state & 1) == bit:
        if a & 0x8000:
            return a, c + share, ct, at
        contexts[place] = states[state, 1]
        if a < share:
            a = share
        else:
            c += share
    else:
        contexts[place] = states[state, 2]
        if a < share:
            c += share
        else:
            a = share
    while True:
        a <<= 1
        c <<= 1
        ct -= 1
        if ct == 0:
            c, ct, at = _byte_out(c, at, out)
        if a & 0x8000:
            return a, c, ct, at


@jit_helper
def _byte_out(c: int, at: int, out: Bytes) -> tuple[int, int, int]:  # pragma: no cover - compiled
    """Write a byte; after 0xFF only 7 bits follow, so that a carry fits (T.88, E.2.7)."""
    if out[at] != 0xFF and c >= 0x8000000:
        out[at] += 1
        c &= 0x7FFFFFF
    at += 1
    if out[at - 1] == 0xFF:
        out[at] = c >> 20
        return c & 0xFFFFF, 7, at
    out[at] = c >> 19
    return c & 0x7FFFF, 8, at


@jit_helper
def flushed(a: int, c: int, ct: int, at: int, out: Bytes) -> int:  # pragma: no cover - compiled
    """The place after the last byte, once everything is written (E.2.9)."""
    end = c + a
    c |= 0xFFFF
    if c >= end:
        c -= 0x8000
    c <<= ct
    c, ct, at = _byte_out(c, at, out)
    c <<= ct
    c, ct, at = _byte_out(c, at, out)
    if out[at] != 0xFF:
        at += 1
        out[at] = 0xFF
    out[at + 1] = 0xAC
    return at + 2


@jit_helper
def coded_whole(
    a: int,
    c: int,
    ct: int,
    at: int,
    out: Bytes,
    contexts: Bytes,
    value: int,
    is_none: bool,
    states: Table,
) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """Encode a whole number, or "out of band", in its 512 contexts (annex A.2)."""
    size = 0 if is_none else abs(value)
    if size < 4:
        bits, left, prefix, prefix_bits = 2, size, 0, 1
    elif size < 20:
        bits, left, prefix, prefix_bits = 4, size - 4, 0b10, 2
    elif size < 84:
        bits, left, prefix, prefix_bits = 6, size - 20, 0b110, 3
    elif size < 340:
        bits, left, prefix, prefix_bits = 8, size - 84, 0b1110, 4
    elif size < 4436:
        bits, left, prefix, prefix_bits = 12, size - 340, 0b11110, 5
    else:
        bits, left, prefix, prefix_bits = 32, size - 4436, 0b11111, 5
    sign = 1 if is_none or value < 0 else 0
    whole = (((sign << prefix_bits) | prefix) << bits) | left
    before = 1
    for place in range(prefix_bits + bits, -1, -1):
        bit = (whole >> place) & 1
        a, c, ct, at = coded_bit(a, c, ct, at, out, contexts, before, bit, states)
        before = (before << 1) | bit
        if before >= 512:
            before = (before & 511) | 256
    return a, c, ct, at


@jit_helper
def coded_symbol(
    a: int,
    c: int,
    ct: int,
    at: int,
    out: Bytes,
    contexts: Bytes,
    value: int,
    bits: int,
    states: Table,
) -> tuple[int, int, int, int]:  # pragma: no cover - compiled
    """Encode the number of a symbol in `bits` bits (annex A.3)."""
    before = 1
    for place in range(bits - 1, -1, -1):
        bit = (value >> place) & 1
        a, c, ct, at = coded_bit(a, c, ct, at, out, contexts, before, bit, states)
        before = (before << 1) | bit
    return a, c, ct, at
