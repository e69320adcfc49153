"""Contract between document formats and the rest of the core."""

from collections.abc import Collection, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from lighten.model.kinds import ExtraKind, PictureCoding
from lighten.model.plans import Decision, Outcome, Plan
from lighten.model.proofs import Box
from lighten.model.source import Progress, Source
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers
from lighten.pictures.recoding.recode import Recoded, RecodeJob

__all__ = [
    "ConvertingFormat",
    "Editing",
    "FileKind",
    "FontsReading",
    "Format",
    "MembersReading",
    "Nesting",
    "Offers",
    "PageView",
    "PagedReading",
    "PicturesReading",
    "Reading",
    "Splittable",
    "Switch",
]


class Switch(StrEnum):
    """Choices of a treatment besides pictures and extras."""

    SUBSET_FONTS = "fonts.subset"
    DROP_STANDARD_FONTS = "fonts.drops_standard"
    DROP_EMBEDDED_FONTS = "fonts.drops_embedded"
    LIGHTEN_EMBEDDED = "lightens_embedded"
    SIMPLIFY_DRAWING = "drawing"
    LINEARIZE = "is_linearized"
    CUT_HIDDEN = "cuts_hidden"
    ASSUMED_SIZE = "assumed_size"  # what has no size of its own may be given one


@dataclass(frozen=True, slots=True, kw_only=True)
class FileKind:
    """A kind of file that a format reads or writes.

    title: for a person. media_type: as IANA lists it. suffixes: the usual one first, with the dot.
    """

    title: str
    media_type: str
    suffixes: tuple[str, ...]

    def suffix_for(self, name: str) -> str:
        """Return the file extension for this kind: that of `name` if it is one of them."""
        own = Path(name).suffix
        return own if own.lower() in self.suffixes else self.suffixes[0]


@dataclass(frozen=True, slots=True, kw_only=True)
class Offers:
    """Choices that a format offers, as data, so that no caller needs to know formats by name.

    kinds: of files it reads, or makes out of them. has_pages: copies are proved page by page.
    can_split: a copy can be cut into pieces. can_be_laid_out: an office suite makes pages of it.
    extras: kinds that it may find.
    switches: that change something. codings: of pictures, that it can hold. first_picture: id of
    the part that is a document's first page, in a format whose documents are pictures; else "".
    """

    kinds: tuple[FileKind, ...]
    has_pages: bool
    can_split: bool
    extras: tuple[ExtraKind, ...]
    switches: frozenset[Switch]
    codings: frozenset[PictureCoding]
    can_be_laid_out: bool = False
    first_picture: str = ""

    def kind_of(self, media_type: str) -> FileKind:
        """Return the kind of file with that media type. Raises: KeyError."""
        for kind in self.kinds:
            if kind.media_type == media_type:
                return kind
        raise KeyError(media_type)


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
    def readers(self) -> tuple[str, ...]:
        """Names of the programs and libraries that read each thing, for the proof to name."""

    def preserved_features(self) -> Mapping[str, tuple[str, ...]]:
        """Return the features that must survive, by their kind ("links", "bookmarks" ...), in
        order, as text.
        """


@runtime_checkable
class PagedReading(Reading, Protocol):
    """Second reading of a document with pages."""

    @property
    def page_sizes(self) -> tuple[tuple[float, float], ...]:
        """Width and height of each page, in points."""

    def annotation_boxes(self, page: int, kinds: Collection[ExtraKind]) -> tuple[Box, ...]:
        """Return the boxes of annotations of those kinds on a page."""

    def view(self, page: int, dpi: float) -> PageView:
        """A page, counted from 1. Raises: UnreadableFileError if it cannot be drawn."""

    def render_region(self, page: int, dpi: float, box: Box) -> NDArray[np.uint8]:
        """A part of a page, (height, width, 3) uint8, sRGB. Raises: as `view`."""

    def render_region_at_size(
        self, page: int, box: Box, size_px: tuple[int, int]
    ) -> NDArray[np.uint8]:
        """Render a region of a page at an exact size, (height, width, 3) uint8. Raises: as `view`.

        What fills the box and has as many pixels comes out nearly pixel by pixel.
        """

    def embedded_image(self, page: int, box: Box) -> NDArray[np.uint8] | None:
        """The picture that fills a box, as many pixels as it has, without its mask; if it is one.

        (height, width, 3) uint8. Raises: as `view`.
        """


