"""Embedded pictures of two PDFs compared by their decoded samples and colour spaces."""

import numpy as np
import pikepdf

from lighten.formats.pdf.objects.values import array_of, dictionary_of
from lighten.formats.pdf.pictures.read_pictures import read_picture
from lighten.pictures.coding.decode import UNREADABLE, decode

__all__ = ["base_space", "colour_transform", "have_same_samples"]


def have_same_samples(one: pikepdf.Stream, other: pikepdf.Stream) -> bool:
    """Decode two pictures, palettes resolved, and compare; False if one cannot be decoded."""
    try:
        before, after = (decode(read_picture(picture)) for picture in (one, other))
    except (*UNREADABLE, pikepdf.PdfError):
        return False
    return before.shape == after.shape and bool(np.array_equal(before, after))


def colour_transform(picture: pikepdf.Stream) -> object:
    """Return how a JPEG is told to change its colours (ISO 32000-2, table 13)."""
    parameters = picture.get("/DecodeParms")
    of_filters = array_of(parameters)
    last = of_filters[-1] if of_filters else parameters
    return dictionary_of(last).get("/ColorTransform")


def base_space(picture: pikepdf.Stream) -> object:
    """Return the colour space of a picture, or that of its palette (ISO 32000-2, 8.6.6.3)."""
    space = picture.get("/ColorSpace")
    members = array_of(space)
    is_palette = len(members) > 1 and members[0] in ("/Indexed", "/I")
    return members[1] if is_palette else space
