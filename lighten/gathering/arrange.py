"""Pictures put in order before they are gathered."""

import re
from collections.abc import Sequence
from datetime import UTC, datetime

from lighten.gathering.loose_pictures import loose_pictures
from lighten.gathering.picture_order import PictureOrder
from lighten.model.errors import LightenError
from lighten.model.source import Source

__all__ = ["arranged"]

_NUMBERS = re.compile(r"(\d+)")


def arranged(pictures: Sequence[Source], order: PictureOrder) -> list[Source]:
    """Sort by name in natural order, "page 2" before "page 10"; or by the time of each picture.

    Pictures without a time count by that of their file.
    """
    if order is PictureOrder.NAME:
        return sorted(pictures, key=lambda source: _by_numbers(source.name))
    if order is PictureOrder.TIME:
        return sorted(pictures, key=_taken_at)
    return list(pictures)


def _by_numbers(name: str) -> list[tuple[int, int, str]]:
    return [
        (0, int(piece), "") if piece.isdecimal() else (1, 0, piece.casefold())
        for piece in _NUMBERS.split(name)
        if piece
    ]


def _taken_at(source: Source) -> str:
    try:
        taken_at = next(loose_pictures(source)).taken_at
    except LightenError:
        taken_at = ""  # reported when it is gathered
    if taken_at or not source.path.exists():
        return taken_at
    return datetime.fromtimestamp(source.path.stat().st_mtime, UTC).strftime("%Y-%m-%d %H:%M:%S")
