"""What members of a text document are, that are no pictures."""

import posixpath

from lighten.containers.opc import OpcPackage
from lighten.weights import PartKind

__all__ = ["kind_of_member"]

_FILM_ENDINGS = (".mp4", ".m4v", ".mov", ".avi", ".wmv", ".mp3", ".m4a", ".wav", ".wma")
_TITLES = (
    ("document.main+xml", PartKind.TEXT, "The text"),
    ("template.main+xml", PartKind.TEXT, "The text"),
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


def kind_of_member(package: OpcPackage, name: str) -> tuple[PartKind, str]:
    """What sort of weight a member is, and what a person calls it."""
    told = package.content_type(name)
    base = posixpath.basename(name)
    for ending, kind, title in _TITLES:
        if ending in told:
            return kind, f"{title} ({base})"
    if "/embeddings/" in name or told.endswith("oleObject"):
        return PartKind.EMBEDDED, base
    if told.startswith(("video/", "audio/")) or name.lower().endswith(_FILM_ENDINGS):
        return PartKind.MEDIA, base
    if package.is_xml(name) and name.startswith("customXml/"):
        return PartKind.TEXT, f"Data of a program ({base})"
    if name == "[Content_Types].xml":
        return PartKind.STRUCTURE, ""
    return (PartKind.TEXT if package.is_xml(name) else PartKind.EMBEDDED), base
