"""Features of OpenDocument texts beyond those of every OpenDocument."""

from typing import Any

from lighten.containers.odf.family import OdfFamily
from lighten.containers.xml_parts import local_name
from lighten.formats.odt.kinds import KINDS, ODT_EXTRAS
from lighten.model.kinds import PartKind

__all__ = ["TEXTS"]

_LOOKED_BACK = 400  # paragraphs and tables


def _words_near(element: Any) -> str:
    """Return the nearest heading before an element of the text, else nearby words."""
    outermost = None
    for above in (element, *element.iterancestors()):
        if local_name(above) == "text" and local_name(above.getparent()) == "body":
            break
        outermost = above
    if outermost is None or outermost.getparent() is None:
        return ""
    before = ""
    for number, sibling in enumerate((outermost, *outermost.itersiblings(preceding=True))):
        if number > _LOOKED_BACK or not isinstance(sibling.tag, str):
            break
        words = "".join(sibling.itertext()).strip() if local_name(sibling) in ("p", "h") else ""
        if words and local_name(sibling) == "h":
            return words
        before = before or words
    if before:
        return before
    after = next(outermost.itersiblings("{*}p", "{*}h"), None)
    return "".join(after.itertext()).strip() if after is not None else ""


TEXTS = OdfFamily(
    name="odt",
    noun="text",
    kinds=KINDS,
    extras=ODT_EXTRAS,
    words_near=_words_near,
    page_pt=(482.0, 728.0),  # what the margins usual on A4 leave
    titles={
        "content.xml": (PartKind.TEXT, "The text"),
        "styles.xml": (PartKind.STYLES, "Styles, headers and footers"),
        "settings.xml": (PartKind.STYLES, "Settings"),
        "manifest.rdf": (PartKind.STYLES, "Data about the text"),
    },
)
