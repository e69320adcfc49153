"""Placements of pictures in the XML of a package: position, size and visible part.

Source: ISO/IEC 26300 part 1, clause 10.4 (frames) and 20.179 (fo:clip).
"""

import posixpath
import re
from collections.abc import Iterator
from copy import deepcopy
from dataclasses import dataclass, field
from typing import Any

from lighten.containers.xml_parts import attribute, local_name

__all__ = [
    "OBJECT_IMAGES",
    "Frame",
    "Lengths",
    "is_one_of_several",
    "length_pt",
    "picture_frames",
    "target_of",
    "write_clip",
]

_POINTS = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4, "pc": 12.0, "px": 0.75}
_LENGTH = re.compile(r"\s*(-?[\d.]+)\s*(pt|in|cm|mm|pc|px)\s*$")
_CLIP = re.compile(r"rect\(([^)]*)\)")
# Where readers keep how an object looked when it was saved (ISO/IEC 26300 part 3, by custom).
OBJECT_IMAGES = "ObjectReplacements/"
_SHOWING = ("image", "fill-image", "background-image", "list-level-style-image")
_HREF = "{http://www.w3.org/1999/xlink}href"
_PATTERNS = ("fill-image", "background-image")

# Top, right, bottom, left, in points of the picture's own size.
Lengths = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """One placement of a picture.

    place: the same in a copy: its number among the images of its member, or what names it.
    target: the member. width_pt, height_pt: of the frame; None if not known.
    clip: what is hidden of it, in lengths of the picture `clipped_by`: where a frame holds the
    same picture in several forms, readers measure by the first. style: of the frame, where its
    clip is declared. is_tiled: it is repeated, or it may be.
    """

    place: str
    target: str
    width_pt: float | None
    height_pt: float | None
    clip: Lengths | None
    clipped_by: str
    is_tiled: bool
    element: Any = field(compare=False, repr=False)
    style: Any = field(compare=False, repr=False)


def is_one_of_several(frame: Frame) -> bool:
    """The frame has the picture in other forms as well, as for readers that know fewer."""
    holder = frame.element.getparent()
    return len(list(holder.iterchildren("{*}image"))) > 1


def picture_frames(root: Any) -> Iterator[Frame]:
    """Every showing of a picture that the package holds, in the order of the member."""
    styles = _automatic_styles(root)
    number = 0
    for element in root.iter(*(f"{{*}}{name}" for name in _SHOWING)):
        name = local_name(element)
        is_image = name == "image" and local_name(element.getparent()) == "frame"
        target = target_of(element)
        # A copy may lack images of objects, and all others keep their numbers.
        number += is_image and not target.startswith(OBJECT_IMAGES)
        if not target:
            continue
        frame = element.getparent() if is_image else None
        style = styles.get(attribute(frame, "style-name")) if frame is not None else None
        yield Frame(
            place=str(number) if is_image else f"{name} {_owner(element)}",
            target=target,
            width_pt=length_pt(attribute(frame, "width"))
            if frame is not None
            else _list_size(element),
            height_pt=length_pt(attribute(frame, "height"))
            if frame is not None
            else _list_size(element, "height"),
            clip=_clip_of(style) if style is not None else None,
            clipped_by=next(filter(None, map(target_of, frame.iterchildren("{*}image"))), target)
            if frame is not None
            else target,
            is_tiled=name in _PATTERNS,
            element=element,
            style=style,
        )


def target_of(element: Any) -> str:
    """The member that an element leads to; "" for addresses outside and objects."""
    href = str(element.get(_HREF, ""))
    if not href or ":" in href.split("/", maxsplit=1)[0] or href.startswith(("..", "/", "#")):
        return ""
    return posixpath.normpath(href)


def length_pt(text: str) -> float | None:
    """Return a length in points; None if it is malformed or zero."""
    match = _LENGTH.match(text)
    if match is None:
        return None
    try:
        points = float(match[1]) * _POINTS[match[2]]
    except ValueError:
        return None
    return points if points > 0 else None


def write_clip(frame: Frame, clip: Lengths, name: str) -> None:
    """Give a frame its own style, of the given name, with the given crop."""
    own = deepcopy(frame.style)
    frame.style.addnext(own)
    for key in own.attrib:
        if key.endswith("}name"):
            own.set(key, name)
    properties = own.find("{*}graphic-properties")
    for key in properties.attrib:
        if key.endswith("}clip"):
            sides = ", ".join(f"{side / _POINTS['cm']:.4f}cm" for side in clip)
            properties.set(key, f"rect({sides})")
    holder = frame.element.getparent()
    for key in holder.attrib:
        if key.rpartition("}")[2] == "style-name":
            holder.set(key, name)


def _automatic_styles(root: Any) -> dict[str, Any]:
    automatic = root.find("{*}automatic-styles")
    if automatic is None:
        return {}
    return {attribute(style, "name"): style for style in automatic.iterchildren("{*}style")}


def _clip_of(style: Any) -> Lengths | None:
    properties = style.find("{*}graphic-properties")
    match = _CLIP.match(attribute(properties, "clip")) if properties is not None else None
    if match is None:
        return None
    sides = re.split(r"[,\s]+", match[1].strip())
    if len(sides) != 4:
        return None
    top, right, bottom, left = (length_pt(text) or 0.0 for text in sides)
    return (top, right, bottom, left) if any((top, right, bottom, left)) else None


def _list_size(element: Any, side: str = "width") -> float | None:
    """Return the size of a picture that stands before the lines of a list."""
    properties = element.find("{*}list-level-properties")
    return length_pt(attribute(properties, side)) if properties is not None else None


def _owner(element: Any) -> str:
    """The name of the style, page or list that shows it."""
    for above in (element, *element.iterancestors()):
        name = attribute(above, "name")
        if name:
            level = attribute(element, "level")
            return f"{name} {level}".strip()
    return ""
