"""What a document format must offer the rest of the core."""

from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from lighten.coding_store import CodingStore
from lighten.plans import Decision, Outcome, Plan
from lighten.proofs import Box
from lighten.trials import Trial
from lighten.weights import ExtraKind, WeightSheet

__all__ = ["Box", "Format", "PageView", "Progress", "Reading", "Source", "no_progress"]

# Told the share done, 0 to 1.
Progress = Callable[[float], None]


def no_progress(_share: float) -> None:
    """For callers who do not watch."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A file to read, and the password it may need. Nothing here ever writes to it.

    shown_as: its name in messages, where it is stored under another.
    """

    path: Path
    password: str = ""
    shown_as: str = ""

    @property
    def name(self) -> str:
        return self.shown_as or self.path.name


@dataclass(frozen=True, slots=True, kw_only=True)
class PageView:
    """One page as a reader sees it.

    pixels: (height, width, 3) uint8, sRGB, at `dpi` pixels per inch.
    """

    pixels: NDArray[np.uint8]
    dpi: float
    text: str


class Reading(Protocol):
    """An opened document, as an independent reader understands it."""

    @property
    def page_sizes(self) -> tuple[tuple[float, float], ...]:
        """Width and height of each page, in points."""

    @property
    def promises(self) -> dict[str, tuple[str, ...]]:
        """What must survive, by what it is ("links", "bookmarks" ...), in order, as text."""

    def annotation_boxes(self, page: int, kinds: Collection[ExtraKind]) -> tuple[Box, ...]:
        """Where notes, stamps and the like of those kinds stand on a page."""

    def view(self, page: int, dpi: float) -> PageView:
        """A page, counted from 1. Raises: UnreadableFileError if it cannot be drawn."""

    def spot(self, page: int, dpi: float, box: Box) -> NDArray[np.uint8]:
        """A part of a page, (height, width, 3) uint8, sRGB. Raises: as `view`."""


class Format(Protocol):
    """A kind of document that can be weighed and made lighter."""

    @property
    def name(self) -> str:
        """What the command and the API call it."""

    @property
    def suffix(self) -> str:
        """Of its files, with the dot."""

    @property
    def media_type(self) -> str:
        """Of its files, as IANA lists it."""

    def recognises(self, head: bytes) -> bool:
        """A file that begins so is of this format, sound or not."""

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        """Every part, adding up to the file."""

    def try_out(
        self,
        source: Source,
        sheet: WeightSheet,
        asked: Mapping[str, tuple[Decision, ...]],
        store: CodingStore | None,
        *,
        for_good: bool,
    ) -> Iterator[tuple[str, tuple[Trial, ...]]]:
        """By part id, in the order of `asked`, what those decisions would make of the pictures.

        for_good: coded as a copy will have them; else as drafts, which are quick.
        """

    def write(
        self,
        source: Source,
        sheet: WeightSheet,
        plan: Plan,
        out: Path,
        progress: Progress,
        *,
        store: CodingStore | None,
    ) -> tuple[Outcome, ...]:
        """Carry out the plan into a new file at `out`; what came of each part.

        store: where codings of the same pictures may lie from an earlier time.
        """

    def thumbnail(self, source: Source, part_id: str, longest_px: int) -> NDArray[np.uint8]:
        """A small copy of a picture, (height, width[, 3]) uint8."""

    def excerpt(self, source: Source, first: int, last: int, out: Path) -> None:
        """Some pages, counted from 1, as a file of their own, with what belongs to them."""

    def read(self, source: Source) -> AbstractContextManager[Reading]:
        """The document through a reader that had no part in writing it."""
