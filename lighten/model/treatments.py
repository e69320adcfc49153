"""Treatment of parts by kind: pictures by class, fonts, drawing, extras."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from lighten.model.kinds import ExtraKind, PictureClass, PictureCoding

__all__ = [
    "ASSUMED_CM",
    "FEWEST_TEXT_PPI",
    "LOSSLESS",
    "READABLE_TEXT_PPI",
    "WITHOUT_LOSS",
    "BitonalMethod",
    "ColourChange",
    "DrawingTreatment",
    "Filter",
    "FilterKind",
    "FontTreatment",
    "PageColours",
    "PictureTreatment",
    "RasterTreatment",
    "Treatment",
]

# Text held as a picture is read well at 150 ppi and is unreadable below about 120 (common
# practice, no source; FINDINGS measured the same with text recognition).
READABLE_TEXT_PPI = 150.0
FEWEST_TEXT_PPI = 120.0
# About the text of an A4 page held upright (common practice, no source).
ASSUMED_CM = 25.0


class ColourChange(StrEnum):
    """Change of a picture's colours."""

    KEEP = "keep"
    RGB = "rgb"  # inks and other spaces, through their profile
    GREY = "grey"
    BITONAL = "bitonal"
    COLOURS_256 = "256-colours"
    COLOURS_16 = "16-colours"
    EXACT_PALETTE = "exact-palette"  # as few colours as the picture really uses


class BitonalMethod(StrEnum):
    """Method of the threshold between black and white."""

    FIXED = "fixed"
    OTSU = "otsu"
    SAUVOLA = "sauvola"
    DIFFUSED = "diffused"  # Floyd and Steinberg
    ORDERED = "ordered"  # Bayer


class FilterKind(StrEnum):
    """A change to how a picture looks."""

    SHARPEN = "sharpen"
    WHITEN_PAPER = "whiten-paper"
    REMOVE_SPECKS = "remove-specks"
    STRAIGHTEN = "straighten"
    BRIGHTEN = "brighten"
    DARKEN = "darken"
    CONTRAST = "contrast"


@dataclass(frozen=True, slots=True, kw_only=True)
class Filter:
    """One filter. strength: 0 does nothing, 1 is the most that is ever sensible."""

    kind: FilterKind
    strength: float = 0.5

    def __post_init__(self) -> None:
        if not 0 <= self.strength <= 1:
            raise ValueError("strength is from 0 to 1")


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureTreatment:
    """Treatment of the pictures of one class.

    finest_ppi: more than that at the largest display is resampled; None keeps all pixels.
    above_ppi: pictures up to that are not resampled; None for a tenth above `finest_ppi`.
    scale_percent: of the stored sides, 1 to 100; None for no scaling by itself.
    smallest_px, largest_px: bounds of the longer side after resampling; it never grows.
    quality: of JPEG, 1 to 100; None allows lossless coding only.
    floor: the least likeness (0 to 1, see pictures.likeness) a coded picture may have;
        below it the original stays.
    least_score: what it has to look like where it is shown (SSIMULACRA2, 100 for the same); it
        gets more quality until it does.
    colour: what becomes of the colours; bitonal_method, threshold: how, where two are to stay.
        threshold: for `TwoToneMethod.FIXED`, 1 to 255; darker is black.
    filters: in the order in which they are applied, after resampling.
    keeps_words: words in it stay readable: it keeps as many pixels as its small print needs.
    cuts_hidden: what a clipping path or the page's edge hides is cut away for good.
    """

    finest_ppi: float | None = None
    above_ppi: float | None = None
    scale_percent: float | None = None
    smallest_px: int | None = None
    largest_px: int | None = None
    coding: PictureCoding = PictureCoding.AUTOMATIC
    quality: int | None = None
    floor: float = 0.0
    least_score: float = 0.0
    colour: ColourChange = ColourChange.KEEP
    bitonal_method: BitonalMethod = BitonalMethod.OTSU
    threshold: int = 128
    filters: tuple[Filter, ...] = ()
    cuts_hidden: bool = False
    keeps_words: bool = True

    def __post_init__(self) -> None:
        for name in ("finest_ppi", "above_ppi", "smallest_px", "largest_px"):
            value = getattr(self, name)
            if value is not None and value <= 0:
                raise ValueError(f"{name} is above zero")
        if self.scale_percent is not None and not 1 <= self.scale_percent <= 100:
            raise ValueError("scale_percent is from 1 to 100")
        if self.quality is not None and not 1 <= self.quality <= 100:
            raise ValueError("quality is from 1 to 100")
        if not 0 <= self.floor <= 1:
            raise ValueError("floor is from 0 to 1")
        if not 0 <= self.least_score <= 90:
            raise ValueError("least_score is from 0 to 90")
        if not 1 <= self.threshold <= 255:
            raise ValueError("threshold is from 1 to 255")

    @property
    def changes_looks(self) -> bool:
        """Return whether colours or filters were changed, so that scores do not apply."""
        return bool(self.filters) or self.colour not in (
            ColourChange.KEEP,
            ColourChange.RGB,
            ColourChange.EXACT_PALETTE,
        )

    @property
    def only_loses_colour(self) -> bool:
        """Return whether a treatment changes colour only, and keeps light and dark."""
        return self.colour is ColourChange.GREY and not self.filters


