"""Features of OpenDocument presentations beyond those of every OpenDocument.

Source: ISO/IEC 26300 part 1, 9.2 (pages) and 9.1.5 (notes).
"""

from collections.abc import Collection
from typing import Any

from lighten.containers.odf.family import OdfFamily
from lighten.formats.odp.kinds import KINDS, ODP_EXTRAS
from lighten.model.kinds import ExtraKind, PartKind

__all__ = ["SLIDES"]


def _slide_of(element: Any) -> str:
    """Return the slide of an element, by its number and first words."""
    page = next(element.iterancestors("{*}page"), None)
    if page is None:
        return "slide master" if next(element.iterancestors("{*}master-page"), None) else ""
    number = 1 + len(list(page.itersiblings(page.tag, preceding=True)))
    words = next((text for text in map(_words_of, page.iter("{*}p")) if text), "")
    return f"slide {number}" + (f": {words}" if words else "")


def _words_of(paragraph: Any) -> str:
    if next(paragraph.iterancestors("{*}notes"), None) is not None:
        return ""
    return " ".join("".join(paragraph.itertext()).split())


def _drop_notes(root: Any, dropped: Collection[ExtraKind]) -> None:
    if ExtraKind.SPEAKER_NOTES in dropped:
        for notes in list(root.iterfind("{*}body/{*}presentation/{*}page/{*}notes")):
            notes.getparent().remove(notes)


SLIDES = OdfFamily(
    name="odp",
    noun="presentation",
    kinds=KINDS,
    extras=ODP_EXTRAS,
    words_near=_slide_of,
    page_pt=(793.7, 595.3),  # 28 x 21 cm
    titles={
        "content.xml": (PartKind.TEXT, "Slides"),
        "styles.xml": (PartKind.STYLES, "Styles and masters"),
        "settings.xml": (PartKind.STYLES, "Settings"),
        "manifest.rdf": (PartKind.STYLES, "Data about the slides"),
    },
    clean=_drop_notes,
    own_extras=(ExtraKind.SPEAKER_NOTES,),
)
