"""Means of scattered places, and what lies between them, smoothly."""

import numpy as np
from numpy.typing import NDArray

from lighten.compiled import compiled

__all__ = ["filled", "spread"]

Floats = NDArray[np.float32]


def filled(sums: Floats, shares: Floats) -> Floats:
    """Fill gaps with means of half the resolution, recursively."""
    height, width = shares.shape
    means: Floats = (sums / np.maximum(shares, np.float32(1))[..., None]).astype(np.float32)
    if shares.all() or max(height, width) == 1:
        return means if shares.any() else np.full_like(means, 255)
    padded = np.pad(sums, ((0, height % 2), (0, width % 2), (0, 0)))
    weights = np.pad(shares, ((0, height % 2), (0, width % 2)))
    # A place counts as one, however much of it is bare: what lies next to it matters as much.
    fullness = np.minimum(weights, 1.0)
    padded *= (fullness / np.maximum(weights, 1))[..., None]
    halves = [
        (padded[top::2, left::2], fullness[top::2, left::2]) for top in (0, 1) for left in (0, 1)
    ]
    half_sums, half_shares = np.zeros_like(halves[0][0]), np.zeros_like(halves[0][1])
    for values, full in halves:
        half_sums += values
        half_shares += full
    coarse = filled(half_sums, half_shares)
    between = np.empty((height, width), np.float32)
    for channel in range(sums.shape[2]):
        spread(np.ascontiguousarray(coarse[..., channel]), 2, between)
        means[..., channel] = np.where(shares > 0, means[..., channel], between)
    return means


@compiled
def spread(cells: Floats, cell: int, out: Floats) -> None:  # pragma: no cover - compiled
    """Interpolate linearly between the centres of cells."""
    rows, columns = cells.shape
    for y in range(out.shape[0]):
        down = min(max((y + 0.5) / cell - 0.5, 0.0), rows - 1.0)
        row = min(int(down), max(0, rows - 2))
        next_row, lower = min(rows - 1, row + 1), np.float32(down - row)
        for x in range(out.shape[1]):
            over = min(max((x + 0.5) / cell - 0.5, 0.0), columns - 1.0)
            column = min(int(over), max(0, columns - 2))
            next_column, right = min(columns - 1, column + 1), np.float32(over - column)
            upper = cells[row, column] * (1 - right) + cells[row, next_column] * right
            under = cells[next_row, column] * (1 - right) + cells[next_row, next_column] * right
            out[y, x] = upper * (1 - lower) + under * lower
