"""Parts of a presentation: slides, their layouts and masters, and their words.

Source: ECMA-376 part 1, clause 19.3. Names are compared without their namespaces, which differ
between the editions.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from lighten.containers.opc import OpcPackage, relation_of
from lighten.containers.xml_parts import local_name

__all__ = ["Deck", "name_of_slide"]

_EMU_PER_POINT = 12_700
_USUAL_SIZE_PT = (720.0, 540.0)  # 4 to 3 (19.2.1.36: 9,144,000 x 6,858,000 EMU)
_TITLES = ("title", "ctrTitle")


@dataclass
class Deck:
    """A package read as slides."""

    package: OpcPackage

    @cached_property
    def slides(self) -> tuple[str, ...]:
        """Return the members of slides in the order in which they are shown."""
        links = self.package.names_of(self.package.main)
        listed = self.package.root(self.package.main).find("{*}sldIdLst")
        targets = [
            links[relation_of(entry)].target
            for entry in (listed if listed is not None else ())
            if relation_of(entry) in links
        ]
        return tuple(name for name in targets if name in self.package.archive.members)

    @cached_property
    def size_pt(self) -> tuple[float, float]:
        """Return width and height of a slide, in points."""
        size = self.package.root(self.package.main).find("{*}sldSz")
        try:
            width, height = (float(size.get(side)) / _EMU_PER_POINT for side in ("cx", "cy"))
        except (AttributeError, TypeError, ValueError):
            return _USUAL_SIZE_PT
        return (width, height) if width > 0 and height > 0 else _USUAL_SIZE_PT

    @cached_property
    def unused_layouts(self) -> frozenset[str]:
        """Return layouts that no slide uses, and masters without a used layout.

        A master keeps one layout, and the presentation one master: readers cannot do without.
        """
        used = {target for slide in self.slides for target in self._led_to(slide, "slideLayout")}
        masters = list(self._led_to(self.package.main, "slideMaster"))
        gone: set[str] = set()
        by_master = {master: self._led_to(master, "slideLayout") for master in masters}
        kept = [master for master in masters if used.intersection(by_master[master])] or masters[:1]
        for master, layouts in by_master.items():
            spared = [layout for layout in layouts if layout in used] or layouts[:1]
            if master in kept:
                gone |= set(layouts).difference(spared)
            else:
                gone |= {master, *layouts}
        return frozenset(gone)

    def only_by_way_of(self, gone: frozenset[str]) -> frozenset[str]:
        """Return those members, and all that is reachable only through them."""
        if not gone:
            return gone
        return (self.package.used - self.package.reached(gone)) | gone

    def where(self, member: str) -> str:
        """A member as a person calls it: a slide by its number and title."""
        if member in self.slides:
            title = self.title_of(member)
            return f"slide {self.slides.index(member) + 1}" + (f": {title}" if title else "")
        content_type = self.package.content_type(member)
        if content_type.endswith("slideLayout+xml"):
            name = name_of_slide(self.package.root(member))
            return f"layout {name}".strip()
        if content_type.endswith("slideMaster+xml"):
            return "slide master"
        return "notes" if "notes" in content_type else ""

    def title_of(self, slide: str) -> str:
        """Return the title of a slide, or else its first words."""
        first = ""
        for shape in self.package.root(slide).iter("{*}sp"):
            words = _words_of(shape)
            place = _placeholder(shape)
            if words and place is not None and place.get("type") in _TITLES:
                return words
            first = first or words
        return first

    def inherited_size(self, member: str, element: Any) -> tuple[float, float] | None:
        """Return the size of a picture in a placeholder of its layout or master, in points.

        element: inside the picture. None where it has a size of its own, or none anywhere.
        """
        holder = next((above for above in element.iterancestors("{*}pic", "{*}sp")), None)
        place = _placeholder(holder) if holder is not None else None
        if place is None:
            return None
        for kind in ("slideLayout", "slideMaster"):
            member = next(iter(self._led_to(member, kind)), "")
            if not member:
                return None
            for shape in self.package.root(member).iter("{*}sp", "{*}pic"):
                size = _extent(shape)
                if size is not None and _is_same_place(place, _placeholder(shape)):
                    return size
        return None

    def _led_to(self, member: str, kind: str) -> tuple[str, ...]:
        return tuple(
            link.target
            for link in self.package.relationships.get(member, ())
            if link.kind == kind and link.target in self.package.archive.members
        )


def _placeholder(shape: Any) -> Any:
    return next((element for element in shape.iter("{*}ph")), None) if shape is not None else None


def _is_same_place(own: Any, other: Any) -> bool:
    """Compare placeholders by number, or else by type (19.3.1.36)."""
    if other is None:
        return False
    if own.get("idx") is not None and own.get("idx") == other.get("idx"):
        return True
    return own.get("type") is not None and own.get("type") == other.get("type")


def _extent(shape: Any) -> tuple[float, float] | None:
    extent = shape.find("{*}spPr/{*}xfrm/{*}ext")
    if extent is None:
        return None
    try:
        width, height = (float(extent.get(side, "0")) / _EMU_PER_POINT for side in ("cx", "cy"))
    except ValueError:
        return None
    return (width, height) if width > 0 and height > 0 else None


def _words_of(shape: Any) -> str:
    texts = (text.text or "" for text in shape.iter("{*}t") if local_name(text) == "t")
    return " ".join(" ".join(texts).split())


def name_of_slide(root: Any) -> str:
    """Return the name of a slide, layout or master; "" for none."""
    common = root.find("{*}cSld")
    return common.get("name", "") if common is not None else ""
