"""The eight ways in which a picture may be stored, and how each is turned the right way up."""

from collections.abc import Mapping
from types import MappingProxyType

__all__ = ["UPRIGHT", "Turn", "is_on_its_side", "turned"]

# A matrix of PDF that maps the unit square onto itself: a to f of "cm".
Turn = tuple[int, int, int, int, int, int]

# By the tag Orientation (Exif 2.32, table 4): where row 0 and column 0 of what is stored are seen.
UPRIGHT: Mapping[int, Turn] = MappingProxyType(
    {
        1: (1, 0, 0, 1, 0, 0),  # top, left
        2: (-1, 0, 0, 1, 1, 0),  # top, right
        3: (-1, 0, 0, -1, 1, 1),  # bottom, right
        4: (1, 0, 0, -1, 0, 1),  # bottom, left
        5: (0, -1, -1, 0, 1, 1),  # left, top
        6: (0, -1, 1, 0, 0, 1),  # right, top
        7: (0, 1, 1, 0, 0, 0),  # right, bottom
        8: (0, 1, -1, 0, 1, 0),  # left, bottom
    }
)
_RIGHT_ANGLE = 90


def turned(turn: Turn, degrees: int) -> Turn:
    """The picture turned further, with the clock. Raises: ValueError but for right angles."""
    if degrees % _RIGHT_ANGLE:
        raise ValueError(f"{degrees} degrees: pages are turned by 90, 180 or 270")
    for _ in range(degrees // _RIGHT_ANGLE % 4):
        turn = _then(turn, UPRIGHT[6])
    return turn


def is_on_its_side(turn: Turn) -> bool:
    """Return whether the turn swaps width and height."""
    return turn[0] == 0


def _then(first: Turn, second: Turn) -> Turn:
    """Multiply two matrices, the first applied first (ISO 32000-1, 8.3.4)."""
    a, b, c, d, e, f = first
    g, h, i, j, k, m = second
    return (
        a * g + b * i,
        a * h + b * j,
        c * g + d * i,
        c * h + d * j,
        e * g + f * i + k,
        e * h + f * j + m,
    )
