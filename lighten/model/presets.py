"""The named treatments that ship."""

from dataclasses import dataclass, replace

from lighten.model.extras import SAFE_EXTRAS
from lighten.model.kinds import ExtraKind, PictureClass, PictureCoding
from lighten.model.treatments import (
    READABLE_TEXT_PPI,
    BitonalMethod,
    DrawingTreatment,
    FontTreatment,
    PageColours,
    PictureTreatment,
    RasterTreatment,
    Treatment,
)

__all__ = ["DEFAULT_PRESET", "PRESETS", "Preset", "preset_named"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """A named treatment. `name` is what commands and the API call it, `title` what people read."""

    name: str
    title: str
    description: str
    treatment: Treatment


# How far a simplified pen stroke may leave the drawn one: a thirtieth of a millimetre.
_UNSEEN_PT = 0.1


def _lossy(
    *,
    finest_ppi: float,
    bitonal_ppi: float,
    quality: int,
    floor: float,
    least_score: float,
    cuts_hidden: bool,
    simplifies_strokes: bool = True,
) -> Treatment:
    """Return treatments with one resolution for pictures, and a higher one for lines and text."""
    picture = PictureTreatment(
        finest_ppi=finest_ppi,
        quality=quality,
        floor=floor,
        least_score=least_score,
        cuts_hidden=cuts_hidden,
    )
    # Pages held as pictures stay whole: strokes would fall otherwise between the new pixels.
    page = replace(picture, finest_ppi=max(finest_ppi, READABLE_TEXT_PPI), cuts_hidden=False)
    # Letters of screenshots that lie on other pixels than before are drawn jagged by readers, and
    # hardly anything is saved below twice the pixels (docs/decisions/0029).
    drawn = replace(picture, above_ppi=finest_ppi * 1.4)
    # Resampling two tones hardly saves below one and a half times the asked fineness.
    lines = PictureTreatment(finest_ppi=bitonal_ppi, above_ppi=bitonal_ppi * 1.5, floor=0.5)
    return Treatment(
        pictures={
            PictureClass.PHOTO: picture,
            PictureClass.GRAPHIC: drawn,
            PictureClass.PAGE_SCAN: page,
            PictureClass.BITONAL: lines,
            PictureClass.MASK: lines,
        },
        fonts=FontTreatment(subset=True),
        drawing=DrawingTreatment(tolerance_pt=_UNSEEN_PT if simplifies_strokes else None),
        dropped_extras=SAFE_EXTRAS,
    )


def _scan_stack() -> Treatment:
    """Return the treatment of Scan stack: for screens, but with layers, and black and white at all
    pixels.
    """
    treatment = _lossy(
        finest_ppi=150,
        bitonal_ppi=600,
        quality=75,
        floor=0.74,
        least_score=55,
        cuts_hidden=True,
    )
    page = replace(treatment.pictures[PictureClass.PAGE_SCAN], coding=PictureCoding.LAYERS)
    return replace(treatment, pictures={**treatment.pictures, PictureClass.PAGE_SCAN: page})


_ARCHIVE_LINES = PictureTreatment(coding=PictureCoding.GROUP_4)

# The ppi steps are common practice (no source): 300 for print, 150 for reading on screen, 96 to
# 110 for mail, 72 the smallest; bitonal line art wants 300 to 600.
PRESETS: tuple[Preset, ...] = (
    Preset(
        name="as-it-was",
        title="As it was",
        description="Nothing visible changes: every pixel stays, only the packing gets tighter.",
        treatment=Treatment(),
    ),
    Preset(
        name="print-room",
        title="Print room",
        description="Pictures at 300 ppi in high quality: for good printing.",
        treatment=_lossy(
            finest_ppi=300,
            bitonal_ppi=600,
            quality=88,
            floor=0.90,
            least_score=75,
            cuts_hidden=False,
            simplifies_strokes=False,
        ),
    ),
    Preset(
        name="reading-desk",
        title="Reading desk",
        description="Pictures at 150 ppi: for reading on a screen and ordinary printing.",
        treatment=_lossy(
            finest_ppi=150,
            bitonal_ppi=300,
            quality=80,
            floor=0.80,
            least_score=65,
            cuts_hidden=True,
        ),
    ),
    Preset(
        name="post",
        title="Post",
        description="Pictures at 110 ppi, scanned pages at 150: light enough for most mailboxes.",
        treatment=_lossy(
            finest_ppi=110,
            bitonal_ppi=300,
            quality=70,
            floor=0.74,
            least_score=55,
            cuts_hidden=True,
        ),
    ),
    Preset(
        name="feather",
        title="Feather",
        description="Pictures at 72 ppi, scanned pages at 150: the lightest that still reads.",
        treatment=_lossy(
            finest_ppi=72,
            bitonal_ppi=200,
            quality=57,
            floor=0.62,
            least_score=45,
            cuts_hidden=True,
        ),
    ),
    Preset(
        name="scan-stack",
        title="Scan stack",
        description=(
            "Scanned pages in layers: paper apart from the strokes on it, which stay sharp; "
            "pictures at 150 ppi."
        ),
        treatment=_scan_stack(),
    ),
    Preset(
        name="record-office",
        title="Record office",
        description=(
            "For archives: every pixel, font, tag and the PDF/A level stay; bitonal pages in "
            "Group 4."
        ),
        treatment=Treatment(
            pictures={
                PictureClass.BITONAL: _ARCHIVE_LINES,
                PictureClass.MASK: _ARCHIVE_LINES,
            },
            dropped_extras=frozenset(
                {ExtraKind.LEFTOVERS, ExtraKind.REPEATS, ExtraKind.THUMBNAILS}
            ),
            raster=RasterTreatment(colours=PageColours.BITONAL, divide=BitonalMethod.SAUVOLA),
        ),
    ),
    Preset(
        name="data-sheets",
        title="Data sheets",
        description=(
            "For workbooks: compact cells, no formats past the data, no unused styles; pictures "
            "keep every pixel."
        ),
        treatment=Treatment(
            dropped_extras=SAFE_EXTRAS | {ExtraKind.PAST_FORMATS, ExtraKind.IDLE_RULES}
        ),
    ),
)

DEFAULT_PRESET = PRESETS[2]


def preset_named(name: str) -> Preset:
    """Return a shipped preset by its name or title, in any case. Raises: KeyError."""
    plain_name = name.strip().casefold()
    for preset in PRESETS:
        if plain_name in (preset.name, preset.title.casefold()):
            return preset
    raise KeyError(name)
