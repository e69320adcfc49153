"""A page held as layers, in the place of the one picture that it was."""

import pikepdf

from lighten.formats.pdf.pictures.colour_spaces import read_colour
from lighten.formats.pdf.pictures.write_picture import PLAIN_SPACES, write_picture
from lighten.pictures.coding.coded import CodedPicture
from lighten.pictures.coding.layered import Ink, LayeredPicture

__all__ = ["put_layers"]

# What stays with the object whatever it draws (ISO 32000-1, tables 89 and 95).
_STAYING = ("/Length", "/OC", "/Metadata", "/StructParent")
_FILLS = {"/DeviceGray": "g", "/DeviceRGB": "rg"}


def put_layers(pdf: pikepdf.Pdf, picture: pikepdf.Stream, layers: LayeredPicture) -> int:
    """Replace a picture by a form of layers; return the bytes saved.

    Whatever draws it draws the form instead, so that no page content has to be changed.
    """
    before = len(picture.read_raw_bytes())
    space = _space_for(picture, layers)
    for key in list(picture.keys()):
        if key not in _STAYING:
            del picture[key]
    pictures = pikepdf.Dictionary(P=_image(pdf, layers.paper, space))
    drawing = ["q /P Do"]
    if layers.ink is not None:
        pictures["/I"] = _strokes(pdf, layers.ink, space)
        drawing.append(f"{_fill(layers.ink, space)}/I Do")
    if layers.pictures is not None:
        on_top = _image(pdf, layers.pictures.picture, space)
        on_top.Mask = _mask(pdf, layers.pictures.places)
        pictures["/Z"] = on_top
        drawing.append("/Z Do")
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
    picture.BBox = pikepdf.Array([0, 0, 1, 1])
    picture.Resources = pikepdf.Dictionary(XObject=pictures, ColorSpace=pikepdf.Dictionary(C=space))
    picture.write(" ".join([*drawing, "Q"]).encode())
    return before - layers.weight


def _space_for(picture: pikepdf.Stream, layers: LayeredPicture) -> pikepdf.Object:
    """The picture's own colours, or plain ones where it has lost some."""
    space = read_colour(picture.get("/ColorSpace"))
    if space.base is not None and space.colours == layers.paper.colours:
        return space.base
    return PLAIN_SPACES[layers.paper.colours]


def _image(pdf: pikepdf.Pdf, coded: CodedPicture, space: pikepdf.Object) -> pikepdf.Stream:
    stream = pdf.make_stream(b"", Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image)
    # Where a part of a page has no colour it is grey.
    is_its_own = coded.colours == read_colour(space).colours
    write_picture(stream, coded, space if is_its_own else PLAIN_SPACES[coded.colours])
    return stream


def _strokes(pdf: pikepdf.Pdf, ink: Ink, space: pikepdf.Object) -> pikepdf.Stream:
    """A mask, or a picture of the ink's colours that is seen through one."""
    mask = _mask(pdf, ink.strokes)
    if isinstance(ink.colour, tuple):
        return mask
    colours = _image(pdf, ink.colour, space)
    colours.Mask = mask
    return colours


def _mask(pdf: pikepdf.Pdf, coded: CodedPicture) -> pikepdf.Stream:
    mask = pdf.make_stream(b"", Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image)
    mask.ImageMask = True
    write_picture(mask, coded, None)
    return mask


def _fill(ink: Ink, space: pikepdf.Object) -> str:
    if not isinstance(ink.colour, tuple):
        return ""
    samples = " ".join(f"{sample / 255:.4g}" for sample in ink.colour)
    operator = _FILLS.get(str(space)) if isinstance(space, pikepdf.Name) else None
    return f"{samples} {operator} " if operator else f"/C cs {samples} scn "
