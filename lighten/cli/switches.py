"""Options that change single values of a preset, and name pictures that stay as they are."""

import argparse
import json
import sys
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from lighten import (
    ColourChange,
    ExtraKind,
    Filter,
    FilterKind,
    Part,
    PartException,
    PictureClass,
    PictureTreatment,
    Preset,
    Treatment,
    WeightSheet,
    present_choice,
    preset_to_json,
)

__all__ = ["add_switches", "kept_pictures", "with_switches"]

_PPI_OPTIONS = {
    "photo_ppi": (PictureClass.PHOTO,),
    "graphic_ppi": (PictureClass.GRAPHIC,),
    "scan_ppi": (PictureClass.PAGE_SCAN,),
    "bitonal_ppi": (PictureClass.BITONAL, PictureClass.MASK),
}
_TONES = (PictureClass.PHOTO, PictureClass.GRAPHIC, PictureClass.PAGE_SCAN)
# Filters for paper change page scans alone.
_FOR_PAPER = (FilterKind.WHITEN_PAPER, FilterKind.REMOVE_SPECKS, FilterKind.STRAIGHTEN)


def add_switches(command: argparse.ArgumentParser) -> None:
    """Add the options that change a preset."""
    group = command.add_argument_group("changes to the preset")
    for option, what in (
        ("--photo-ppi", "photos"),
        ("--graphic-ppi", "graphics"),
        ("--scan-ppi", "page scans"),
        ("--bitonal-ppi", "black and white pictures"),
    ):
        group.add_argument(
            option, type=_ppi, metavar="N", help=f"finest resolution of {what}, pixels an inch"
        )
    group.add_argument(
        "--quality", type=_quality, metavar="N", help="JPEG quality of all pictures, 1 to 100"
    )
    group.add_argument("--grey", action="store_true", help="make colour pictures grey")
    group.add_argument(
        "--filter",
        action="append",
        type=_filter,
        default=[],
        metavar="KIND=STRENGTH",
        help=f"filter for photos and page scans, strength 0 to 1: {', '.join(FilterKind)}",
    )
    group.add_argument(
        "--drop",
        action="append",
        type=_extras,
        default=[],
        metavar="KINDS",
        help="extras to remove, by commas; weigh lists those of a file",
    )
    group.add_argument(
        "--keep",
        action="append",
        default=[],
        metavar="NAME",
        help='picture that stays as it is: "picture 7", or "page 3" for all on a page',
    )
    group.add_argument(
        "--save-preset",
        type=Path,
        metavar="FILE",
        help="write the changed preset as JSON for --preset-file",
    )


def with_switches(options: argparse.Namespace) -> Preset:
    """Return the preset with the changes that were asked for; save it where that was.

    Raises: OSError where it cannot be saved.
    """
    preset: Preset = options.preset
    treatment = preset.treatment
    pictures = {
        picture_class: _changed(treatment.for_class(picture_class), picture_class, options)
        for picture_class in PictureClass
    }
    dropped = treatment.dropped_extras.union(*options.drop)
    if not _is_new(treatment, pictures, dropped) and options.save_preset is None:
        return preset
    treatment = replace(treatment, pictures=pictures, dropped_extras=dropped)
    preset = replace(preset, treatment=treatment)
    if options.save_preset is not None:
        path: Path = options.save_preset
        preset = replace(preset, name=path.stem.lower().replace(" ", "-"), title=path.stem)
        with path.open("x", encoding="utf-8") as file:
            file.write(json.dumps(preset_to_json(preset), indent=2) + "\n")
    return preset


def kept_pictures(
    sheet: WeightSheet, names: Iterable[str], file_name: str
) -> dict[str, PartException]:
    """Return the exceptions for the pictures named; say which names a file does not have."""
    exceptions: dict[str, PartException] = {}
    for name in names:
        found = [
            part.id for part in sheet.parts if part.picture is not None and _is_named(part, name)
        ]
        if not found:
            print(f"{file_name}: has no picture called {name!r} (--keep).", file=sys.stderr)
        exceptions |= dict.fromkeys(found, PartException(is_exempt=True))
    return exceptions


def _is_named(part: Part, name: str) -> bool:
    assert part.picture is not None
    wanted = name.strip().casefold()
    pages = {f"page {page}" for page in part.picture.pages}
    return wanted in {part.name.casefold(), part.id.casefold(), *pages}


def _is_new(
    treatment: Treatment,
    pictures: dict[PictureClass, PictureTreatment],
    dropped: frozenset[ExtraKind],
) -> bool:
    return dropped != treatment.dropped_extras or any(
        changed != treatment.for_class(picture_class) for picture_class, changed in pictures.items()
    )


def _changed(
    treatment: PictureTreatment, picture_class: PictureClass, options: argparse.Namespace
) -> PictureTreatment:
    for option, classes in _PPI_OPTIONS.items():
        ppi = getattr(options, option)
        if ppi is not None and picture_class in classes:
            treatment = replace(treatment, finest_ppi=ppi, above_ppi=None, scale_percent=None)
    if picture_class not in _TONES:
        return treatment
    if options.quality is not None:
        # What was asked for counts, not the score that a preset promises.
        treatment = replace(treatment, quality=options.quality, least_score=0)
    if options.grey:
        treatment = replace(treatment, colour=ColourChange.GREY)
    filters = tuple(
        one
        for one in options.filter
        if picture_class is PictureClass.PAGE_SCAN
        or (picture_class is PictureClass.PHOTO and one.kind not in _FOR_PAPER)
    )
    return replace(treatment, filters=(*treatment.filters, *filters)) if filters else treatment


def _ppi(text: str) -> float:
    try:
        ppi = float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"{text}: is not a number") from None
    if not 20 <= ppi <= 2400:
        raise argparse.ArgumentTypeError(f"{text}: is not between 20 and 2400")
    return ppi


def _quality(text: str) -> int:
    if not text.isdecimal() or not 1 <= int(text) <= 100:
        raise argparse.ArgumentTypeError(f"{text}: is not a whole number from 1 to 100")
    return int(text)


def _filter(text: str) -> Filter:
    name, _, strength = text.partition("=")
    try:
        kind = FilterKind(present_choice(name))
        return Filter(kind=kind, strength=float(strength)) if strength else Filter(kind=kind)
    except ValueError:
        kinds = ", ".join(FilterKind)
        raise argparse.ArgumentTypeError(
            f"{text}: write it as sharpen=0.4, with a strength of 0 to 1; there are {kinds}"
        ) from None


def _extras(text: str) -> frozenset[ExtraKind]:
    names = [name.strip() for name in text.split(",") if name.strip()]
    unknown = [name for name in names if name not in set(ExtraKind)]
    if unknown:
        raise argparse.ArgumentTypeError(
            f"{', '.join(unknown)}: no such extra; there are {', '.join(ExtraKind)}"
        )
    return frozenset(ExtraKind(name) for name in names)
