"""Ids of parts, and the objects of a PDF behind them."""

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.model.kinds import PartKind

__all__ = ["part_id", "part_object", "part_object_id"]


def part_id(kind: PartKind, object_id: ObjectId) -> str:
    """The id of a picture or font, from the object that holds it."""
    return f"{kind}:{object_id[0]}-{object_id[1]}"


def part_object_id(id_: str) -> ObjectId:
    """The object behind the id of a picture or font. Raises: KeyError."""
    kind, _, numbers = id_.partition(":")
    number, _, generation = numbers.partition("-")
    if kind not in (PartKind.PICTURE, PartKind.FONT) or not (number + generation).isdigit():
        raise KeyError(id_)
    return int(number), int(generation)


def part_object(pdf: pikepdf.Pdf, id_: str) -> pikepdf.Object:
    """Return the object of a part in `pdf`. Raises: KeyError."""
    return pdf.get_object(part_object_id(id_))
