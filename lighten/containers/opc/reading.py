"""A package of ECMA-376 through eyes that had no part in writing it.

Members come through Python's zipfile, pixels through Pillow; what leads where, and what a frame
shows of a picture, is read here by rules of its own.
"""

import hashlib
import posixpath
import zipfile
import zlib
from collections.abc import Iterator
from functools import cached_property
from typing import Any
from xml.parsers import expat

import numpy as np
from numpy.typing import NDArray

from lighten.containers.pictures.pixels import read_pixels
from lighten.containers.zip_reading import Sight, ZipReading, crop_to
from lighten.model.errors import UnreadableFileError

__all__ = ["OpcReading", "link_of"]

Pixels = NDArray[np.uint8]
_RELATIONS = "http://schemas.openxmlformats.org/package/2006/relationships"
# Longer members without relations, as rows of cells and lists of strings are, are not searched.
_SHORT = 20_000_000
_XML_STARTS = (b"<", b"\xef", b"\xfe", b"\xff")
_WHOLE = (0.0, 0.0, 1.0, 1.0)


class OpcReading(ZipReading):
    """Second reading of a package of ECMA-376; formats add their own features."""

    def __init__(self, file: zipfile.ZipFile, name: str) -> None:
        super().__init__(file, name)
        self._frames_by_member: dict[str, list[tuple[str, str, Sight]]] = {}

    def relations(self, member: str) -> dict[str, tuple[str, str]]:
        """Return, by id, the last word of the type, and the member or address of the target."""
        folder, name = posixpath.split(member)
        rels = posixpath.join(folder, "_rels", f"{name}.rels")
        if rels not in self.members:
            return {}
        found = {}
        for link in self.tree(rels).iter(f"{{{_RELATIONS}}}Relationship"):
            target = link.get("Target", "")
            if link.get("TargetMode") != "External":
                base = "/" if target.startswith("/") else posixpath.join("/", folder)
                target = posixpath.normpath(posixpath.join(base, target.split("#")[0]))[1:]
            found[link.get("Id", "")] = (link.get("Type", "").split("/")[-1], target)
        return found

    @cached_property
    def main(self) -> str:
        """The member that the document begins with."""
        return next(target for kind, target in self.relations("").values() if "office" in kind)

    def embedded_files(self) -> Iterator[str]:
        """Return embedded documents and macros, each by its hash."""
        for name in sorted(self.members):
            if "/embeddings/" in name or name.endswith("vbaProject.bin"):
                yield f"{name} {hashlib.sha256(self.content(name)).hexdigest()}"

    def dangling(self) -> tuple[str, ...]:
        """Name what relations lead to and is not there, and ids in use that are no relation's."""
        missing = [
            f"{member}: {relation}"
            for member, used in self._used_ids.items()
            for relation in sorted(used - self.relations(member).keys())
        ]
        for rels in sorted(name for name in self.members if name.endswith(".rels")):
            folder, name = posixpath.split(rels)
            member = posixpath.join(posixpath.dirname(folder), name.removesuffix(".rels"))
            outside = {
                link.get("Id")
                for link in self.tree(rels).iter(f"{{{_RELATIONS}}}Relationship")
                if link.get("TargetMode") == "External"
            }
            missing += [
                f"{member}: {target}"
                for key, (_, target) in self.relations(member).items()
                if key not in outside and target and target not in self.members
            ]
        return tuple(missing)

    @cached_property
    def _used_ids(self) -> dict[str, frozenset[str]]:
        """Return the relationship ids in the attributes of each XML member.

        Members that other readers would not parse either have the ids that stand in their text.
        """
        return {
            name: self._ids_in(name)
            for name in sorted(self.members)
            if not name.endswith("/") and not name.endswith(".rels") and self._may_hold_ids(name)
        }

    def _may_hold_ids(self, member: str) -> bool:
        folder, name = posixpath.split(member)
        if posixpath.join(folder, "_rels", f"{name}.rels") in self.members:
            return True
        return member.endswith((".xml", ".vml")) and self._file.getinfo(member).file_size < _SHORT

    def _ids_in(self, member: str) -> frozenset[str]:
        found: set[str] = set()
        with self._file.open(member) as file:
            if file.read(1) not in _XML_STARTS:
                return frozenset()
            file.seek(0)
            parser = expat.ParserCreate(namespace_separator="}")
            parser.StartElementHandler = lambda _, attributes: found.update(
                value
                for key, value in attributes.items()
                if value and _is_id(*key.rpartition("}")[::2])
            )
            try:
                parser.ParseFile(file)
            except (expat.ExpatError, zipfile.BadZipFile, ValueError, OSError, zlib.error):
                return frozenset()
        return frozenset(found)

    def pictures_in_use(self) -> Iterator[str]:
        """Name each use of a picture by a relation, by the member that uses it and the id."""
        for member, used in self._used_ids.items():
            for key, (kind, target) in self.relations(member).items():
                if kind == "image" and key in used and target in self.members:
                    yield f"{member} {key}"

    # Pictures.

    def picture(self, part_id: str, least_px: tuple[int, int] | None = None) -> Pixels:
        """Return a picture by any frame that shows it; see `PicturesReading`."""
        target = self._target(part_id)
        left, top, right, bottom = self._sight.get(self.mark(target), _WHOLE)
        if least_px is not None:
            least_px = (round(least_px[0] / (right - left)), round(least_px[1] / (bottom - top)))
        pixels = read_pixels(self.content(target), f"{self._name}: {target}", least_px)
        return crop_to(pixels, (left, top, right, bottom))

    def fingerprint(self, part_id: str) -> str:
        """See `PicturesReading`."""
        target = self._target(part_id)
        sight = self._sight.get(self.mark(target), _WHOLE)
        return f"{hashlib.sha256(self.content(target)).hexdigest()} {sight}"

    def _target(self, part_id: str) -> str:
        """The member that the frame at a place shows. Raises: KeyError."""
        member, _, place = part_id.rpartition("#")
        if place == "unused":
            if member not in self.members:
                raise KeyError(part_id)
            return member
        kind, number = ("f", place[1:]) if place.startswith("f") else ("", place)
        shown = [frame for frame in self._frames(member) if frame[0] == kind]
        return shown[int(number) - 1][1]

    def _frames(self, member: str) -> list[tuple[str, str, Sight]]:
        """Return, for each frame of a member, whether it is a fallback, its picture and the visible
        part.
        """
        if member not in self._frames_by_member:
            self._frames_by_member[member] = self._read_frames(member)
        return self._frames_by_member[member]

    def _read_frames(self, member: str) -> list[tuple[str, str, Sight]]:
        links = self.relations(member)
        frames: list[tuple[str, str, Sight]] = []
        try:
            root = self.tree(member)
        except UnreadableFileError:
            if member.endswith(".vml"):
                # Its pictures stay as they are, and are compared whole.
                return frames
            raise
        for element in root.iter("{*}blip", "{*}svgBlip", "{*}imagedata", "{*}fill", "{*}stroke"):
            keys = [
                value for name, value in _ids(element) if name in ("embed", "id", "pict", "relid")
            ]
            if not keys or not keys[0]:
                continue
            is_old = next(element.iterancestors("{*}Fallback"), None) is not None
            _, target = links.get(keys[0], ("", ""))
            frames.append(("f" if is_old else "", target, _sight_of(element)))
        return frames

    @cached_property
    def _sight(self) -> dict[tuple[int, int], Sight]:
        """Return the part of each picture that any frame shows, as shares of its sides."""
        seen: dict[tuple[int, int], Sight] = {}
        for member in self._showing_members():
            for _, target, sight in self._frames(member):
                if target in self.members:
                    mark = self.mark(target)
                    known = seen.get(mark, sight)
                    seen[mark] = (
                        min(known[0], sight[0]),
                        min(known[1], sight[1]),
                        max(known[2], sight[2]),
                        max(known[3], sight[3]),
                    )
        return seen

    def _showing_members(self) -> Iterator[str]:
        for rels in self.members:
            if rels.endswith(".rels"):
                folder, name = posixpath.split(rels)
                member = posixpath.join(posixpath.dirname(folder), name.removesuffix(".rels"))
                kinds = {kind for kind, _ in self.relations(member).values()}
                if "image" in kinds and member in self.members:
                    yield member


