"""Kinds of the members of a text document that are not pictures."""

import posixpath

from lighten.containers.opc import OpcPackage
from lighten.containers.opc.document import kind_of_member
from lighten.model.kinds import PartKind

__all__ = ["kind_of_text_member"]

_TITLES = (
    ("main+xml", PartKind.TEXT, "The text"),
    ("header+xml", PartKind.TEXT, "Header"),
    ("footer+xml", PartKind.TEXT, "Footer"),
    ("footnotes+xml", PartKind.TEXT, "Footnotes"),
    ("endnotes+xml", PartKind.TEXT, "Endnotes"),
    ("comments+xml", PartKind.TEXT, "Comments"),
    ("document.glossary+xml", PartKind.TEXT, "Building blocks"),
    ("chart+xml", PartKind.TEXT, "Chart"),
    ("diagram", PartKind.TEXT, "Diagram"),
    ("numbering+xml", PartKind.STYLES, "Lists"),
    ("styles", PartKind.STYLES, "Styles"),
    ("settings+xml", PartKind.STYLES, "Settings"),
    ("webSettings+xml", PartKind.STYLES, "Settings for the web"),
    ("fontTable+xml", PartKind.STYLES, "List of fonts"),
    ("theme", PartKind.STYLES, "Theme"),
    ("vbaProject", PartKind.EMBEDDED, "Macros"),
)


def kind_of_text_member(package: OpcPackage, name: str) -> tuple[PartKind, str]:
    """Return the kind of part that a member is, and its name for people."""
    if package.is_xml(name) and name.startswith("customXml/"):
        return PartKind.TEXT, f"Data of a program ({posixpath.basename(name)})"
    return kind_of_member(package, name, _TITLES)
