"""Pictures taken out of a PDF, so that the engine can decode them in another process."""

import zlib
from collections.abc import Callable

import pikepdf

from lighten.codecs.ascii import decode_ascii85, decode_ascii_hex
from lighten.codecs.bitonal import BitonalParameters
from lighten.codecs.flate import inflate
from lighten.formats.pdf.objects.values import numbers_of, text_of, whole_number
from lighten.formats.pdf.pictures.colour_spaces import (
    ColourSpace,
    palette_entries,
    profile_of,
    read_colour,
)
from lighten.formats.pdf.pictures.rendered_colours import PictureAlone
from lighten.pictures.coding.stored import StoredCoding, StoredPicture

__all__ = [
    "bits_of",
    "coding_of",
    "is_lossy",
    "may_repack",
    "read_picture",
    "why_untouchable",
]

_CODINGS = {
    "FlateDecode": StoredCoding.FLATE,
    "DCTDecode": StoredCoding.JPEG,
    "JPXDecode": StoredCoding.JPEG_2000,
    "CCITTFaxDecode": StoredCoding.CCITT,
    "JBIG2Decode": StoredCoding.JBIG2,
}
_LOSSY = ("DCTDecode", "JPXDecode")
_MOST_CODED_BYTES = 400_000_000
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
_NOT_READ = "kept: pictures in {} cannot be read here"
_GREY = ColourSpace(name="DeviceGray", colours=1, palette=None, base=None)


def coding_of(picture: pikepdf.Object) -> tuple[str, ...]:
    """The names of the filters, outermost first."""
    filters = picture.get("/Filter", picture.get("/F"))
    if filters is None:
        return ()
    names = list(filters) if isinstance(filters, pikepdf.Array) else [filters]
    return tuple(_FILTER_NAMES.get(text_of(name), text_of(name).lstrip("/")) for name in names)


def why_untouchable(picture: pikepdf.Stream) -> str:
    """Return the reason for not treating the picture, or ""; does not read its bytes."""
    width, height = whole_number(picture.get("/Width")), whole_number(picture.get("/Height"))
    if width < 1 or height < 1:
        return "kept: its size is not declared"
    if width * height > _MOST_PIXELS:
        return "kept: more pixels than can be worked on safely"
    if picture.get("/ImageMask", False):
        return _coding_obstacle(picture)
    return _mask_obstacle(picture) or _coding_obstacle(picture) or _colour_obstacle(picture)


def read_picture(picture: pikepdf.Stream, *, with_rendering: bool = False) -> StoredPicture:
    """The picture ready to be decoded elsewhere.

    with_rendering: and to be shown as a reader does, where its samples are no light.
    Raises: pikepdf.PdfError.
    """
    filters = coding_of(picture)
    is_mask = bool(picture.get("/ImageMask", False))
    colour = _GREY if is_mask else _colour_of(picture)
    is_plain = all(name in _SIMPLE for name in filters) and (
        filters != ("FlateDecode",)
        or (colour.palette is None and colour.colours not in _PNG_COLOURS)
    )
    data, coding = _unwrapped(picture, filters, is_plain=is_plain)
    profile = profile_of(colour) if colour.colours == 4 else b""
    is_foreign = colour.is_foreign or colour.colours not in (1, 3)
    is_stretched = _is_stretched(picture)
    needs_rendering = with_rendering and ((is_foreign and not profile) or is_stretched)
    key = numbers_of(picture.get("/Mask"))
    return StoredPicture(
        data=data,
        weight=len(picture.read_raw_bytes()),
        coding=coding,
        predictor=1 if is_plain else whole_number(_last_parameters(picture).get("/Predictor"), 1),
        width_px=whole_number(picture.get("/Width")),
        height_px=whole_number(picture.get("/Height")),
        bits=bits_of(picture),
        colours=1 if colour.palette is not None else colour.colours,
        palette=palette_entries(colour),
        entry_colours=colour.colours,
        has_own_colours="ICC" in colour.name or "Cal" in colour.name or colour.is_foreign,
        is_foreign=is_foreign,
        is_stretched=is_stretched,
        is_mask=is_mask,
        bitonal=_bitonal_parameters(picture),
        profile=profile,
        colour_key=tuple(int(end) for end in key) if key else None,
        has_opacity=_opacity_in_data(picture) == _OPACITY_BESIDE,
        rendering=PictureAlone.of(picture) if needs_rendering else None,
    )


