"""Pictures as a PDF stores them, taken out of it so that another process can decode them."""

from dataclasses import dataclass

import pikepdf

from lighten.codecs.two_tone import TwoToneParameters
from lighten.formats.pdf.colour_spaces import (
    ColourSpace,
    palette_entries,
    profile_of,
    read_colour,
)

__all__ = [
    "TWO_TONE_CODINGS",
    "StoredPicture",
    "bits_of",
    "coding_of",
    "read_picture",
    "why_untouchable",
]

TWO_TONE_CODINGS = {"CCITTFaxDecode", "JBIG2Decode"}
_MOST_PIXELS = 300_000_000
# SMaskInData: 1 for opacity beside the colours, 2 for colours blended with it.
_OPACITY_BESIDE = 1
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
_PNG_COLOURS = (1, 3, 4)
_NOT_READ = "left as it is: pictures in {} cannot be read here"
_GREY = ColourSpace(name="DeviceGray", colours=1, palette=None, base=None)


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


def coding_of(picture: pikepdf.Object) -> tuple[str, ...]:
    """The names of the filters, outermost first."""
    filters = picture.get("/Filter", picture.get("/F"))
    if filters is None:
        return ()
    names = list(filters) if isinstance(filters, pikepdf.Array) else [filters]
    return tuple(_FILTER_NAMES.get(str(name), str(name).lstrip("/")) for name in names)


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
        palette=palette_entries(colour),
        entry_colours=colour.colours,
        has_own_colours="ICC" in colour.name or "Cal" in colour.name or colour.is_foreign,
        is_foreign=colour.is_foreign or colour.colours not in (1, 3),
        is_stretched=_is_stretched(picture),
        is_stencil=is_stencil,
        two_tone=_two_tone_parameters(picture),
        profile=profile_of(colour) if colour.colours == 4 else b"",
        colour_key=tuple(int(end) for end in key) if isinstance(key, pikepdf.Array) else None,
        has_opacity=_opacity_in_data(picture) == _OPACITY_BESIDE,
    )


def bits_of(picture: pikepdf.Object) -> int:
    """Two-tone codings and stencils have one bit, whatever the dictionary says."""
    if picture.get("/ImageMask", False) or coding_of(picture)[-1:] in (
        ("CCITTFaxDecode",),
        ("JBIG2Decode",),
    ):
        return 1
    return int(picture.get("/BitsPerComponent", 8))


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
    if filters and filters[-1] not in {*_SIMPLE, *TWO_TONE_CODINGS, "DCTDecode", "JPXDecode"}:
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
