"""Pictures as a PDF stores them, taken out of it so that another process can decode them."""

import base64
import re
import zlib
from dataclasses import dataclass, replace

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.codecs.flate import inflate, unpack_rows, unpack_samples
from lighten.codecs.jpeg import decode_jpeg, glimpse_jpeg
from lighten.codecs.jpeg2000 import decode_jpeg2000

__all__ = [
    "ColourSpace",
    "StoredPicture",
    "coding_of",
    "decode",
    "glimpse",
    "read_colour",
    "read_picture",
    "why_untouchable",
]

_MOST_PIXELS = 300_000_000
_MOST_CODED_BYTES = 400_000_000
_GLIMPSE_PX = 256
_GLIMPSED_COLUMNS = 1024
_FILTER_NAMES = {
    "/Fl": "FlateDecode",
    "/DCT": "DCTDecode",
    "/CCF": "CCITTFaxDecode",
    "/LZW": "LZWDecode",
    "/RL": "RunLengthDecode",
    "/AHx": "ASCIIHexDecode",
    "/A85": "ASCII85Decode",
}
# What the object library can undo by itself, leaving plain samples.
_SIMPLE = {
    "FlateDecode",
    "LZWDecode",
    "RunLengthDecode",
    "ASCIIHexDecode",
    "ASCII85Decode",
}
_COMPONENTS = {
    "/DeviceGray": 1,
    "/G": 1,
    "/CalGray": 1,
    "/DeviceRGB": 3,
    "/RGB": 3,
    "/CalRGB": 3,
    "/DeviceCMYK": 4,
    "/CMYK": 4,
}
_NOT_YET = "left as it is: pictures in {} are not resampled yet"


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourSpace:
    """How samples become colours.

    name: for a person, as "ICCBased (3)" or "Indexed over DeviceRGB".
    colours: samples a pixel, or a palette entry; 0 where it is not understood here.
    palette: entries of `colours` bytes, or None.
    base: the object to use for pixels taken out of a palette.
    """

    name: str
    colours: int
    palette: bytes | None
    base: pikepdf.Object | None


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredPicture:
    """The coded bytes and all that is needed to decode them; can be sent to another process.

    filters: still on `data`, outermost first; none where `data` is plain samples.
    colours: samples a pixel (1 with a palette).
    has_own_colours: calibrated, so that equal red, green and blue need not be a plain grey.
    is_stretched: a Decode array gives the samples another meaning, and goes on doing so.
    """

    data: bytes
    filters: tuple[str, ...]
    predictor: int
    width_px: int
    height_px: int
    bits: int
    colours: int
    palette: bytes | None
    has_own_colours: bool
    is_stretched: bool

    @property
    def is_lossy(self) -> bool:
        return bool(self.filters) and self.filters[-1] in ("DCTDecode", "JPXDecode")

    @property
    def has_colour(self) -> bool:
        """Its pixels come out as (height, width, 3)."""
        return self.colours == 3 or (self.palette is not None and len(self.palette) == 3 * 256)


def coding_of(picture: pikepdf.Object) -> tuple[str, ...]:
    """The names of the filters, outermost first."""
    filters = picture.get("/Filter", picture.get("/F"))
    if filters is None:
        return ()
    names = list(filters) if isinstance(filters, pikepdf.Array) else [filters]
    return tuple(_FILTER_NAMES.get(str(name), str(name).lstrip("/")) for name in names)


def read_colour(space: pikepdf.Object | None, *, depth: int = 0) -> ColourSpace:
    """What is known of a colour space; `colours` is 0 for those not understood here.

    Source: ISO 32000-1, 8.6.
    """
    if space is None or depth > 4:
        return ColourSpace(name="none", colours=0, palette=None, base=None)
    family = str(space[0]) if isinstance(space, pikepdf.Array) and len(space) else str(space)
    if family in _COMPONENTS:
        return ColourSpace(
            name=family.lstrip("/"), colours=_COMPONENTS[family], palette=None, base=space
        )
    if family == "/ICCBased" and isinstance(space[1], pikepdf.Stream):
        count = int(space[1].get("/N", 0))
        colours = count if count in (1, 3, 4) else 0
        return ColourSpace(name=f"ICCBased ({count})", colours=colours, palette=None, base=space)
    if family in ("/Indexed", "/I") and isinstance(space, pikepdf.Array) and len(space) == 4:
        return _read_palette(space, depth)
    return ColourSpace(name=family.lstrip("/"), colours=0, palette=None, base=space)