LOSSLESS = PictureTreatment()
# Changes that no reader can notice in a copy.
WITHOUT_LOSS = frozenset(
    {
        ExtraKind.LEFTOVERS,
        ExtraKind.REPEATS,
        ExtraKind.CELL_SPELLING,
        ExtraKind.UNUSED_CELL_STYLES,
        ExtraKind.CALCULATION_ORDER,
    }
)


@dataclass(frozen=True, slots=True, kw_only=True)
class FontTreatment:
    """Treatment of embedded fonts.

    subset: only used glyphs stay, and Type 1 becomes CFF; a font that cannot be proved stays.
    drops_standard: fonts of the standard 14 are left to the reader's own; looks may change.
    drops_embedded: all fonts that a document brings along, as text documents may; so may looks.
    """

    subset: bool = False
    drops_standard: bool = False
    drops_embedded: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawingTreatment:
    """Treatment of pen strokes: long runs of short segments, and outlines of strokes.

    tolerance_pt: how far a simplified stroke may leave the drawn one, in points; None to keep.
    constant_width: strokes drawn as outlines become lines of their mean width.
    ordinary_too: every path is simplified, not pen strokes alone.
    """

    tolerance_pt: float | None = None
    constant_width: bool = False
    ordinary_too: bool = False

    def __post_init__(self) -> None:
        if self.tolerance_pt is not None and not 0 < self.tolerance_pt <= 2:
            raise ValueError("tolerance_pt is above 0 and at most 2")


class PageColours(StrEnum):
    """Number of colours of a page that becomes a picture."""

    BITONAL = "bitonal"
    GREY = "grey"
    COLOURS_256 = "256"
    COLOURS_16 = "16"
    FEWEST = "fewest"  # as few as it really uses, every one exact
    ALL = "all"


@dataclass(frozen=True, slots=True, kw_only=True)
class RasterTreatment:
    """Treatment of pages that become pictures.

    divide, threshold: as of `PictureTreatment`. keeps_photos_grey: a page that shows a photo
    becomes no page of two tones.
    """

    ppi: float = 300.0
    colours: PageColours = PageColours.FEWEST
    divide: BitonalMethod = BitonalMethod.OTSU
    threshold: int = 128
    keeps_photos_grey: bool = True

    def __post_init__(self) -> None:
        if not 20 <= self.ppi <= 1200:
            raise ValueError("ppi is from 20 to 1200")
        if not 1 <= self.threshold <= 255:
            raise ValueError("threshold is from 1 to 255")


@dataclass(frozen=True, slots=True, kw_only=True)
class Treatment:
    """Treatment of a whole document; classes not named in `pictures` are coded losslessly.

    is_linearized: the copy begins to show before all of it has arrived (ISO 32000-1, annex F).
    assumed_cm: how long the longer side is of a picture that nothing says the size of.
    lightens_embedded: documents inside the document are treated in the same way, one level deep.
    raster: of its pages, where they are asked for as pictures.
    """

    pictures: Mapping[PictureClass, PictureTreatment] = field(default_factory=dict)
    fonts: FontTreatment = FontTreatment()
    drawing: DrawingTreatment = DrawingTreatment()
    dropped_extras: frozenset[ExtraKind] = WITHOUT_LOSS
    is_linearized: bool = False
    assumed_cm: float = ASSUMED_CM
    lightens_embedded: bool = False
    raster: RasterTreatment = RasterTreatment()

    def __post_init__(self) -> None:
        if not 1 <= self.assumed_cm <= 500:
            raise ValueError("assumed_cm is from 1 to 500")

    def for_class(self, picture_class: PictureClass) -> PictureTreatment:
        return self.pictures.get(picture_class, LOSSLESS)