@runtime_checkable
class LockstepReading(PagedReading, Protocol):
    """Reading of pages that can be compared by what they are drawn from, without drawing them."""

    def pages_drawn_alike(
        self, copy: Path, pages: Collection[int], treated: Collection[str]
    ) -> Mapping[int, bool]:
        """Return those of `pages` that the file at `copy` draws from the same contents.

        With each, whether its text may read otherwise, as only a font file explains it.
        treated: pictures that are taken to differ, by part id. Other pictures have the same pixels,
        whatever codes them; the files of fonts may differ, which `changed_fonts` compares.
        """

    def page_text(self, page: int) -> str:
        """Return the text of a page, counted from 1. Raises: UnreadableFileError."""


@runtime_checkable
class PicturesReading(Reading, Protocol):
    """Second reading of a document without pages, which looks as its pictures do."""

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> NDArray[np.uint8]:
        """Decode all pixels as a reader shows them, upright, on white where they are transparent.

        Of a picture in a document, what any of its frames shows. least_px: what is enough across
        and down, where a reader can save itself more.
        Returns (height, width, 3) uint8, sRGB. Raises: UnreadableFileError; KeyError.
        """

    def fingerprint(self, part_id: str) -> str:
        """Return a mark that is equal where storage and placements are equal. Raises: KeyError."""


@runtime_checkable
class FontsReading(Reading, Protocol):
    """Reading of a document that carries the fonts its text is drawn with."""

    def changed_fonts(self, copy: Path, *, may_lack_files: bool) -> tuple[str, ...]:
        """Name the fonts that draw a shown code otherwise in the file at `copy`, and why.

        may_lack_files: fonts may be no longer embedded, as a person chose.
        """


@runtime_checkable
class MembersReading(Reading, Protocol):
    """Second reading of a document that is a package of members."""

    @property
    def malformed(self) -> frozenset[str]:
        """Return the members that should be XML and cannot be parsed."""


class Editing(Protocol):
    """A document opened to be changed, in memory; the file it came from stays as it is.

    For a copy, `leave_out` comes first, then any `job` and `put`, then `apply_rest` and `save`.
    For trials and thumbnails, `job` alone.
    """

    def leave_out(self, plan: Plan) -> Mapping[str, Outcome]:
        """Take out what the plan drops; by part id, what came of parts that had to stay.

        Raises: SignedFileError if a signature would end and the plan does not allow it.
        """

    def job(self, part: Part, decision: Decision) -> RecodeJob:
        """A picture with all that is needed to treat it as decided. Raises: UnreadableFileError."""

    def put(self, part: Part, recoded: Recoded) -> int:
        """The new picture in the place of the old one; how many bytes that saves."""

    def apply_rest(self, plan: Plan, workers: Workers) -> Mapping[str, Outcome]:
        """Apply the plan to everything but pictures; return the outcomes by part id."""

    def save(self, plan: Plan, out: Path) -> FileKind:
        """Write the document to `out`; the kind of file it has become."""


@runtime_checkable
class Nesting(Editing, Protocol):
    """Second reading of a document that may embed whole files of its own or another kind."""

    def embedded(self, part: Part) -> bytes:
        """A file inside, as it is stored. Raises: UnreadableFileError."""

    def put_embedded(self, part: Part, content: bytes) -> None:
        """Replace an embedded document by a lighter copy."""


class Format(Protocol):
    """A kind of document that can be weighed and made lighter."""

    @property
    def name(self) -> str:
        """Name of the format in the command and the API."""

    @property
    def offers(self) -> Offers:
        """Choices that the format offers."""

    def recognises(self, source: Source) -> bool:
        """Return whether the file has this format by its content, sound or not. Raises: OSError."""

    def weigh(self, source: Source, progress: Progress) -> WeightSheet:
        """Weigh a file: list its parts, which add up to its size."""

    def edit(self, source: Source, sheet: WeightSheet) -> AbstractContextManager[Editing]:
        """The document to be changed in memory. Raises: as `weigh`."""

    def read(self, source: Source) -> AbstractContextManager[Reading]:
        """The document through a reader that had no part in writing it.

        A `PagedReading` where it offers pages, else a `PicturesReading`.
        """


@runtime_checkable
class Splittable(Format, Protocol):
    """A format whose documents can be cut into pieces."""

    def excerpt(self, source: Source, first: int, last: int, out: Path) -> None:
        """Write some pages, counted from 1, as a document with their links and bookmarks."""


@runtime_checkable
class ConvertingFormat(Format, Protocol):
    """A format whose files become those of another before anything is made lighter."""

    @property
    def becomes(self) -> Format:
        """Return the format that its files are converted to."""

    def convert(self, source: Source) -> Source:
        """Return the form that the file is converted to. Raises: UnsupportedFileError,
        UnreadableFileError.
        """