def why_untouchable(picture: pikepdf.Stream) -> str:
    """Why this version leaves the picture as it is, or ""; does not read its bytes."""
    width, height = int(picture.get("/Width", 0)), int(picture.get("/Height", 0))
    if width < 1 or height < 1:
        return "left as it is: its size is not told"
    if width * height > _MOST_PIXELS:
        return "left as it is: more pixels than can be worked on safely"
    if picture.get("/ImageMask", False):
        return _NOT_YET.format("stencils")
    return _mask_obstacle(picture) or _coding_obstacle(picture) or _colour_obstacle(picture)


def read_picture(picture: pikepdf.Stream) -> StoredPicture:
    """The picture ready to be decoded elsewhere.

    For those that `why_untouchable` has nothing to say about. Raises: pikepdf.PdfError.
    """
    filters = coding_of(picture)
    colour = _colour_of(picture)
    is_plain = filters != ("FlateDecode",) and all(name in _SIMPLE for name in filters)
    level = pikepdf.StreamDecodeLevel.specialized
    return StoredPicture(
        data=picture.read_bytes(level) if is_plain else picture.read_raw_bytes(),
        filters=() if is_plain else filters,
        predictor=1 if is_plain else int(_last_parameters(picture).get("/Predictor", 1)),
        width_px=int(picture.Width),
        height_px=int(picture.Height),
        bits=int(picture.get("/BitsPerComponent", 8)),
        colours=1 if colour.palette is not None else colour.colours,
        palette=_entries(colour),
        has_own_colours="ICC" in colour.name or "Cal" in colour.name,
        is_stretched=_is_stretched(picture),
    )


def decode(stored: StoredPicture, *, at_least: tuple[int, int] | None = None) -> NDArray[np.uint8]:
    """Its samples, palettes resolved: (height, width) grey or (height, width, 3 or 4), uint8.

    As the file means them before its Decode array; 16 bits are cut to the upper 8.

    `at_least`: codings that can be decoded at a reduced size may be, down to that.
    Raises: ValueError or OSError if the bytes do not hold what the dictionary says.
    """
    data, coding = _inner(stored)
    if coding == "DCTDecode":
        pixels = decode_jpeg(data, at_least=at_least)
    elif coding == "JPXDecode":
        pixels = decode_jpeg2000(data, halvings=_halvings(stored, at_least))
    else:
        return _decode_samples(stored, data)
    if stored.palette is not None or (pixels.shape[2:] or (1,)) != (stored.colours,):
        raise ValueError("its coding and its colour space do not agree")
    return pixels


