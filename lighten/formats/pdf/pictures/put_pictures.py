"""Pictures coded anew, put in their places in a PDF."""

from typing import cast

import pikepdf

from lighten.formats.pdf.pictures.colour_spaces import read_colour
from lighten.formats.pdf.pictures.put_layers import put_layers
from lighten.formats.pdf.pictures.write_picture import (
    PLAIN_SPACES,
    colour_object,
    write_data,
    write_picture,
)
from lighten.pictures.coding.coded import CodedPicture
from lighten.pictures.recoding.recode import Recoded

__all__ = ["new_picture", "put_picture"]

# By the space that the head of an ICC profile names (ISO 15076-1, 7.2.6).
_COLOURS_OF_PROFILES = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}


def put_picture(pdf: pikepdf.Pdf, picture: pikepdf.Stream, recoded: Recoded) -> int:
    """Put the new bytes in the place of the old ones; how many fewer they are."""
    saved = 0
    if recoded.mask is not None and recoded.has_new_mask:
        mask = pdf.make_stream(b"", Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image)
        saved -= recoded.mask.weight
        _replace(mask, recoded.mask, is_plain=True)
        if "/Mask" in picture:
            del picture.Mask
        picture.SMask = mask
    elif recoded.mask is not None:
        saved += _replace(cast(pikepdf.Stream, picture.SMask), recoded.mask)
    if recoded.picture is not None:
        saved += _replace(picture, recoded.picture, is_plain=recoded.has_plain_colours)
    if recoded.layers is not None:
        saved += put_layers(pdf, picture, recoded.layers)
    if recoded.cut is not None:
        _frame(pdf, picture, recoded.cut)
    return saved


def new_picture(
    pdf: pikepdf.Pdf,
    coded: CodedPicture,
    *,
    profile: bytes = b"",
    mask: CodedPicture | None = None,
    is_inverted: bool = False,
) -> pikepdf.Stream:
    """Add a picture to the document.

    profile: an ICC profile of its colours. mask: how opaque its pixels are. is_inverted: no ink is
    all ones, as JPEG of four inks has it.
    """
    stream = pdf.make_stream(b"", Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image)
    base = None
    if profile and _COLOURS_OF_PROFILES.get(profile[16:20]) == coded.colours:
        icc = pdf.make_stream(profile, N=coded.colours, Alternate=PLAIN_SPACES[coded.colours])
        base = pikepdf.Array([pikepdf.Name.ICCBased, icc])
    write_picture(stream, coded, base)
    if is_inverted:
        stream.Decode = pikepdf.Array([1, 0] * coded.colours)
    if mask is not None:
        stream.SMask = new_picture(pdf, mask)
    return stream


def _replace(stream: pikepdf.Stream, coded: CodedPicture, *, is_plain: bool = False) -> int:
    """The stream holds `coded` from now on; how many bytes lighter it became."""
    before = len(stream.read_raw_bytes())
    is_mask = bool(stream.get("/ImageMask", False))
    had_palette = "/ColorSpace" in stream and read_colour(stream.ColorSpace).palette is not None
    if "/Decode" in stream and (had_palette or coded.palette is not None or is_plain):
        # With a palette it counts places: the usual one, as others are drawn by a reader.
        del stream.Decode
    for key in ("/DecodeParms", "/DP", "/F", "/SMaskInData"):
        if key in stream:
            del stream[key]
    stream.Width, stream.Height = coded.width_px, coded.height_px
    stream.BitsPerComponent = coded.bits
    if not is_mask:
        space = read_colour(None if is_plain else stream.get("/ColorSpace"))
        stream.ColorSpace = colour_object(space.base, space.colours, coded)
    write_data(stream, coded)
    return before - coded.weight


def _frame(
    pdf: pikepdf.Pdf, picture: pikepdf.Stream, cut: tuple[float, float, float, float]
) -> None:
    """Replace a cut picture by a form that shows it at its position in the whole.

    Whatever draws it draws the form instead, so that no page content has to be changed.
    """
    inner = pdf.make_stream(picture.read_raw_bytes())
    for key in list(picture.keys()):
        if key != "/Length":
            inner[key] = picture[key]
            del picture[key]
    left, top, right, bottom = cut
    drawing = f"q {right - left:.6f} 0 0 {bottom - top:.6f} {left:.6f} {1 - bottom:.6f} cm /P Do Q"
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
    picture.BBox = pikepdf.Array([0, 0, 1, 1])
    picture.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=inner))
    if "/OC" in inner:
        picture.OC = inner.OC
        del inner.OC
    picture.write(drawing.encode())
