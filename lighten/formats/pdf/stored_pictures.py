"""Pictures as a PDF stores them, taken out of it so that another process can decode them."""

import base64
import re
import zlib
from dataclasses import dataclass, replace
from typing import cast

import numpy as np
import pikepdf
from numpy.typing import NDArray

from lighten.codecs.flate import inflate, unpack_rows, unpack_samples
from lighten.codecs.jpeg import decode_jpeg, glimpse_jpeg
from lighten.codecs.jpeg2000 import decode_jpeg2000
from lighten.codecs.two_tone import TwoToneParameters, decode_two_tone

__all__ = [
    "ColourSpace",
    "StoredPicture",
    "bits_of",
    "coding_of",
    "decode",
    "decode_colour_key",
    "decode_opacity",
    "glimpse",
    "read_colour",
    "read_picture",
    "why_untouchable",
]

_MOST_PIXELS = 300_000_000
_MOST_CODED_BYTES = 400_000_000
_GLIMPSE_PX = 256
# SMaskInData: 1 for opacity beside the colours, 2 for colours blended with it.
_OPACITY_BESIDE = 1
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
    "/Lab": 3,
    "/Separation": 1,
}
_TWO_TONE = {"CCITTFaxDecode", "JBIG2Decode"}
# Spaces whose samples are not light: grey or sRGB can be had from them through a reader only.
_FOREIGN = {"/Lab", "/Separation", "/DeviceN"}
_MOST_INKS = 8
_PNG_COLOURS = (1, 3, 4)
_NOT_READ = "left as it is: pictures in {} cannot be read here"


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourSpace:
    """How samples become colours.

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


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredPicture:
    """The coded bytes and all that is needed to decode them; can be sent to another process.

    weight: bytes it has in the file, which are fewer than `data` where that was unpacked.
    filters: still on `data`, outermost first; none where `data` is plain samples.
    colours: samples a pixel (1 with a palette). entry_colours: samples of a palette's entry.
    has_own_colours: calibrated, so that equal red, green and blue need not be a plain grey.
    is_foreign: samples are inks or Lab, not grey or red, green, blue.
    is_stretched: a Decode array gives the samples another meaning, and goes on doing so.
    is_stencil: one bit that paints or does not.
    two_tone: of the codings that need it. profile: of inks, an ICC profile or none.
    colour_key: lowest and highest sample of what is see-through, per colour; or None.
    has_opacity: its coding says how opaque each pixel is, besides its colours.
    """

    data: bytes
    weight: int
    filters: tuple[str, ...]
    predictor: int
    width_px: int
    height_px: int
    bits: int
    colours: int
    palette: bytes | None
    entry_colours: int
    has_own_colours: bool
    is_foreign: bool
    is_stretched: bool
    is_stencil: bool
    two_tone: TwoToneParameters
    profile: bytes
    colour_key: tuple[int, ...] | None
    has_opacity: bool

    @property
    def is_lossy(self) -> bool:
        return bool(self.filters) and self.filters[-1] in ("DCTDecode", "JPXDecode")

    @property
    def has_colour(self) -> bool:
        """Its pixels come out as (height, width, 3)."""
        return (self.colours if self.palette is None else self.entry_colours) == 3


_GREY = ColourSpace(name="DeviceGray", colours=1, palette=None, base=None)


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
            name=family.lstrip("/"),
            colours=_COMPONENTS[family],
            palette=None,
            base=space,
            is_foreign=family in _FOREIGN,
        )
    if family == "/DeviceN" and isinstance(space, pikepdf.Array) and len(space) > 3:
        count = len(cast(pikepdf.Array, space[1]))
        return ColourSpace(
            name=f"DeviceN ({count})",
            colours=count if count <= _MOST_INKS else 0,
            palette=None,
            base=space,
            is_foreign=True,
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
        return _coding_obstacle(picture)
    return _mask_obstacle(picture) or _coding_obstacle(picture) or _colour_obstacle(picture)


def read_picture(picture: pikepdf.Stream) -> StoredPicture:
    """The picture ready to be decoded elsewhere.

    For those that `why_untouchable` has nothing to say about. Raises: pikepdf.PdfError.
    """
    filters = coding_of(picture)
    is_stencil = bool(picture.get("/ImageMask", False))
    colour = _GREY if is_stencil else _colour_of(picture)
    is_plain = all(name in _SIMPLE for name in filters) and (
        filters != ("FlateDecode",)
        or (colour.palette is None and colour.colours not in _PNG_COLOURS)
    )
    level = pikepdf.StreamDecodeLevel.specialized
    key = picture.get("/Mask")
    return StoredPicture(
        data=picture.read_bytes(level) if is_plain else picture.read_raw_bytes(),
        weight=len(picture.read_raw_bytes()),
        filters=() if is_plain else filters,
        predictor=1 if is_plain else int(_last_parameters(picture).get("/Predictor", 1)),
        width_px=int(picture.Width),
        height_px=int(picture.Height),
        bits=bits_of(picture),
        colours=1 if colour.palette is not None else colour.colours,
        palette=_entries(colour),
        entry_colours=colour.colours,
        has_own_colours="ICC" in colour.name or "Cal" in colour.name or colour.is_foreign,
        is_foreign=colour.is_foreign or colour.colours not in (1, 3),
        is_stretched=_is_stretched(picture),
        is_stencil=is_stencil,
        two_tone=_two_tone_parameters(picture),
        profile=_profile(colour) if colour.colours == 4 else b"",
        colour_key=tuple(int(end) for end in key) if isinstance(key, pikepdf.Array) else None,
        has_opacity=_opacity_in_data(picture) == _OPACITY_BESIDE,
    )


def decode(stored: StoredPicture, *, at_least: tuple[int, int] | None = None) -> NDArray[np.uint8]:
    """Its samples, palettes resolved: (height, width) grey or (height, width, n), uint8.

    As the file means them before its Decode array; 16 bits are cut to the upper 8.

    `at_least`: codings that can be decoded at a reduced size may be, down to that.
    Raises: ValueError or OSError if the bytes do not hold what the dictionary says.
    """
    data, coding = _inner(stored)
    if coding == "DCTDecode":
        pixels = decode_jpeg(data, at_least=at_least)
    elif coding == "JPXDecode":
        pixels = decode_jpeg2000(data, halvings=_halvings(stored, at_least))
        if stored.has_opacity:
            pixels = _colours_of(pixels)
    elif coding in _TWO_TONE:
        return _as_colours(stored, _decode_two_tone(stored, data, coding))
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
    if coding in _TWO_TONE:
        return decode(stored)
    return _decode_samples(replace(stored, height_px=rows), data)[:, :_GLIMPSED_COLUMNS]


def decode_colour_key(stored: StoredPicture) -> NDArray[np.bool_] | None:
    """Where the picture is see-through by its colour-key mask: (height, width); None without one.

    Source: ISO 32000-1, 8.9.6.4. Raises: as `decode`.
    """
    if stored.colour_key is None:
        return None
    plain = replace(stored, palette=None, entry_colours=1) if stored.palette else stored
    samples = decode(plain)
    if stored.bits < 8:
        samples = samples // (255 // ((1 << stored.bits) - 1))
    if samples.ndim == 2:
        samples = samples[..., None]
    if len(stored.colour_key) != 2 * samples.shape[2]:
        return None
    lowest, highest = np.array(stored.colour_key).reshape(-1, 2).T
    return np.asarray(((samples >= lowest) & (samples <= highest)).all(axis=2))


def decode_opacity(stored: StoredPicture) -> NDArray[np.uint8] | None:
    """How opaque each pixel is by its own coding: (height, width) uint8; None if nothing says so.

    Source: ISO 32000-1, 7.4.9 and table 89 (SMaskInData). Raises: as `decode`.
    """
    if not stored.has_opacity:
        return None
    data, _ = _inner(stored)
    pixels = decode_jpeg2000(data)
    return pixels[..., -1] if pixels.ndim == 3 and pixels.shape[2] in (2, 4) else None


def _colours_of(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Without the channel of opacity, if there is one."""
    count = pixels.shape[2] if pixels.ndim == 3 else 1
    return {2: pixels[..., 0], 4: pixels[..., :3]}.get(count, pixels)


