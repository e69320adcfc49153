"""Weights of a document: its parts, adding up to the file to the byte."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from lighten.model.kinds import ExtraKind, FontCoding, PartKind, PictureClass, PictureCoding
from lighten.model.sheet_facts import NameFacts, SheetFacts

__all__ = [
    "KIND_TITLES",
    "FontFacts",
    "Part",
    "PictureFacts",
    "Placement",
    "Rules",
    "WeightSheet",
    "with_structure",
]

_POINTS_PER_INCH = 72.0


# What a person reads over the parts of a kind, in the order in which sheets show them.
KIND_TITLES: Mapping[PartKind, str] = MappingProxyType(
    {
        PartKind.PICTURE: "Pictures",
        PartKind.PROFILE: "Colour profiles",
        PartKind.FONT: "Fonts",
        PartKind.DRAWING: "Page drawing",
        PartKind.TEXT: "Text",
        PartKind.CELLS: "Cells",
        PartKind.NAME: "Names to look through",
        PartKind.STYLES: "Styles and settings",
        PartKind.EMBEDDED: "Embedded files",
        PartKind.MEDIA: "Sound and film",
        PartKind.LAYER: "Layers",
        PartKind.EXTRA: "Extras",
        PartKind.STRUCTURE: "Structure",
        PartKind.LEGACY_FORM: "The legacy form",
    }
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """One showing of a picture.

    width_pt, height_pt: lengths of the picture's two sides as shown, in 1/72 inch.
    page: counted from 1; None where a document has no pages.
    box: left, bottom, right, top of the place it covers, in points from the page's lower left;
        None where that is not known.
    clipped_box: what clipping and the page's edge leave of the box in sight; None for all of it.
    """

    width_pt: float
    height_pt: float
    page: int | None = None
    box: tuple[float, float, float, float] | None = None
    clipped_box: tuple[float, float, float, float] | None = None

    @property
    def visible_box(self) -> tuple[float, float, float, float] | None:
        """Return the box of the visible part; None if unknown."""
        return self.clipped_box or self.box

    @property
    def visible_area_pt(self) -> float:
        """Return the visible area in square points."""
        if self.clipped_box is None:
            return self.width_pt * self.height_pt
        left, low, right, high = self.clipped_box
        return (right - left) * (high - low)


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFacts:
    """Facts of a picture that are known without changing it.

    coding, colour: for a person, in the file's own words.
    is_lossy: its coding threw something away, so that packing it exactly wins nothing.
    has_colour: it may have other tones than greys. has_palette: its colours are in a table.
    may_repack: its own coding can be packed tighter without touching a pixel.
    is_alone: it is the document, and looked at on a whole screen.
    has_assumed_size: nothing says how large it is shown, so that a usual size was taken.
    rgb_profile_bytes: of a colour profile of its own, of red, green and blue, unpacked.
    is_inline: the file has it within page drawing, and not as an object of its own.
    mask: "soft", "explicit", "colour-key" or "".
    visible: the part of it that clipping and the page's edge leave in sight at any showing:
        left, top, right, bottom as shares of its sides.
    near: words that stand by it, where it has no page that could be named.
    untouchable: why it is left alone, or "".
    """

    width_px: int
    height_px: int
    coding: str
    colour: str
    bits: int
    is_lossy: bool = False
    has_colour: bool = True
    has_palette: bool = False
    may_repack: bool = False
    is_alone: bool = False
    has_assumed_size: bool = False
    rgb_profile_bytes: int = 0
    is_inline: bool = False
    mask: str = ""
    picture_class: PictureClass
    placements: tuple[Placement, ...] = ()
    visible: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    near: str = ""
    untouchable: str = ""

    @property
    def pages(self) -> tuple[int, ...]:
        """The pages that show it, each once, in order."""
        pages = {placement.page for placement in self.placements}
        return tuple(sorted(page for page in pages if page is not None))

    @property
    def largest_display_pt(self) -> tuple[float, float] | None:
        """Return the largest width and height it is shown at; None if it is not shown."""
        if not self.placements:
            return None
        return (
            max(placement.width_pt for placement in self.placements),
            max(placement.height_pt for placement in self.placements),
        )

    @property
    def ppi(self) -> float | None:
        """Return the pixels per inch of the largest placement, along its coarser side.

        Effective resolution = stored pixels / displayed inches (common practice, no source).
        """
        shown = self.largest_display_pt
        if shown is None or min(shown) <= 0:
            return None
        width_pt, height_pt = shown
        return min(self.width_px / width_pt, self.height_px / height_pt) * _POINTS_PER_INCH


@dataclass(frozen=True, slots=True, kw_only=True)
class FontFacts:
    """is_subset: its name says that it has some of its glyphs only. is_standard: one of the 14.

    is_brought_along: the text could be shown without it, in another.
    can_be_spared: readers could show what it says in a font of their own, as its codes stand for
    letters that a standard names; never so of symbols.
    """

    coding: FontCoding
    is_subset: bool
    is_standard: bool = False
    is_brought_along: bool = False
    can_be_spared: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Something with weight.

    id: stable for one file; the same file weighed again has the same ids.
    name: for a person.
    extra: set for kind EXTRA only; picture, font, sheet, name_facts: for kinds
    PICTURE, FONT, CELLS and NAME only.
    removed_with: the kind of extra that nothing else needs this for; it goes where that goes.
    stroke_bytes: of kind DRAWING, what long runs of path segments weigh, as a pen leaves them.
    """

    id: str
    kind: PartKind
    size_bytes: int
    name: str
    picture: PictureFacts | None = None
    font: FontFacts | None = None
    sheet: SheetFacts | None = None
    name_facts: NameFacts | None = None
    extra: ExtraKind | None = None
    removed_with: ExtraKind | None = None
    stroke_bytes: int = 0

    @property
    def extra_kind(self) -> ExtraKind | None:
        """Return the extra of this part, or the one it is removed with."""
        return self.extra or self.removed_with


