"""What a document weighs: its parts, adding up to the file to the byte."""

from dataclasses import dataclass, field
from enum import StrEnum

__all__ = [
    "ExtraKind",
    "FontCoding",
    "FontFacts",
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

    LEFTOVERS = "leftovers"
    REPEATS = "repeats"
    THUMBNAILS = "thumbnails"
    PRIVATE_DATA = "private-data"
    ALTERNATES = "alternates"
    WEB_CAPTURE = "web-capture"
    UNUSED = "unused"
    METADATA = "metadata"
    ATTACHMENTS = "attachments"
    SCRIPTS = "scripts"
    NOTES = "notes"
    MARKINGS = "markings"
    TYPED_TEXT = "typed-text"
    DRAWN_MARKS = "drawn-marks"
    STAMPS = "stamps"
    MEDIA = "media"
    HIDDEN_LAYERS = "hidden-layers"
    LAYERS = "layers"
    FORM_FIELDS = "form-fields"
    BOOKMARKS = "bookmarks"
    TAGS = "tags"


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
    is_inline: the file has it within page drawing, and not as an object of its own.
    mask: "soft", "stencil", "colour-key" or "".
    visible: the part of it that clipping and the page's edge leave in sight at any showing:
        left, top, right, bottom as shares of its sides.
    untouchable: why it is left alone, or "".
    """

    width_px: int
    height_px: int
    coding: str
    colour: str
    bits: int
    is_inline: bool = False
    mask: str = ""
    picture_class: PictureClass
    placements: tuple[Placement, ...] = ()
    visible: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
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


class FontCoding(StrEnum):
    """How an embedded font is stored."""

    TRUETYPE = "TrueType"
    TYPE_1 = "Type 1"
    CFF = "CFF"
    OPENTYPE = "OpenType"


@dataclass(frozen=True, slots=True, kw_only=True)
class FontFacts:
    """is_subset: its name says that it has some of its glyphs only. standard: one of the 14."""

    coding: FontCoding
    is_subset: bool
    is_standard: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Something with weight.

    id: stable for one file; the same file weighed again has the same ids.
    name: for a person.
    extra: set for kind EXTRA only; picture, font: for kinds PICTURE and FONT only.
    stroke_bytes: of kind DRAWING, what long runs of path segments weigh, as a pen leaves them.
    """

    id: str
    kind: PartKind
    size_bytes: int
    name: str
    picture: PictureFacts | None = None
    font: FontFacts | None = None
    extra: ExtraKind | None = None
    stroke_bytes: int = 0


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
