"""A package opened: its members by what they are, and what leads to them."""

import posixpath
import re
from collections.abc import Iterator, Mapping
from functools import cached_property

from lighten.containers.archive import read_archive
from lighten.containers.opc.relationships import (
    Relationship,
    read_relationships,
    rels_name,
    source_of,
)
from lighten.containers.package_document import Package
from lighten.containers.recognise import has_ole_mark
from lighten.containers.xml_parts import write_xml
from lighten.model.errors import PasswordNeededError, UnreadableFileError
from lighten.model.source import Source

__all__ = ["CONTENT_TYPES", "OpcPackage", "open_package"]

CONTENT_TYPES = "[Content_Types].xml"
_TYPES_NAMESPACE = "{http://schemas.openxmlformats.org/package/2006/content-types}"
_SIGNATURES = "digital-signature"


class OpcPackage(Package):
    """A package of that kind, opened."""

    @cached_property
    def defaults(self) -> Mapping[str, str]:
        """Return content types by file name extension."""
        return {
            element.get("Extension", "").lower(): element.get("ContentType", "")
            for element in self.root(CONTENT_TYPES).iter(f"{_TYPES_NAMESPACE}Default")
        }

    @cached_property
    def overrides(self) -> Mapping[str, str]:
        """Return content types by member name."""
        return {
            element.get("PartName", "").lstrip("/"): element.get("ContentType", "")
            for element in self.root(CONTENT_TYPES).iter(f"{_TYPES_NAMESPACE}Override")
        }

    def content_type(self, member: str) -> str:
        """Return the content type that the package declares for a member; "" for none."""
        ending = posixpath.splitext(member)[1].lstrip(".").lower()
        return self.overrides.get(member) or self.defaults.get(ending, "")

    def is_xml(self, member: str) -> bool:
        content_type = self.content_type(member)
        is_xml = content_type.endswith(("+xml", "/xml")) or member.endswith((".xml", ".rels"))
        return is_xml or self.is_vml(member)

    def is_vml(self, member: str) -> bool:
        """True for drawings in VML: XML by its standard, though programs write some with faults."""
        return self.content_type(member).endswith(".vmlDrawing") or member.endswith(".vml")

    @cached_property
    def relationships(self) -> Mapping[str, tuple[Relationship, ...]]:
        """Return the relationships of each member; those of "" belong to the package."""
        by_source = {}
        for name in self.archive.members:
            if name.endswith(".rels") and "_rels/" in name:
                source = source_of(name)
                by_source[source] = read_relationships(self.root(name), source)
        return by_source

    @cached_property
    def main(self) -> str:
        """The member that the document begins with. Raises: UnreadableFileError."""
        for relationship in self.relationships.get("", ()):
            if relationship.kind == "officeDocument":
                if relationship.target in self.archive.members:
                    return relationship.target
                break
        raise UnreadableFileError(
            f"{self.archive.shown_as}: its document is missing. Fetch or save it again, and try "
            "that file."
        )

    @property
    def is_signed(self) -> bool:
        return any(_SIGNATURES in content_type for content_type in self.overrides.values()) or any(
            relationship.kind == "origin" and "_xmlsignatures" in relationship.target
            for relationship in self.relationships.get("", ())
        )

    @property
    def has_macros(self) -> bool:
        """Return whether the package has macros, which may refer to anything by name."""
        return any(name.endswith("vbaProject.bin") for name in self.archive.members)

    def names_of(self, member: str) -> Mapping[str, Relationship]:
        """The relationships of a member by their ids."""
        return {link.id: link for link in self.relationships.get(member, ())}

    @cached_property
    def used(self) -> frozenset[str]:
        """Return the members that are reachable from members in use."""
        return self.reached(frozenset())

    def reached(self, without: frozenset[str]) -> frozenset[str]:
        """Return the members that are reachable from members in use without passing through those.

        A relationship of a kind that is used by its id leads nowhere where no attribute has it.
        """
        reached: set[str] = set(without)
        waiting = [""]
        while waiting:
            member = waiting.pop()
            ids: frozenset[str] | None = None
            for link in self.relationships.get(member, ()):
                if link.is_external or link.target in reached or link.target == member:
                    continue
                if link.kind in _USED_BY_ID and member and self.is_xml(member):
                    ids = self._attribute_values(member) if ids is None else ids
                    if link.id not in ids:
                        continue
                if link.target in self.archive.members:
                    reached.add(link.target)
                    waiting.append(link.target)
        return frozenset(reached - without)

    def used_relations(self, kind: str) -> Iterator[tuple[str, Relationship]]:
        """Yield each relationship of a kind that an attribute of a member in use has the id of."""
        for member in self.used & self.relationships.keys():
            links = [
                link
                for link in self.relationships[member]
                if link.kind == kind and not link.is_external
            ]
            ids = self._attribute_values(member) if links else frozenset()
            yield from ((member, link) for link in links if link.id in ids)

    @property
    def outside_pictures(self) -> frozenset[str]:
        outside: set[str] = set()
        for member in self.used & self.relationships.keys():
            links = [
                link
                for link in self.relationships[member]
                if link.kind == "image" and link.is_external
            ]
            try:
                ids = self._attribute_values(member) if links else frozenset()
            except UnreadableFileError:
                continue  # drawings in VML with faults stay as they are
            outside.update(link.target for link in links if link.id in ids)
        return frozenset(outside)

    def _attribute_values(self, member: str) -> frozenset[str]:
        if member not in self.archive.members:
            return frozenset()
        content = self.archive.content(member)
        if b"\0" in content[:100]:  # two bytes a letter
            content = write_xml(self.root(member))
        return frozenset(value.decode("utf-8", "replace") for value in _VALUE.findall(content))


# Short ones: ids are.
_VALUE = re.compile(rb"=\s*[\"']([^\"'<]{1,120})[\"']")
# Relationships of other kinds hold by themselves, such as those to styles and themes.
_USED_BY_ID = frozenset(
    {
        *("image", "hyperlink", "oleObject", "package", "chart", "header", "footer"),
        *("video", "audio", "media", "control", "diagramData", "diagramLayout"),
        *("diagramQuickStyle", "diagramColors"),
    }
)


def open_package(source: Source) -> OpcPackage:
    """Open an Office Open XML package. Raises: as `read_archive`; UnreadableFileError without
    content types; PasswordNeededError if it is encrypted.
    """
    if has_ole_mark(source):
        raise PasswordNeededError(
            f"{source.name}: is locked with a password, which only its own program can open. "
            "Save it there without one, and try that file."
        )
    package = OpcPackage(read_archive(source))
    if CONTENT_TYPES not in package.archive.members:
        raise UnreadableFileError(
            f"{source.name}: the list of what is in it is missing. Open it in the program it came "
            "from and save it again, and try that file."
        )
    for name in package.archive.members:
        if name.endswith(".rels") and rels_name(source_of(name)) != name:
            raise UnreadableFileError(f"{source.name}: {name} in it leads nowhere.")
    return package
