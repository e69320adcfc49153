"""A package of ISO/IEC 26300 through eyes that had no part in writing it.

What leads where, and what a frame shows of a picture, is read here by rules of its own.
"""

import hashlib
import io
import re
import zipfile
from collections.abc import Iterator
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lighten.containers.pictures.pixels import read_pixels
from lighten.containers.zip_reading import Sight, ZipReading, crop_to

__all__ = ["OdfReading", "attribute_value", "digest_of_style"]

Pixels = NDArray[np.uint8]
_WHOLE = (0.0, 0.0, 1.0, 1.0)
_HREF = "{http://www.w3.org/1999/xlink}href"
_STORIES = ("content.xml", "styles.xml")
_TRACES = ("rsid", "paragraph-rsid")
_FOLDERS = (
    *("Pictures/", "Thumbnails/", "ObjectReplacements/", "Configurations2/", "META-INF/"),
    *("Fonts/", "Media/"),
)
_OWN = ("content.xml", "styles.xml", "settings.xml", "meta.xml", "mimetype", "layout-cache")
_CM = {"cm": 1.0, "mm": 0.1, "in": 2.54, "pt": 2.54 / 72, "pc": 2.54 / 6, "px": 2.54 / 96}
# What readers take a picture for that says nothing of its dots.
_SCREEN_DOTS = 96.0


class OdfReading(ZipReading):
    """Second reading of an OpenDocument; formats add their own features."""

    def __init__(self, file: zipfile.ZipFile, name: str) -> None:
        super().__init__(file, name)
        self._places_by_member: dict[str, dict[str, tuple[str, Any]]] = {}

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> Pixels:
        """Return a picture by any frame that shows it; see `PicturesReading`."""
        target = self._target(part_id)
        sight = self._sight.get(self.mark(target), _WHOLE)
        if least_px is not None:
            left, top, right, bottom = sight
            least_px = (round(least_px[0] / (right - left)), round(least_px[1] / (bottom - top)))
        pixels = read_pixels(self.content(target), f"{self._name}: {target}", least_px)
        return crop_to(pixels, sight)

    def fingerprint(self, part_id: str) -> str:
        """See `PicturesReading`."""
        target = self._target(part_id)
        sight = tuple(round(side, 3) for side in self._sight.get(self.mark(target), _WHOLE))
        return f"{hashlib.sha256(self.content(target)).hexdigest()} {sight}"

    def dangling(self) -> tuple[str, ...]:
        """Return references of the text or the manifest to members that do not exist."""
        missing = {
            target
            for member in _STORIES
            if member in self.members
            for target, _ in self._places(member).values()
            if target not in self.members
        }
        for entry in self.tree("META-INF/manifest.xml").iter("{*}file-entry"):
            path = next((text for key, text in entry.attrib.items() if key.endswith("path")), "")
            if path and not path.endswith("/") and path not in self.members:
                missing.add(path)
        return tuple(sorted(missing))

    def automatic(self, member: str) -> dict[str, str]:
        """Return the content of each automatic style of a member, by its name."""
        automatic = self.tree(member).find("{*}automatic-styles")
        styles = [] if automatic is None else list(automatic)
        return {attribute_value(style, "name"): digest_of_style(style) for style in styles}

    def embedded(self) -> Iterator[str]:
        """Return each embedded file outside the document's own members, with its hash."""
        for name in sorted(self.members):
            if not name.startswith(_FOLDERS) and name not in _OWN and not name.endswith("/"):
                yield f"{name} {hashlib.sha256(self.content(name)).hexdigest()}"

    def _target(self, part_id: str) -> str:
        """The member that is shown at a place. Raises: KeyError."""
        member, _, place = part_id.rpartition("#")
        if place == "unused":
            if member not in self.members:
                raise KeyError(part_id)
            return member
        return self._places(member)[place][0]

    def _places(self, member: str) -> dict[str, tuple[str, Any]]:
        """Return, by position, the member shown there and the element that shows it."""
        if member not in self._places_by_member:
            places: dict[str, tuple[str, Any]] = {}
            number = 0
            for element in self.tree(member).iter(
                "{*}image", "{*}fill-image", "{*}background-image", "{*}list-level-style-image"
            ):
                name = element.tag.split("}")[-1]
                is_framed = name == "image" and element.getparent().tag.endswith("}frame")
                href = element.get(_HREF, "").removeprefix("./")
                # Images of objects may go, and the others keep their numbers.
                number += is_framed and not href.startswith("ObjectReplacements/")
                if not href or ":" in href or href.startswith(("../", "/", "#")):
                    continue
                key = str(number) if is_framed else f"{name} {_owner(element)}"
                places[key] = (href, element)
            self._places_by_member[member] = places
        return self._places_by_member[member]

    @cached_property
    def _sight(self) -> dict[tuple[int, int], Sight]:
        """Return the part of each picture that any frame shows, as shares of its sides."""
        seen: dict[tuple[int, int], Sight] = {}
        for member in _STORIES:
            if member not in self.members:
                continue
            clips = self._clips(member)
            for target, element in self._places(member).values():
                if target not in self.members:
                    continue
                holder = element.getparent()
                style = next(
                    (text for key, text in holder.attrib.items() if key.endswith("}style-name")), ""
                )
                # Of several forms of one picture, readers choose; none of them is cut.
                is_alone = len(holder.findall("{*}image")) < 2
                sight = self._seen_through(target, clips.get(style)) if is_alone else _WHOLE
                known = seen.get(self.mark(target), sight)
                seen[self.mark(target)] = (
                    min(known[0], sight[0]),
                    min(known[1], sight[1]),
                    max(known[2], sight[2]),
                    max(known[3], sight[3]),
                )
        return seen

    def _clips(self, member: str) -> dict[str, list[float]]:
        """Return, by style, the hidden lengths at top, right, bottom and left, in centimetres."""
        clips = {}
        for properties in self.tree(member).iterfind("{*}automatic-styles/*/{*}graphic-properties"):
            clip = next(
                (text for key, text in properties.attrib.items() if key.endswith("}clip")), ""
            )
            sides = re.findall(r"(-?[\d.]+)([a-z]{2})", clip)
            if len(sides) == 4:
                style = properties.getparent()
                name = next(text for key, text in style.attrib.items() if key.endswith("}name"))
                clips[name] = [float(number) * _CM.get(unit, 0) for number, unit in sides]
        return clips

    def _seen_through(self, target: str, clip: list[float] | None) -> Sight:
        size = self._size_cm(target) if clip and any(clip) else None
        if size is None or clip is None:
            return _WHOLE
        top, right, bottom, left = clip
        sight = (left / size[0], top / size[1], 1 - right / size[0], 1 - bottom / size[1])
        return sight if sight[0] < sight[2] and sight[1] < sight[3] else _WHOLE

    def _size_cm(self, target: str) -> tuple[float, float] | None:
        """Return the size of a picture by its own resolution."""
        from PIL import Image, UnidentifiedImageError

        try:
            with Image.open(io.BytesIO(self.content(target))) as image:
                across, down = _dots(image.info)
                width, height = image.size
        except (OSError, UnidentifiedImageError, ValueError, SyntaxError):
            return None
        return width / across * 2.54, height / down * 2.54


