"""Relationships: what leads from a member of a package to another.

Source: ECMA-376 part 2, clause 9.3. Both namespaces are read: that of the first edition, which is
in use, and that of the strict form (ECMA-376 part 1).
"""

import posixpath
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

__all__ = [
    "Relationship",
    "read_relationships",
    "relation_of",
    "relations_of",
    "rels_name",
    "source_of",
]

_RELATIONSHIP = "{http://schemas.openxmlformats.org/package/2006/relationships}Relationship"


@dataclass(frozen=True, slots=True, kw_only=True)
class Relationship:
    """kind: the last word of its type, as "image". target: a member's name, or an address."""

    id: str
    kind: str
    target: str
    is_external: bool


def rels_name(member: str) -> str:
    """Return the name of the member with the relationships of a member; "": the package."""
    folder, _, name = member.rpartition("/")
    return f"{folder}/_rels/{name}.rels" if folder else f"_rels/{name}.rels"


def source_of(rels: str) -> str:
    """The member whose relationships those are: the reverse of `rels_name`."""
    folder, _, name = rels.rpartition("/")
    return posixpath.join(folder.removesuffix("_rels").rstrip("/"), name.removesuffix(".rels"))


def read_relationships(root: Any, member: str) -> tuple[Relationship, ...]:
    """Read the relationships of a member from the root of their XML."""
    return tuple(
        Relationship(
            id=element.get("Id", ""),
            kind=element.get("Type", "").rpartition("/")[2],
            target=element.get("Target", "")
            if (is_external := element.get("TargetMode") == "External")
            else _member_at(element.get("Target", ""), member),
            is_external=is_external,
        )
        for element in root.iter(_RELATIONSHIP)
    )


def relations_of(element: Any) -> Iterator[tuple[str, str]]:
    """Yield name and value of each attribute that holds the id of a relationship.

    In the namespace of either edition, and `o:relid` of VML (ECMA-376 part 4, 19.1.2.11).
    """
    for key, value in element.attrib.items():
        namespace, _, name = key.rpartition("}")
        is_of_vml = name == "relid" and namespace.endswith(":office:office")
        if value and (namespace.endswith("/relationships") or is_of_vml):
            yield name, str(value)


def relation_of(element: Any) -> str:
    """Return the relationship id of an element; "" if it has none."""
    return next((value for _, value in relations_of(element)), "")


def _member_at(target: str, member: str) -> str:
    """A target as the name of a member: absolute, or beside `member`."""
    path = unquote(target.partition("#")[0])
    joined = path if path.startswith("/") else posixpath.join("/", posixpath.dirname(member), path)
    return posixpath.normpath(joined).lstrip("/")
