"""A package whose XML members are parsed once, when somebody asks for them."""

from dataclasses import dataclass, field
from typing import Any

from lighten.containers.archive import Archive
from lighten.containers.xml_parts import parse_xml

__all__ = ["XmlMembers"]


@dataclass
class XmlMembers:
    """XML members of a package; kinds of packages add their own knowledge."""

    archive: Archive
    _roots: dict[str, Any] = field(default_factory=dict)

    def root(self, member: str) -> Any:
        """The root of an XML member. Raises: KeyError; as `parse_xml`."""
        if member not in self._roots:
            content = self.archive.content(member)
            self._roots[member] = parse_xml(content, member, self.archive.shown_as)
        return self._roots[member]