def with_structure(parts: Iterable[Part], size_bytes: int) -> tuple[Part, ...]:
    """Return the parts with the remaining bytes of the file as structure."""
    weighed: list[Part] = []
    left_over = size_bytes
    for part in parts:
        # In a damaged file two may lay claim to the same bytes: they are the first one's.
        own = replace(part, size_bytes=min(part.size_bytes, left_over))
        if own.size_bytes or own.picture:
            weighed.append(own)
            left_over -= own.size_bytes
    if not left_over:
        return tuple(weighed)
    structure = Part(
        id="structure", kind=PartKind.STRUCTURE, size_bytes=left_over, name="Structure"
    )
    return (*weighed, structure)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """Rules of a standard that the file claims to follow.

    standard: "PDF/A-2b" and the like, or "" for none.
    keeps_fonts_whole, keeps_fonts_embedded: fonts may not lose letters, or not be left out.
    forbidden_codings: of pictures. needed_extras: may not be left out.
    """

    standard: str = ""
    keeps_fonts_whole: bool = False
    keeps_fonts_embedded: bool = False
    forbidden_codings: frozenset[PictureCoding] = frozenset()
    needed_extras: frozenset[ExtraKind] = frozenset()

    @property
    def allows_jbig2(self) -> bool:
        """Return whether JBIG2 may be used; PDF/A-1 asks for Group 4."""
        return not self.standard.startswith("PDF/A-1")


@dataclass(frozen=True, slots=True, kw_only=True)
class WeightSheet:
    """Every part of one document.

    size_bytes: of the file; `parts` add up to it exactly.
    pages: how many; None for a kind of document that has none.
    media_type: of the file, as IANA lists it.
    is_signed: a change would end a signature. is_locked: it carries encryption.
    taken_at: when a camera or scanner made it, as "2026-05-04 05:12:00", where it says so.
    rules: of the standard it claims to keep. remarks: what a person should know, such as a repair
    on opening.
    """

    format: str
    media_type: str
    size_bytes: int
    pages: int | None
    parts: tuple[Part, ...]
    is_signed: bool = False
    is_locked: bool = False
    taken_at: str = ""
    rules: Rules = field(default_factory=Rules)
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
        """Return the bytes of each kind of part."""
        totals: dict[PartKind, int] = {}
        for part in self.parts:
            totals[part.kind] = totals.get(part.kind, 0) + part.size_bytes
        return totals
