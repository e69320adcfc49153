"""Placements of pictures in the XML of a package: position, size and visible part.

Sources: ECMA-376 part 1, clause 20 (DrawingML; 914,400 EMU to the inch) and part 4, clause 19
(VML). Names are compared without their namespaces, which differ between editions.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from lighten.containers.opc.relationships import relations_of
from lighten.containers.xml_parts import local_name

__all__ = ["Crop", "Reference", "picture_references", "write_crop"]

_EMU_PER_POINT = 12_700
_SHARE = 100_000  # of the crop of DrawingML: thousandths of a percent
_FIXED = 65_536  # of the crop of VML, where a number ends with f
_POINTS = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4, "pc": 12.0, "px": 0.75}
_LENGTH = re.compile(r"\s*(-?[\d.]+)\s*([a-z]*)\s*$")
_SIDES = ("l", "t", "r", "b")
_VML_SIDES = ("cropleft", "croptop", "cropright", "cropbottom")
_BY_ID = {
    "blip": ("embed",),
    "svgBlip": ("embed",),
    "imagedata": ("id", "pict", "relid"),
    "fill": ("id", "relid"),
    "stroke": ("id", "relid"),
}
_FALLBACK = "Fallback"
_WHOLE = (0.0, 0.0, 1.0, 1.0)

Crop = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Reference:
    """One showing of a picture.

    place: the same for the same showing in a copy: its number among those of its member, or
    "f" and its number among those for old readers. id: of the relationship to the picture.
    width_pt, height_pt: of the whole picture as shown, with what is hidden; None if not known.
    crop: what is hidden of it at the left, top, right and bottom, as shares of its sides.
    is_tiled: its own size says how often it is repeated. has_other_forms: the same crop serves
    the picture in another form as well, a drawing of lines or one outside the document.
    """

    place: str
    id: str
    width_pt: float | None
    height_pt: float | None
    crop: Crop
    is_tiled: bool
    has_other_forms: bool
    element: Any = field(compare=False, repr=False)

    @property
    def visible(self) -> tuple[float, float, float, float]:
        """Return left, top, right and bottom of the visible part, as shares of the sides.

        All of it where there are other forms: they would be cropped as the cut one is.
        """
        if self.has_other_forms:
            return _WHOLE
        left, top, right, bottom = (min(1.0, max(0.0, side)) for side in self.crop)
        return left, top, max(left, 1 - right), max(top, 1 - bottom)


def picture_references(root: Any) -> Iterator[Reference]:
    """Every showing of a picture in an XML member, in the order of the document."""
    numbers = {"": 0, "f": 0}
    for element in root.iter(*(f"{{*}}{name}" for name in _BY_ID)):
        name = local_name(element)
        relationship = _relation_named(element, _BY_ID[name])
        if not relationship:
            continue
        is_fallback = any(local_name(above) == _FALLBACK for above in element.iterancestors())
        kind = "f" if is_fallback else ""
        numbers[kind] += 1
        read = _read_vml if name in ("imagedata", "fill", "stroke") else _read_drawing
        yield read(element, f"{kind}{numbers[kind]}", relationship)


def write_crop(reference: Reference, crop: Crop) -> None:
    """Replace the crop of the picture at a reference."""
    element = reference.element
    if local_name(element) == "imagedata":
        for name, side in zip(_VML_SIDES, crop, strict=True):
            element.attrib.pop(name, None)
            if side:
                element.set(name, f"{round(side * _FIXED)}f")
        return
    fill = _blip_of(element).getparent()
    rectangle = fill.find("{*}srcRect")
    for name, side in zip(_SIDES, crop, strict=True):
        rectangle.attrib.pop(name, None)
        if side:
            rectangle.set(name, str(round(side * _SHARE)))


def _relation_named(element: Any, names: tuple[str, ...]) -> str:
    """The id in an attribute of the relationships' namespace, whichever edition's."""
    return next((relation for name, relation in relations_of(element) if name in names), "")


def _has_other_forms(element: Any) -> bool:
    """Return whether the drawing refers to several forms of one picture."""
    return (
        sum(len({relation for _, relation in relations_of(one)}) for one in element.iter("*")) > 1
    )


def _blip_of(element: Any) -> Any:
    """Return the picture element of a reference; a vector form lies inside one."""
    while local_name(element) != "blip":
        element = element.getparent()
    return element


def _read_drawing(element: Any, place: str, relationship: str) -> Reference:
    blip = _blip_of(element)
    fill = blip.getparent()
    size, crop = _drawn_size(fill), (0.0, 0.0, 0.0, 0.0)
    if fill is not None:
        crop = _shares(fill.find("{*}srcRect"))
        stretched = _shares(fill.find("{*}stretch/{*}fillRect"))
        if size is not None:
            size = _whole(size, crop, stretched)
    return Reference(
        place=place,
        id=relationship,
        width_pt=size[0] if size else None,
        height_pt=size[1] if size else None,
        crop=crop,
        is_tiled=fill is not None and fill.find("{*}tile") is not None,
        has_other_forms=_has_other_forms(blip),
        element=element,
    )


def _whole(size: tuple[float, float], crop: Crop, stretched: Crop) -> tuple[float, float] | None:
    """Return the size of the uncropped picture, from its frame and crop."""
    left, top, right, bottom = crop
    in_sight = (1 - left - right, 1 - top - bottom)
    filled = (1 - stretched[0] - stretched[2], 1 - stretched[1] - stretched[3])
    if min(in_sight) <= 0 or min(filled) <= 0:
        return None
    return size[0] * filled[0] / in_sight[0], size[1] * filled[1] / in_sight[1]


def _shares(rectangle: Any) -> Crop:
    if rectangle is None:
        return 0.0, 0.0, 0.0, 0.0
    left, top, right, bottom = (_share(rectangle.get(side, "0")) for side in _SIDES)
    return left, top, right, bottom


def _share(text: str) -> float:
    try:
        return float(text[:-1]) / 100 if text.endswith("%") else float(text) / _SHARE
    except ValueError:
        return 0.0


def _drawn_size(fill: Any) -> tuple[float, float] | None:
    """Return the size of the frame around a fill, in points, through the scales of its groups."""
    if fill is None:
        return None
    size: tuple[float, float] | None = None
    for above in (fill, *fill.iterancestors()):
        name = local_name(above)
        if size is None:
            properties = above if name == "spPr" else above.find("{*}spPr")
            size = _extent(properties, "ext") if properties is not None else _cell_size(above)
        elif name in ("wgp", "grpSp"):
            size = _scaled(size, above.find("{*}grpSpPr"))
        if name in ("inline", "anchor"):
            extent = _sides(above.find("{*}extent"))
            return (
                extent
                if size is None
                else size
                if extent is None
                else _largest(size, extent, above)
            )
    return size


def _cell_size(cell: Any) -> tuple[float, float] | None:
    """Return the size of a table cell (21.1.3), in points; None for other elements."""
    if local_name(cell) != "tc":
        return None
    row = cell.getparent()
    columns = row.getparent().findall("{*}tblGrid/{*}gridCol")
    first = len(list(cell.itersiblings("{*}tc", preceding=True)))
    try:
        widths = [float(column.get("w", "0")) for column in columns]
        width = sum(widths[first : first + int(cell.get("gridSpan", "1"))])
        rows = (row, *row.itersiblings("{*}tr"))[: int(cell.get("rowSpan", "1"))]
        height = sum(float(one.get("h", "0")) for one in rows)
    except ValueError:
        return None
    return (width / _EMU_PER_POINT, height / _EMU_PER_POINT) if min(width, height) > 0 else None


def _largest(
    size: tuple[float, float], extent: tuple[float, float], anchor: Any
) -> tuple[float, float]:
    """Return the larger size: the text may reserve more for a picture that stands by itself."""
    is_alone = anchor.find("{*}graphic/{*}graphicData/{*}pic") is not None
    return (max(size[0], extent[0]), max(size[1], extent[1])) if is_alone else size


def _extent(properties: Any, name: str) -> tuple[float, float] | None:
    form = properties.find("{*}xfrm")
    return _sides(form.find(f"{{*}}{name}")) if form is not None else None


def _sides(element: Any) -> tuple[float, float] | None:
    """Return width and height in points; None where they are missing or zero."""
    if element is None:
        return None
    try:
        width, height = (float(element.get(side, "0")) / _EMU_PER_POINT for side in ("cx", "cy"))
    except ValueError:
        return None
    return (width, height) if width > 0 and height > 0 else None


def _scaled(size: tuple[float, float], properties: Any) -> tuple[float, float]:
    """Return a size inside a group in the units outside of it."""
    if properties is None:
        return size
    outer, inner = _extent(properties, "ext"), _extent(properties, "chExt")
    if outer is None or inner is None:
        return size
    return size[0] * outer[0] / inner[0], size[1] * outer[1] / inner[1]


def _read_vml(element: Any, place: str, relationship: str) -> Reference:
    name = local_name(element)
    crop = (0.0, 0.0, 0.0, 0.0)
    if name == "imagedata":
        left, top, right, bottom = (_vml_share(element.get(side, "0")) for side in _VML_SIDES)
        crop = (left, top, right, bottom)
    size = _vml_size(element.getparent())
    if size is not None:
        size = _whole(size, crop, (0.0, 0.0, 0.0, 0.0))
    is_whole = name == "imagedata" or element.get("type", "") == "frame"
    return Reference(
        place=place,
        id=relationship,
        width_pt=size[0] if size else None,
        height_pt=size[1] if size else None,
        crop=crop,
        is_tiled=not is_whole,
        has_other_forms=_has_other_forms(element),
        element=element,
    )


def _vml_share(text: str) -> float:
    try:
        if text.endswith("f"):
            return float(text[:-1]) / _FIXED
        return float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return 0.0


def _vml_size(shape: Any) -> tuple[float, float] | None:
    """Return the size of a shape, in points, through the coordinates of the groups around it."""
    if shape is None:
        return None
    size = _style_size(shape)
    for group in shape.iterancestors():
        if size is None or local_name(group) != "group":
            continue
        outer, inner = _style_size(group), _coordinates(group)
        if outer is not None and inner is not None:
            size = (size[0] * outer[0] / inner[0], size[1] * outer[1] / inner[1])
    return size


def _style_size(shape: Any) -> tuple[float, float] | None:
    """Return the width and height in a style; of a shape in a group, in the group's coordinates."""
    properties = dict(
        entry.strip().split(":", 1) for entry in shape.get("style", "").split(";") if ":" in entry
    )
    sides = []
    for side in ("width", "height"):
        length = _LENGTH.match(properties.get(side, ""))
        try:
            sides.append(float(length[1]) * _POINTS.get(length[2], 1.0) if length else 0.0)
        except ValueError:
            return None
    return (sides[0], sides[1]) if min(sides) > 0 else None


def _coordinates(group: Any) -> tuple[float, float] | None:
    try:
        width, height = (float(side) for side in group.get("coordsize", "1000,1000").split(","))
    except ValueError:
        return None
    return (width, height) if width > 0 and height > 0 else None