def may_repack(picture: pikepdf.Object) -> bool:
    """Return whether it is a JPEG that can be packed tighter, without parameters beside it."""
    return (
        coding_of(picture)[-1:] == ("DCTDecode",)
        and not _last_parameters(picture)
        and read_colour(picture.get("/ColorSpace")).palette is None
    )


def is_lossy(picture: pikepdf.Object) -> bool:
    """Return whether the coding of a picture is lossy."""
    return coding_of(picture)[-1:] in [(name,) for name in _LOSSY]


def _unwrapped(
    picture: pikepdf.Stream, filters: tuple[str, ...], *, is_plain: bool
) -> tuple[bytes, StoredCoding]:
    """Return the bytes without outer filters, and the remaining filter."""
    if is_plain:
        return picture.read_bytes(pikepdf.StreamDecodeLevel.specialized), StoredCoding.RAW
    data = picture.read_raw_bytes()
    try:
        for name in filters[:-1]:
            data = _UNWRAP[name](data)
    except (KeyError, ValueError, zlib.error):
        return b"", StoredCoding.UNKNOWN
    return data, _CODINGS.get(filters[-1], StoredCoding.UNKNOWN)


_UNWRAP: dict[str, Callable[[bytes], bytes]] = {
    "FlateDecode": lambda data: inflate(data, most_bytes=_MOST_CODED_BYTES),
    "ASCIIHexDecode": decode_ascii_hex,
    "ASCII85Decode": decode_ascii85,
}


def bits_of(picture: pikepdf.Object) -> int:
    """Return bits per component; bitonal codings and masks have one."""
    if picture.get("/ImageMask", False) or coding_of(picture)[-1:] in (
        ("CCITTFaxDecode",),
        ("JBIG2Decode",),
    ):
        return 1
    return whole_number(picture.get("/BitsPerComponent"), 8)


def _colour_of(picture: pikepdf.Object) -> ColourSpace:
    if "/ColorSpace" not in picture and coding_of(picture)[-1:] == ("JPXDecode",):
        # The coding declares its colours itself (ISO 32000-1, 7.4.9).
        return ColourSpace(name="in the coding", colours=3, palette=None, base=None)
    return read_colour(picture.get("/ColorSpace"))


def _mask_obstacle(picture: pikepdf.Stream) -> str:
    if _opacity_in_data(picture) > _OPACITY_BESIDE:
        return "kept: its colours are blended with the transparency in its coding"
    return ""


def _opacity_in_data(picture: pikepdf.Object) -> int:
    """Return SMaskInData, which applies to JPEG 2000 without a mask of its own."""
    is_asked = coding_of(picture)[-1:] == ("JPXDecode",) and "/SMask" not in picture
    return whole_number(picture.get("/SMaskInData")) if is_asked else 0


def _coding_obstacle(picture: pikepdf.Stream) -> str:
    filters = coding_of(picture)
    if filters and filters[-1] not in {*_SIMPLE, *_CODINGS}:
        return _NOT_READ.format(filters[-1].removesuffix("Decode"))
    if not set(filters[:-1]) <= _SIMPLE:
        return _NOT_READ.format(" over ".join(filters))
    if "/ColorTransform" in _last_parameters(picture):
        return "kept: its colour transform is set from outside"
    return ""


def _colour_obstacle(picture: pikepdf.Stream) -> str:
    colour, bits = _colour_of(picture), whole_number(picture.get("/BitsPerComponent"), 8)
    if colour.colours == 0:
        return _NOT_READ.format(colour.name)
    if bits not in (1, 2, 4, 8, 16):
        return _NOT_READ.format(f"{bits} bits a colour")
    if colour.palette is not None and (bits > 8 or _is_stretched(picture)):
        return _NOT_READ.format(colour.name)
    return ""


def _bitonal_parameters(picture: pikepdf.Object) -> BitonalParameters:
    if coding_of(picture)[-1:] not in (("CCITTFaxDecode",), ("JBIG2Decode",)):
        return BitonalParameters()
    parameters = _last_parameters(picture)
    shared = parameters.get("/JBIG2Globals")
    entries = {key: value for key, value in parameters.items() if key != "/JBIG2Globals"}
    text = " ".join(f"{key} {text_of(value).lower()}" for key, value in entries.items())
    return BitonalParameters(
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
    """Return whether the Decode array is not the default one (ISO 32000-1, table 90)."""
    ends = numbers_of(picture.get("/Decode"))
    if not ends:
        return False
    is_indexed = read_colour(picture.get("/ColorSpace")).palette is not None
    top = (1 << bits_of(picture)) - 1 if is_indexed else 1
    return ends != [0, top] * (len(ends) // 2)
