"""What a document weighs: its parts, adding up to the file to the byte."""

from dataclasses import dataclass, field
from enum import StrEnum

__all__ = [
    "ExtraKind",
    "Part",
    "PartKind",
    "PictureClass",
    "PictureFacts",
    "Placement",
    "WeightSheet",
]

_POINTS_PER_INCH = 72.0


class PartKind(StrEnum):
    """What sort of thing has the weight."""

    PICTURE = "picture"
    FONT = "font"
    DRAWING = "drawing"
    STRUCTURE = "structure"
    EXTRA = "extra"


class ExtraKind(StrEnum):
    """Things a page does not need to look as it does."""

    THUMBNAILS = "thumbnails"
    METADATA = "metadata"
    PRIVATE_DATA = "private-data"
    ATTACHMENTS = "attachments"
    SCRIPTS = "scripts"
    LEFTOVERS = "leftovers"


class PictureClass(StrEnum):
    """What a picture is, by its pixels and its use."""

    PHOTO = "photo"
    GRAPHIC = "graphic"
    PAGE_SCAN = "page-scan"
    TWO_TONE = "two-tone"
    STENCIL = "stencil"


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """One showing of a picture.

    page: counted from 1.
    width_pt, height_pt: lengths of the picture's two sides as shown, in 1/72 inch.
    box: left, bottom, right, top of the place it covers, in points from the page's lower left.
    """

    page: int
    width_pt: float
    height_pt: float
    box: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFacts:
    """What is known of a picture without changing it.

    coding: the names of its filters as the file gives them, outermost first.
    colour: the colour space, `Indexed` ones with their base.
    mask: "soft", "stencil", "colour-key" or "".
    untouchable: why this version leaves it alone, or "".
    """

    width_px: int
    height_px: int
    coding: str
    colour: str
    bits: int
    mask: str = ""
    picture_class: PictureClass
    placements: tuple[Placement, ...] = ()
    untouchable: str = ""

    @property
    def pages(self) -> tuple[int, ...]:
        """The pages that show it, each once, in order."""
        return tuple(sorted({placement.page for placement in self.placements}))

    @property
    def largest_display_pt(self) -> tuple[float, float] | None:
        """The longest width and the longest height it is shown at; None if it is not shown."""
        if not self.placements:
            return None
        return (
            max(placement.width_pt for placement in self.placements),
            max(placement.height_pt for placement in self.placements),
        )

    @property
    def ppi(self) -> float | None:
        """Pixels per inch where it is shown largest, along its coarser side.

        Effective resolution = stored pixels / displayed inches (common practice, no source).
        """
        shown = self.largest_display_pt
        if shown is None or min(shown) <= 0:
            return None
        width_pt, height_pt = shown
        return min(self.width_px / width_pt, self.height_px / height_pt) * _POINTS_PER_INCH


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Something with weight.

    id: stable for one file; the same file weighed again has the same ids.
    name: for a person.
    extra: set for kind EXTRA only. picture: set for kind PICTURE only.
    """

    id: str
    kind: PartKind
    size_bytes: int
    name: str
    picture: PictureFacts | None = None
    extra: ExtraKind | None = None
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WeightSheet:
    """Every part of one document.

    size_bytes: of the file; `parts` add up to it exactly.
    is_signed: a change would end a signature. is_locked: it carries encryption.
    standard: "PDF/A-2b" and the like, or "".
    remarks: what a person should know, such as a repair on opening.
    """

    format: str
    size_bytes: int
    pages: int
    parts: tuple[Part, ...]
    is_signed: bool = False
    is_locked: bool = False
    standard: str = ""
    remarks: tuple[str, ...] = field(default=())

    def __post_init__(self) -> None:
        total = sum(part.size_bytes for part in self.parts)
        if total != self.size_bytes:
            raise ValueError(f"parts weigh {total} bytes, the file {self.size_bytes}")
        if any(part.size_bytes < 0 for part in self.parts):
            raise ValueError("a part weighs less than nothing")

    def part(self, part_id: str) -> Part:
        """The part of that id. Raises: KeyError."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise KeyError(part_id)

    def bytes_by_kind(self) -> dict[PartKind, int]:
        """Bytes of each kind that is there."""
        totals: dict[PartKind, int] = {}
        for part in self.parts:
            totals[part.kind] = totals.get(part.kind, 0) + part.size_bytes
        return totals
