"""Packages as ECMA-376 part 2 has them: members, what leads to them, and what they are."""

from lighten.containers.opc.drawings import Reference, picture_references
from lighten.containers.opc.package import OpcPackage, open_package
from lighten.containers.opc.relationships import Relationship, relation_of, rels_name

__all__ = [
    "OpcPackage",
    "Reference",
    "Relationship",
    "open_package",
    "picture_references",
    "relation_of",
    "rels_name",
]
