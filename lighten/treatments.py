"""What is done to parts of a kind, and the named treatments that ship."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from lighten.weights import ExtraKind, PictureClass

__all__ = ["PRESETS", "PictureTreatment", "Preset", "Treatment", "preset_named"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureTreatment:
    """How pictures of one class are treated.

    finest_ppi: more than that at the largest display is resampled; None keeps all pixels.
    quality: of JPEG, 1 to 100; None allows lossless coding only.
    floor: the least likeness (0 to 1, see pictures.likeness) a coded picture may have;
        below it the original stays.
    """

    finest_ppi: float | None = None
    quality: int | None = None
    floor: float = 0.0

    def __post_init__(self) -> None:
        if self.finest_ppi is not None and self.finest_ppi <= 0:
            raise ValueError("finest_ppi is above zero")
        if self.quality is not None and not 1 <= self.quality <= 100:
            raise ValueError("quality is from 1 to 100")


LOSSLESS = PictureTreatment()


@dataclass(frozen=True, slots=True, kw_only=True)
class Treatment:
    """What is done to a whole document; classes not named in `pictures` are coded losslessly."""

    pictures: Mapping[PictureClass, PictureTreatment] = field(default_factory=dict)
    dropped_extras: frozenset[ExtraKind] = frozenset({ExtraKind.LEFTOVERS})

    def for_class(self, picture_class: PictureClass) -> PictureTreatment:
        return self.pictures.get(picture_class, LOSSLESS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """A named treatment. `name` is what commands and the API call it, `title` what people read."""

    name: str
    title: str
    description: str
    treatment: Treatment


# Text held as a picture is unreadable below about 120 ppi (common practice, no source).
_COARSEST_TEXT_PPI = 150.0


def _lossy(*, finest_ppi: float, quality: int, floor: float) -> Treatment:
    """One fineness for whatever is looked at as a picture; two-tone and stencils stay exact."""
    picture = PictureTreatment(finest_ppi=finest_ppi, quality=quality, floor=floor)
    page = replace(picture, finest_ppi=max(finest_ppi, _COARSEST_TEXT_PPI))
    return Treatment(
        pictures={
            PictureClass.PHOTO: picture,
            PictureClass.GRAPHIC: picture,
            PictureClass.PAGE_SCAN: page,
        },
        dropped_extras=frozenset(
            {ExtraKind.LEFTOVERS, ExtraKind.THUMBNAILS, ExtraKind.PRIVATE_DATA}
        ),
    )


# The ppi steps are common practice (no source): 150 for reading on screen, 96 to 110 for mail.
PRESETS: tuple[Preset, ...] = (
    Preset(
        name="as-it-was",
        title="As it was",
        description="Nothing visible changes: every pixel stays, only the packing gets tighter.",
        treatment=Treatment(),
    ),
    Preset(
        name="reading-desk",
        title="Reading desk",
        description="Pictures at 150 ppi: for reading on a screen and ordinary printing.",
        treatment=_lossy(finest_ppi=150, quality=79, floor=0.80),
    ),
    Preset(
        name="post",
        title="Post",
        description="Pictures at 110 ppi, scanned pages at 150: light enough for most mailboxes.",
        treatment=_lossy(finest_ppi=110, quality=68, floor=0.74),
    ),
)


def preset_named(name: str) -> Preset:
    """The shipped preset of that name or title, whatever its letters' case. Raises: KeyError."""
    wanted = name.strip().casefold()
    for preset in PRESETS:
        if wanted in (preset.name, preset.title.casefold()):
            return preset
    raise KeyError(name)
