"""A table of things to be coded one after another, and the loop that codes it."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lighten.codecs.jbig2.arithmetic import STATES, coded_symbol, coded_whole, flushed
from lighten.codecs.jbig2.pixels import coded_bitmap, coded_change
from lighten.compiled import compiled

__all__ = ["Bitmap", "Operations", "code"]

Bytes = NDArray[np.uint8]

_WHOLE, _NONE, _SYMBOL, _BITMAP, _CHANGE = range(5)
_COLUMNS = 9
_CONTEXTS = 1 << 16
_CONTEXTS_OF_WHOLE = 512
# Far more than any picture comes to.
_BITS_A_PIXEL, _BYTES_AN_OPERATION, _BYTES_MORE = 4, 12, 4096

# Where the first pixel lies, and width and height.
Bitmap = tuple[int, int, int]


@dataclass(slots=True)
class Operations:
    """A list that grows; numbers of each name have contexts of their own."""

    rows: list[tuple[int, ...]] = field(default_factory=list)
    names: list[str] = field(default_factory=list)

    def whole(self, name: str, value: int) -> None:
        self.rows.append((_WHOLE, self._place(name), value, 0, 0, 0, 0, 0, 0))

    def none(self, name: str) -> None:
        self.rows.append((_NONE, self._place(name), 0, 0, 0, 0, 0, 0, 0))

    def symbol(self, number: int) -> None:
        self.rows.append((_SYMBOL, number, 0, 0, 0, 0, 0, 0, 0))

    def bitmap(self, bitmap: Bitmap, *, skips: bool = False) -> None:
        """Add a bitmap. skips: a row equal to the one above takes one bit."""
        self.rows.append((_BITMAP, *bitmap, int(skips), 0, 0, 0, 0))

    def change(self, bitmap: Bitmap, like: Bitmap, moved: tuple[int, int]) -> None:
        self.rows.append((_CHANGE, *bitmap, *like, *moved))

    def _place(self, name: str) -> int:
        if name not in self.names:
            self.names.append(name)
        return self.names.index(name)


def code(
    operations: Operations, pixels: Bytes, *, template: int = 0, symbol_bits: int = 0
) -> bytes:
    """Return the arithmetic code of all operations.

    pixels: in which bitmaps lie, framed. template: of bitmaps, 0 to 3. symbol_bits: of a number.
    """
    table = np.array(operations.rows, np.int32).reshape(-1, _COLUMNS)
    coded_px = int((table[:, 2].astype(np.int64) * table[:, 3])[table[:, 0] >= _BITMAP].sum())
    most = coded_px * _BITS_A_PIXEL // 8 + len(table) * _BYTES_AN_OPERATION + _BYTES_MORE
    out = np.zeros(most, np.uint8)
    end = np.zeros(1, np.int64)
    _code(
        table,
        pixels,
        template,
        symbol_bits,
        np.zeros((max(1, len(operations.names)), _CONTEXTS_OF_WHOLE), np.uint8),
        np.zeros(1 << max(1, symbol_bits), np.uint8),
        np.zeros(_CONTEXTS, np.uint8),
        np.zeros(_CONTEXTS, np.uint8),
        STATES,
        out,
        end,
    )
    return out[1 : end[0]].tobytes()


@compiled
def _code(
    table: NDArray[np.int32],
    pixels: Bytes,
    template: int,
    symbol_bits: int,
    of_wholes: Bytes,
    of_symbols: Bytes,
    of_bitmaps: Bytes,
    of_changes: Bytes,
    states: NDArray[np.int32],
    out: Bytes,
    end: NDArray[np.int64],
) -> None:  # pragma: no cover - compiled
    a, c, ct, at = 0x8000, 0, 12, 0
    for n in range(table.shape[0]):
        kind, p, q, r, s, t, u, v, w = (
            table[n, 0],
            table[n, 1],
            table[n, 2],
            table[n, 3],
            table[n, 4],
            table[n, 5],
            table[n, 6],
            table[n, 7],
            table[n, 8],
        )
        if kind == _SYMBOL:
            a, c, ct, at = coded_symbol(a, c, ct, at, out, of_symbols, p, symbol_bits, states)
        elif kind == _BITMAP:
            a, c, ct, at = coded_bitmap(
                a, c, ct, at, out, of_bitmaps, pixels, p, q, r, template, s, states
            )
        elif kind == _CHANGE:
            a, c, ct, at = coded_change(
                a, c, ct, at, out, of_changes, pixels, p, q, r, s, t, u, v, w, states
            )
        else:
            is_none = kind == _NONE
            a, c, ct, at = coded_whole(a, c, ct, at, out, of_wholes[p], q, is_none, states)
    end[0] = flushed(a, c, ct, at, out)
