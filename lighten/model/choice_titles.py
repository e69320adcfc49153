"""Titles of the values that a treatment can take, in the order of offering."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

from lighten.model.kinds import PictureClass, PictureCoding
from lighten.model.treatments import BitonalMethod, ColourChange, FilterKind, PageColours

__all__ = [
    "BITONAL_METHOD_TITLES",
    "COLOUR_TITLES",
    "FILTER_TITLES",
    "PAGE_COLOUR_TITLES",
    "PICTURE_CLASS_NAMES",
    "PICTURE_CODING_TITLES",
]

# Names of one picture of each class; `explanations` has the titles of the classes.
PICTURE_CLASS_NAMES: Final[Mapping[PictureClass, str]] = MappingProxyType(
    {
        PictureClass.PHOTO: "photo",
        PictureClass.GRAPHIC: "graphic",
        PictureClass.PAGE_SCAN: "page scan",
        PictureClass.BITONAL: "black and white",
        PictureClass.MASK: "mask",
    }
)

PICTURE_CODING_TITLES: Final[Mapping[PictureCoding, str]] = MappingProxyType(
    {
        PictureCoding.AUTOMATIC: "Automatic",
        PictureCoding.JPEG: "JPEG",
        PictureCoding.LOSSLESS: "Lossless",
        PictureCoding.GROUP_4: "Group 4, black and white",
        PictureCoding.JPEG_2000: "JPEG 2000",
        PictureCoding.LAYERS: "In layers",
    }
)

COLOUR_TITLES: Final[Mapping[ColourChange, str]] = MappingProxyType(
    {
        ColourChange.KEEP: "Keep",
        ColourChange.RGB: "RGB",
        ColourChange.GREY: "Greyscale",
        ColourChange.BITONAL: "Black and white",
        ColourChange.COLOURS_256: "256 colours",
        ColourChange.COLOURS_16: "16 colours",
        ColourChange.EXACT_PALETTE: "Exact palette",
    }
)

BITONAL_METHOD_TITLES: Final[Mapping[BitonalMethod, str]] = MappingProxyType(
    {
        BitonalMethod.OTSU: "Automatic threshold",
        BitonalMethod.SAUVOLA: "Adaptive threshold",
        BitonalMethod.FIXED: "Fixed threshold",
        BitonalMethod.DIFFUSED: "Diffusion dither",
        BitonalMethod.ORDERED: "Ordered dither",
    }
)

FILTER_TITLES: Final[Mapping[FilterKind, str]] = MappingProxyType(
    {
        FilterKind.SHARPEN: "Sharpen",
        FilterKind.WHITEN_PAPER: "Whiten paper",
        FilterKind.REMOVE_SPECKS: "Remove specks",
        FilterKind.STRAIGHTEN: "Straighten",
        FilterKind.BRIGHTEN: "Brighten",
        FilterKind.DARKEN: "Darken",
        FilterKind.CONTRAST: "More contrast",
    }
)

PAGE_COLOUR_TITLES: Final[Mapping[PageColours, str]] = MappingProxyType(
    {
        PageColours.FEWEST: "Exact palette of each page",
        PageColours.BITONAL: "Black and white, Group 4",
        PageColours.GREY: "Greyscale",
        PageColours.COLOURS_16: "16 colours",
        PageColours.COLOURS_256: "256 colours",
        PageColours.ALL: "All colours",
    }
)
