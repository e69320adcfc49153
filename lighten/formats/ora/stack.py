"""The stack of layers of a drawing, read from its `stack.xml`.

Source: OpenRaster baseline 0.0.5 (freedesktop.org), "Layer stack".
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from lighten.containers.archive import Archive, read_archive
from lighten.containers.xml_parts import local_name, parse_xml
from lighten.model.errors import LimitExceededError, UnreadableFileError
from lighten.model.source import Source

__all__ = ["MERGED", "STACK", "THUMBNAIL", "Drawing", "Group", "Layer", "open_drawing"]

STACK, MERGED, THUMBNAIL = "stack.xml", "mergedimage.png", "Thumbnails/thumbnail.png"
_MOST_PIXELS = 60_000_000
_MOST_DEPTH = 100
_USUAL_OPERATION = "svg:src-over"


@dataclass(frozen=True, slots=True, kw_only=True)
class Layer:
    """x, y: of its upper left corner, in pixels of the drawing. opacity: 0 to 1."""

    name: str
    member: str
    x: int
    y: int
    opacity: float
    is_visible: bool
    operation: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """children: the uppermost first. is_isolated: they are put together by themselves first."""

    name: str
    children: "tuple[Group | Layer, ...]"
    opacity: float
    is_visible: bool
    operation: str
    is_isolated: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """dots: an inch across and down, or None where it does not say."""

    archive: Archive
    width_px: int
    height_px: int
    dots: tuple[int, int] | None
    root: Group

    def layers(self) -> Iterator[tuple[Layer, bool]]:
        """Every layer, the uppermost first, and whether it is seen."""
        yield from _within(self.root, is_seen=True)


def _within(group: Group, *, is_seen: bool) -> Iterator[tuple[Layer, bool]]:
    for child in group.children:
        seen = is_seen and child.is_visible
        if isinstance(child, Group):
            yield from _within(child, is_seen=seen)
        else:
            yield child, seen


def open_drawing(source: Source) -> Drawing:
    """Open a layered drawing. Raises: UnreadableFileError, LimitExceededError,
    UnsupportedFileError.
    """
    archive = read_archive(source)
    if STACK not in archive.members:
        raise UnreadableFileError(
            f"{source.name}: its list of layers is missing. Save it again in the program it came "
            "from, and try that file."
        )
    image = parse_xml(archive.content(STACK), STACK, source.name)
    width, height = _whole(image, "w"), _whole(image, "h")
    if width < 1 or height < 1:
        raise UnreadableFileError(f"{source.name}: does not say how large it is.")
    if width * height > _MOST_PIXELS:
        raise LimitExceededError(
            f"{source.name}: {width:,} x {height:,} pixels, more than can be flattened safely "
            f"({_MOST_PIXELS // 1_000_000} million). Make it smaller where it came from."
        )
    dots = _whole(image, "xres"), _whole(image, "yres")
    stacks = [child for child in image if local_name(child) == "stack"]
    if not stacks:
        raise UnreadableFileError(f"{source.name}: has no layers.")
    return Drawing(
        archive=archive,
        width_px=width,
        height_px=height,
        dots=dots if min(dots) > 0 else None,
        root=_group(stacks[0], source.name, 0),
    )


def _group(element: Any, shown_as: str, depth: int) -> Group:
    if depth > _MOST_DEPTH:
        raise UnreadableFileError(f"{shown_as}: its layers lie too deep in one another.")
    opacity, operation = _share(element, "opacity"), element.get("composite-op", _USUAL_OPERATION)
    children = tuple(
        _group(child, shown_as, depth + 1) if local_name(child) == "stack" else _layer(child)
        for child in element
        if local_name(child) in ("stack", "layer")
    )
    return Group(
        name=element.get("name", ""),
        children=children,
        opacity=opacity,
        is_visible=element.get("visibility", "visible") != "hidden",
        operation=operation,
        is_isolated=element.get("isolation") == "isolate"
        or opacity < 1
        or operation != _USUAL_OPERATION,
    )


def _layer(element: Any) -> Layer:
    return Layer(
        name=element.get("name", ""),
        member=element.get("src", ""),
        x=_whole(element, "x"),
        y=_whole(element, "y"),
        opacity=_share(element, "opacity"),
        is_visible=element.get("visibility", "visible") != "hidden",
        operation=element.get("composite-op", _USUAL_OPERATION),
    )


def _whole(element: Any, key: str) -> int:
    """Return a whole number; 0 if absent or malformed."""
    try:
        return max(-(2**31), min(2**31, round(float(element.get(key, "0")))))
    except (ValueError, OverflowError):
        return 0


def _share(element: Any, key: str) -> float:
    try:
        share = float(element.get(key, "1"))
    except ValueError:
        return 1.0
    return max(0.0, min(1.0, share)) if share == share else 1.0  # noqa: PLR0124 # not a number