def digest_of_style(style: Any) -> str:
    """Return a digest that is equal for styles with equal content, whatever their names."""
    parts = []
    for inner in style.iter():
        if not isinstance(inner.tag, str):
            continue
        attributes = sorted(
            (key.split("}")[-1], value)
            for key, value in inner.attrib.items()
            if key.split("}")[-1] not in _TRACES
            and not (inner is style and key.endswith("}name"))
            and not key.endswith("}clip")
        )
        if attributes or inner is style:
            parts.append(f"{inner.tag.split('}')[-1]}{attributes}")
    return hashlib.md5("".join(parts).encode(), usedforsecurity=False).hexdigest()[:12]


def attribute_value(element: Any, name: str) -> str:
    """Return an attribute in any namespace; "" if absent."""
    if not isinstance(element.tag, str):
        return ""
    for key, value in element.attrib.items():
        if key.split("}")[-1] == name:
            return str(value)
    return ""


def _dots(info: dict[Any, Any]) -> tuple[float, float]:
    """Return dots per inch as office suites read them: from JFIF, not from Exif."""
    if "jfif_unit" in info:
        inches = {1: 1.0, 2: 2.54}.get(info["jfif_unit"], 0.0)
        dots = info.get("jfif_density", (0, 0))
        across, down = dots[0] * inches, dots[1] * inches
    elif "exif" in info and "jfif" not in info:
        across, down = 0.0, 0.0
    else:
        across, down = (float(side) for side in info.get("dpi") or (0.0, 0.0))
    return across or _SCREEN_DOTS, down or _SCREEN_DOTS


def _owner(element: Any) -> str:
    """The name of the style, page or list that shows it."""
    for above in (element, *element.iterancestors()):
        name = next((text for key, text in above.attrib.items() if key.endswith("}name")), "")
        if name:
            level = next(
                (text for key, text in element.attrib.items() if key.endswith("}level")), ""
            )
            return f"{name} {level}".strip()
    return ""
