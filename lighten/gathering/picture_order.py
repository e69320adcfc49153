"""Order of pictures that are gathered."""

from enum import StrEnum

__all__ = ["PictureOrder"]


class PictureOrder(StrEnum):
    """Sort key of pictures."""

    GIVEN = "given"
    NAME = "name"
    TIME = "time"