def link_of(element: Any) -> str:
    """Return the relationship id of an element; "" for none."""
    return next((value for _, value in _ids(element)), "")


def _ids(element: Any) -> Iterator[tuple[str, str]]:
    """Yield names and values of attributes that hold the id of a relation, those of VML too."""
    for key, value in element.attrib.items():
        namespace, _, name = key.removeprefix("{").rpartition("}")
        if value and _is_id(namespace, name):
            yield name, str(value)


def _is_id(namespace: str, name: str) -> bool:
    is_of_vml = name == "relid" and namespace == "urn:schemas-microsoft-com:office:office"
    return is_of_vml or namespace.endswith("/relationships")


def _sight_of(element: Any) -> Sight:
    """Return the visible part by a DrawingML crop in thousandths of a percent, or a VML one in
    65,536ths.

    Where a picture has several forms, one crop serves them all, and none is cut.
    """
    if element.tag.endswith("}svgBlip"):
        element = next(element.iterancestors("{*}blip"))
    name = element.tag.split("}")[-1]
    if sum(len({sides for _, sides in _ids(inner)}) for inner in element.iter("*")) > 1:
        return _WHOLE
    if name == "imagedata":
        sides = [element.get(f"crop{side}", "0") for side in ("left", "top", "right", "bottom")]
        hidden = [
            float(text[:-1]) / 65536 if text.endswith("f") else float(text.rstrip("%") or 0)
            for text in sides
        ]
    elif name == "blip":
        crop = next((one for one in element.itersiblings("{*}srcRect")), None)
        if crop is None:
            return _WHOLE
        texts = [crop.get(side, "0") for side in ("l", "t", "r", "b")]
        hidden = [
            float(text[:-1]) / 100 if text.endswith("%") else float(text) / 100_000
            for text in texts
        ]
    else:
        return _WHOLE
    left, top, right, bottom = (min(1.0, max(0.0, side)) for side in hidden)
    return left, top, max(left, 1 - right), max(top, 1 - bottom)
