"""Colour spaces as a PDF names them (ISO 32000-1, 8.6)."""

from collections.abc import Sequence
from dataclasses import dataclass

import pikepdf

from lighten.formats.pdf.objects.values import array_of, text_of, whole_number

__all__ = [
    "ColourSpace",
    "palette_entries",
    "profile_of",
    "read_colour",
]

_COMPONENTS = {
    "/DeviceGray": 1,
    "/G": 1,
    "/CalGray": 1,
    "/DeviceRGB": 3,
    "/RGB": 3,
    "/CalRGB": 3,
    "/DeviceCMYK": 4,
    "/CMYK": 4,
    "/Lab": 3,
    "/Separation": 1,
}
# Spaces whose samples are not light: grey or sRGB can be had from them through a reader only.
_FOREIGN = {"/Lab", "/Separation", "/DeviceN"}
_MOST_INKS = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourSpace:
    """Colour space of samples.

    name: for a person, as "ICCBased (3)" or "Indexed over DeviceRGB".
    colours: samples a pixel, or a palette entry; 0 where it is not understood here.
    palette: entries of `colours` bytes, or None.
    base: the object to use for pixels taken out of a palette.
    is_foreign: its samples are not grey or red, green, blue.
    """

    name: str
    colours: int
    palette: bytes | None
    base: pikepdf.Object | None
    is_foreign: bool = False


def read_colour(space: pikepdf.Object | None, *, depth: int = 0) -> ColourSpace:
    """Read a colour space; `colours` is 0 for those not understood here.

    Source: ISO 32000-1, 8.6.
    """
    if space is None or depth > 4:
        return ColourSpace(name="none", colours=0, palette=None, base=None)
    members = array_of(space)
    family = text_of(members[0] if members else space)
    if family in _COMPONENTS:
        return ColourSpace(
            name=family.lstrip("/"),
            colours=_COMPONENTS[family],
            palette=None,
            base=space,
            is_foreign=family in _FOREIGN,
        )
    if family == "/DeviceN" and len(members) > 3:
        count = len(array_of(members[1]))
        return ColourSpace(
            name=f"DeviceN ({count})",
            colours=count if count <= _MOST_INKS else 0,
            palette=None,
            base=space,
            is_foreign=True,
        )
    if family == "/ICCBased" and len(members) > 1 and isinstance(members[1], pikepdf.Stream):
        count = whole_number(members[1].get("/N"))
        colours = count if count in (1, 3, 4) else 0
        return ColourSpace(name=f"ICCBased ({count})", colours=colours, palette=None, base=space)
    if family in ("/Indexed", "/I") and len(members) == 4:
        return _read_palette(members, depth)
    return ColourSpace(name=family.lstrip("/"), colours=0, palette=None, base=space)


def palette_entries(colour: ColourSpace) -> bytes | None:
    """The palette filled up to 256 entries: a damaged file may point past its end."""
    if colour.palette is None:
        return None
    return colour.palette[: 256 * colour.colours].ljust(256 * colour.colours, b"\0")


def profile_of(colour: ColourSpace) -> bytes:
    """The ICC profile of a colour space, or nothing."""
    members = array_of(colour.base)
    is_profiled = len(members) > 1 and text_of(members[0]) == "/ICCBased"
    return _content_of(members[1]) if is_profiled else b""


def _content_of(value: pikepdf.Object) -> bytes:
    """Return the data of a stream; empty for anything else, or if it cannot be read."""
    if not isinstance(value, pikepdf.Stream):
        return b""
    try:
        return value.read_bytes()
    except pikepdf.PdfError:
        return b""


def _read_palette(members: Sequence[pikepdf.Object], depth: int) -> ColourSpace:
    base = read_colour(members[1], depth=depth + 1)
    table = members[3]
    palette = bytes(table) if isinstance(table, pikepdf.String) else _content_of(table)
    return ColourSpace(
        name=f"Indexed over {base.name}",
        colours=0 if base.palette is not None else base.colours,
        palette=palette,
        base=base.base,
        is_foreign=base.is_foreign,
    )
