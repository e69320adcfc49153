"""What members of a presentation are, that are no pictures."""

import posixpath

from lighten.formats.pptx.open_file import Presentation, is_film_or_sound
from lighten.weights import PartKind

__all__ = ["kind_of_member"]

_TITLES = (
    ("presentation.main+xml", PartKind.STYLES, "List of slides"),
    ("slideshow.main+xml", PartKind.STYLES, "List of slides"),
    ("template.main+xml", PartKind.STYLES, "List of slides"),
    ("slideMaster+xml", PartKind.STYLES, "Slide master"),
    ("notesMaster+xml", PartKind.STYLES, "Master of notes"),
    ("handoutMaster+xml", PartKind.STYLES, "Master of handouts"),
    ("tableStyles+xml", PartKind.STYLES, "Styles of tables"),
    ("presProps+xml", PartKind.STYLES, "Settings"),
    ("theme", PartKind.STYLES, "Theme"),
    ("tags+xml", PartKind.STYLES, "Data of a program"),
    ("chart", PartKind.TEXT, "Chart"),
    ("diagram", PartKind.TEXT, "Diagram"),
    ("vbaProject", PartKind.EMBEDDED, "Macros"),
)


def kind_of_member(document: Presentation, name: str) -> tuple[PartKind, str]:
    """What sort of weight a member is, and what a person calls it."""
    package = document.package
    told, base = package.content_type(name), posixpath.basename(name)
    where = document.deck.where(name)
    if told.endswith(("slide+xml", "slideLayout+xml")) and where:
        is_slide = told.endswith("slide+xml")
        return PartKind.TEXT if is_slide else PartKind.STYLES, where[0].upper() + where[1:]
    for ending, kind, title in _TITLES:
        if ending in told:
            return kind, f"{title} ({base})"
    if "/embeddings/" in name or told.endswith("oleObject"):
        return PartKind.EMBEDDED, base
    if is_film_or_sound(package, name):
        return PartKind.MEDIA, base
    if name == "[Content_Types].xml":
        return PartKind.STRUCTURE, ""
    return (PartKind.TEXT if package.is_xml(name) else PartKind.EMBEDDED), base