def glimpse(stored: StoredPicture) -> NDArray[np.uint8]:
    """Enough of its pixels to tell what it is: a band, or the whole at a reduced size.

    Returns and raises as `decode`.
    """
    data, coding = _inner(stored)
    if coding == "DCTDecode":
        return glimpse_jpeg(data, longest_px=max(stored.width_px, stored.height_px))
    if coding == "JPXDecode":
        return decode(stored, at_least=(_GLIMPSE_PX, _GLIMPSE_PX))
    rows = min(stored.height_px, max(_GLIMPSE_PX, stored.height_px // 5))
    return _decode_samples(replace(stored, height_px=rows), data)[:, :_GLIMPSED_COLUMNS]


def _decode_samples(stored: StoredPicture, data: bytes) -> NDArray[np.uint8]:
    rows = unpack_rows(
        data if stored.filters else zlib.compress(data, 1),
        width=stored.width_px,
        height=stored.height_px,
        bits=stored.bits,
        colours=stored.colours,
        predictor=stored.predictor,
    )
    if stored.bits == 16:
        rows = rows[:, ::2]
    if stored.colours > 1:
        return rows.reshape(stored.height_px, stored.width_px, stored.colours)
    if stored.bits == 16:
        return rows
    levels = unpack_samples(rows, width=stored.width_px, bits=stored.bits)
    if stored.palette is None:
        return (levels * (255 // ((1 << stored.bits) - 1))).astype(np.uint8)
    entries = np.frombuffer(stored.palette, np.uint8)
    return entries.reshape(-1, 3)[levels] if stored.has_colour else entries[levels]


def _colour_of(picture: pikepdf.Object) -> ColourSpace:
    if "/ColorSpace" not in picture and coding_of(picture)[-1:] == ("JPXDecode",):
        # The coding tells its colours itself (ISO 32000-1, 7.4.9).
        return ColourSpace(name="in the coding", colours=3, palette=None, base=None)
    return read_colour(picture.get("/ColorSpace"))


def _mask_obstacle(picture: pikepdf.Stream) -> str:
    if isinstance(picture.get("/Mask"), pikepdf.Array):
        return "left as it is: one of its colours is see-through, which coding anew would blur"
    if int(picture.get("/SMaskInData", 0)):
        return "left as it is: its transparency is inside its coding"
    mask = picture.get("/SMask")
    if isinstance(mask, pikepdf.Stream) and "/Matte" in mask:
        return "left as it is: its edge is blended with its mask"
    return ""


def _coding_obstacle(picture: pikepdf.Stream) -> str:
    filters = coding_of(picture)
    if filters and filters[-1] not in {*_SIMPLE, "DCTDecode", "JPXDecode"}:
        return _NOT_YET.format(filters[-1].removesuffix("Decode"))
    if not set(filters[:-1]) <= _SIMPLE:
        return _NOT_YET.format(" over ".join(filters))
    if "/ColorTransform" in _last_parameters(picture):
        return "left as it is: its colour transform is set from outside"
    return ""


def _colour_obstacle(picture: pikepdf.Stream) -> str:
    colour, bits = _colour_of(picture), int(picture.get("/BitsPerComponent", 8))
    if colour.colours == 0:
        return _NOT_YET.format(colour.name)
    many_colours = colour.colours > 1 and colour.palette is None
    if bits not in (1, 2, 4, 8, 16) or (bits < 8 and many_colours):
        return _NOT_YET.format(f"{bits} bits a colour")
    if colour.palette is not None and (colour.colours == 4 or _is_stretched(picture)):
        return _NOT_YET.format(colour.name)
    return ""


def _read_palette(space: pikepdf.Array, depth: int) -> ColourSpace:
    base = read_colour(space[1], depth=depth + 1)
    table = space[3]
    try:
        palette = table.read_bytes() if isinstance(table, pikepdf.Stream) else bytes(table)
    except pikepdf.PdfError:
        palette = b""
    return ColourSpace(
        name=f"Indexed over {base.name}",
        colours=0 if base.palette is not None else base.colours,
        palette=palette,
        base=base.base,
    )


def _entries(colour: ColourSpace) -> bytes | None:
    """The palette filled up to 256 entries: a damaged file may point past its end."""
    if colour.palette is None:
        return None
    return colour.palette[: 256 * colour.colours].ljust(256 * colour.colours, b"\0")


def _last_parameters(picture: pikepdf.Object) -> pikepdf.Dictionary:
    """The parameters of the innermost filter."""
    parameters = picture.get("/DecodeParms", picture.get("/DP"))
    if isinstance(parameters, pikepdf.Array):
        parameters = parameters[-1] if len(parameters) else None
    return parameters if isinstance(parameters, pikepdf.Dictionary) else pikepdf.Dictionary()


def _is_stretched(picture: pikepdf.Object) -> bool:
    """Its Decode array is another than the usual one (ISO 32000-1, table 90)."""
    array = picture.get("/Decode")
    if not isinstance(array, pikepdf.Array):
        return False
    ends = [float(end) for end in array]
    is_indexed = read_colour(picture.get("/ColorSpace")).palette is not None
    top = (1 << int(picture.get("/BitsPerComponent", 8))) - 1 if is_indexed else 1
    return ends != [0, top] * (len(ends) // 2)


def _inner(stored: StoredPicture) -> tuple[bytes, str]:
    """The bytes below the outer wrappings, and the name of the coding that is left."""
    data, filters = stored.data, stored.filters
    for name in filters[:-1]:
        if name == "FlateDecode":
            data = inflate(data, most_bytes=_MOST_CODED_BYTES)
        elif name == "ASCIIHexDecode":
            digits = re.sub(rb"[^0-9A-Fa-f]", b"", data.split(b">")[0])
            data = bytes.fromhex((digits + b"0" * (len(digits) % 2)).decode())
        elif name == "ASCII85Decode":
            data = base64.a85decode(data.split(b"~>")[0].removeprefix(b"<~"))
        else:
            raise ValueError(f"{name} around another coding")
    return data, filters[-1] if filters else ""


def _halvings(stored: StoredPicture, at_least: tuple[int, int] | None) -> int:
    """How often both sides can be halved and stay at least that long."""
    count = 0
    if at_least is not None:
        while count < 5 and all(
            side >> (count + 1) >= wanted
            for side, wanted in zip((stored.width_px, stored.height_px), at_least, strict=True)
        ):
            count += 1
    return count
