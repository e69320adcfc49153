"""Differences between kinds of OpenDocument: data and small functions, one value each."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind, PartKind

__all__ = ["OdfFamily", "no_more_cleaning"]


def no_more_cleaning(root: Any, dropped: Collection[ExtraKind]) -> None:
    """Do nothing beyond the cleaning that all kinds share."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OdfFamily:
    """name: of the format. noun: what a document is not, where it is of another kind.

    words_near: what stands by an element that shows a picture. page_pt: where nothing says how
    large a page is. titles: of members. clean: does to the root of content.xml what only this kind
    needs, for the extras that are removed. own_extras: that `clean` takes out of content.xml.
    """

    name: str
    noun: str
    kinds: tuple[FileKind, ...]
    extras: tuple[ExtraKind, ...]
    words_near: Callable[[Any], str]
    page_pt: tuple[float, float]
    titles: Mapping[str, tuple[PartKind, str]]
    clean: Callable[[Any, Collection[ExtraKind]], None] = no_more_cleaning
    own_extras: tuple[ExtraKind, ...] = field(default=())