def _decode_two_tone(stored: StoredPicture, data: bytes, coding: str) -> NDArray[np.uint8]:
    return decode_two_tone(
        data, coding, stored.two_tone, width_px=stored.width_px, height_px=stored.height_px
    )


def _decode_samples(stored: StoredPicture, data: bytes) -> NDArray[np.uint8]:
    rows = unpack_rows(
        data if stored.filters else zlib.compress(data, 1),
        width=stored.width_px,
        height=stored.height_px,
        bits=stored.bits,
        colours=stored.colours,
        predictor=stored.predictor,
    )
    height, width, colours = stored.height_px, stored.width_px, stored.colours
    if stored.bits == 16:
        rows = rows[:, ::2]
    elif stored.bits < 8:
        rows = unpack_samples(rows, width=width * colours, bits=stored.bits)
    if colours == 1:
        return _as_colours(stored, rows[:, :width])
    return _spread(rows, stored.bits).reshape(height, width, colours)


def _as_colours(stored: StoredPicture, levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Levels of one sample a pixel as what they stand for."""
    if stored.palette is None:
        return _spread(levels, stored.bits)
    entries = np.frombuffer(stored.palette, np.uint8)
    return entries[levels] if stored.entry_colours == 1 else _entries_of(stored, entries)[levels]


def _entries_of(stored: StoredPicture, entries: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return entries.reshape(-1, stored.entry_colours)


def _spread(levels: NDArray[np.uint8], bits: int) -> NDArray[np.uint8]:
    """Levels of a few bits over the whole range of 0 to 255."""
    if bits >= 8:
        return levels
    return (levels * (255 // ((1 << bits) - 1))).astype(np.uint8)


def _colour_of(picture: pikepdf.Object) -> ColourSpace:
    if "/ColorSpace" not in picture and coding_of(picture)[-1:] == ("JPXDecode",):
        # The coding tells its colours itself (ISO 32000-1, 7.4.9).
        return ColourSpace(name="in the coding", colours=3, palette=None, base=None)
    return read_colour(picture.get("/ColorSpace"))


def _mask_obstacle(picture: pikepdf.Stream) -> str:
    if _opacity_in_data(picture) > _OPACITY_BESIDE:
        return "left as it is: its colours are blended with the transparency in its coding"
    return ""


def _opacity_in_data(picture: pikepdf.Object) -> int:
    """SMaskInData, which goes for JPEG 2000 only, and not beside a mask of its own."""
    is_asked = coding_of(picture)[-1:] == ("JPXDecode",) and "/SMask" not in picture
    return int(picture.get("/SMaskInData", 0)) if is_asked else 0


def _coding_obstacle(picture: pikepdf.Stream) -> str:
    filters = coding_of(picture)
    if filters and filters[-1] not in {*_SIMPLE, *_TWO_TONE, "DCTDecode", "JPXDecode"}:
        return _NOT_READ.format(filters[-1].removesuffix("Decode"))
    if not set(filters[:-1]) <= _SIMPLE:
        return _NOT_READ.format(" over ".join(filters))
    if "/ColorTransform" in _last_parameters(picture):
        return "left as it is: its colour transform is set from outside"
    return ""


def _colour_obstacle(picture: pikepdf.Stream) -> str:
    colour, bits = _colour_of(picture), int(picture.get("/BitsPerComponent", 8))
    if colour.colours == 0:
        return _NOT_READ.format(colour.name)
    if bits not in (1, 2, 4, 8, 16):
        return _NOT_READ.format(f"{bits} bits a colour")
    if colour.palette is not None and (bits > 8 or _is_stretched(picture)):
        return _NOT_READ.format(colour.name)
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
        is_foreign=base.is_foreign,
    )


def _entries(colour: ColourSpace) -> bytes | None:
    """The palette filled up to 256 entries: a damaged file may point past its end."""
    if colour.palette is None:
        return None
    return colour.palette[: 256 * colour.colours].ljust(256 * colour.colours, b"\0")


def bits_of(picture: pikepdf.Object) -> int:
    """Two-tone codings and stencils have one bit, whatever the dictionary says."""
    if picture.get("/ImageMask", False) or coding_of(picture)[-1:] in (
        ("CCITTFaxDecode",),
        ("JBIG2Decode",),
    ):
        return 1
    return int(picture.get("/BitsPerComponent", 8))


def _two_tone_parameters(picture: pikepdf.Object) -> TwoToneParameters:
    if coding_of(picture)[-1:] not in (("CCITTFaxDecode",), ("JBIG2Decode",)):
        return TwoToneParameters()
    parameters = _last_parameters(picture)
    shared = parameters.get("/JBIG2Globals")
    told = {key: value for key, value in parameters.items() if key != "/JBIG2Globals"}
    text = " ".join(f"{key} {str(value).lower()}" for key, value in told.items())
    return TwoToneParameters(
        dictionary=text.encode("ascii", "replace"),
        jbig2_globals=shared.read_bytes() if isinstance(shared, pikepdf.Stream) else b"",
    )


def _profile(colour: ColourSpace) -> bytes:
    """The ICC profile of a colour space, or nothing."""
    base = colour.base
    if not isinstance(base, pikepdf.Array) or str(base[0]) != "/ICCBased":
        return b""
    try:
        return cast(pikepdf.Stream, base[1]).read_bytes()
    except pikepdf.PdfError:
        return b""


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
