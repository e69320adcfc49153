"""Kinds of the members of a presentation that are not pictures."""

from lighten.containers.opc.document import kind_of_member
from lighten.formats.pptx.open_file import Presentation
from lighten.model.kinds import PartKind

__all__ = ["kind_of_slide_member"]

_TITLES = (
    ("main+xml", PartKind.STYLES, "List of slides"),
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


def kind_of_slide_member(document: Presentation, name: str) -> tuple[PartKind, str]:
    """Return the kind of part that a member is, and its name for people."""
    content_type, where = document.package.content_type(name), document.deck.where(name)
    if content_type.endswith(("slide+xml", "slideLayout+xml")) and where:
        is_slide = content_type.endswith("slide+xml")
        return PartKind.TEXT if is_slide else PartKind.STYLES, where[0].upper() + where[1:]
    return kind_of_member(document.package, name, _TITLES)
