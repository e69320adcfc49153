"""Loose pictures put together to one document, a page each."""

from lighten.gathering.arrange import PictureOrder, arranged
from lighten.gathering.gather import Gathered, gather
from lighten.gathering.page_look import PageLook, look_at_page
from lighten.gathering.page_sizes import PageSize, placed_on

__all__ = [
    "Gathered",
    "PageLook",
    "PageSize",
    "PictureOrder",
    "arranged",
    "gather",
    "look_at_page",
    "placed_on",
]
