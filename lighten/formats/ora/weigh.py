"""The weight sheet of a drawing: the picture it becomes, each layer, and what lies beside them."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from lighten.formats.ora.kinds import ORA
from lighten.formats.ora.stack import MERGED, STACK, THUMBNAIL, Drawing, open_drawing
from lighten.model.kinds import PartKind
from lighten.model.source import Source
from lighten.model.weights import Part, WeightSheet, with_structure

__all__ = ["sheet_of_picture", "weigh_layers"]


def weigh_layers(source: Source, picture: WeightSheet, format_name: str) -> WeightSheet:
    """Weigh each layer. picture: the sheet of the flattened picture, whose parts come first."""
    drawing = open_drawing(source)
    flat = [part for part in picture.parts if part.kind is not PartKind.STRUCTURE]
    size_bytes = source.path.stat().st_size
    layers = sum(1 for _ in drawing.layers())
    return replace(
        picture,
        format=format_name,
        media_type=ORA.media_type,
        size_bytes=size_bytes,
        parts=with_structure([*flat, *_layers(drawing)], size_bytes),
        remarks=(
            *picture.remarks,
            f"{layers} layers become one picture, in which they can no longer be told apart; the "
            "original keeps them",
        ),
    )


def sheet_of_picture(sheet: WeightSheet, format_name: str, size_bytes: int) -> WeightSheet:
    """The sheet of the flattened picture again, out of that of the drawing."""
    own = [part for part in sheet.parts if part.kind not in (PartKind.LAYER, PartKind.STRUCTURE)]
    return replace(
        sheet, format=format_name, size_bytes=size_bytes, parts=with_structure(own, size_bytes)
    )


def _layers(drawing: Drawing) -> Iterator[Part]:
    """Return a part for each layer, and one for data that only the drawing program needs.

    Members that several layers share weigh with the first.
    """
    counted = {MERGED, STACK, "mimetype"}
    for number, (layer, is_seen) in enumerate(drawing.layers(), start=1):
        if layer.member not in counted:
            counted.add(layer.member)
            name = layer.name or f"Layer {number}"
            members = {layer.member}
            yield _part(drawing, str(number), name if is_seen else f"{name}, hidden", members)
    yield _part(drawing, "thumbnail", "Preview thumbnail", {THUMBNAIL} - counted)
    others = drawing.archive.members.keys() - counted - {THUMBNAIL}
    yield _part(drawing, "private", "What its program kept for itself", others)


def _part(drawing: Drawing, name: str, title: str, members: Iterable[str]) -> Part:
    found = (drawing.archive.members.get(member) for member in members)
    return Part(
        id=f"layer:{name}",
        kind=PartKind.LAYER,
        size_bytes=sum(member.weight for member in found if member is not None),
        name=title,
    )
