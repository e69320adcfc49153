"""A text document opened, with what is known of it before anything is weighed."""

from collections.abc import Iterator
from dataclasses import dataclass
from types import MappingProxyType

from lighten.containers.opc import OpcPackage, open_package
from lighten.containers.opc.document import OpcDocument
from lighten.containers.opc.pictures import picture_showings, pictures_and_leftovers
from lighten.containers.pictures import Showing
from lighten.formats.docx.definitions import Definitions, unused_definitions
from lighten.formats.docx.kinds import KIND_BY_MAIN_TYPE, is_template
from lighten.formats.docx.stories import story_members, style_names, words_near
from lighten.model.kinds import ExtraKind
from lighten.model.source import Source

__all__ = ["TextDocument", "open_text_document"]


@dataclass(frozen=True, kw_only=True)
class TextDocument(OpcDocument):
    """stories: members with text. unused: styles and lists that nothing uses."""

    stories: tuple[str, ...]
    unused: Definitions
    own_extras = MappingProxyType(
        {ExtraKind.NOTES: lambda _, content_type: "comments" in content_type.lower()}
    )


def open_text_document(source: Source) -> TextDocument:
    """Open a text document. Raises: as `open_package`."""
    package = open_package(source)
    stories = tuple(story_members(package))
    media_type = KIND_BY_MAIN_TYPE.get(
        package.content_type(package.main), next(iter(KIND_BY_MAIN_TYPE.values()))
    ).media_type
    # Macros may ask for styles by name, and building blocks have styles of their own by like names.
    has_blocks = any("/glossary/" in name for name in package.archive.members)
    keeps_styles = is_template(media_type) or package.has_macros or has_blocks
    pictures, leftovers = pictures_and_leftovers(package, _showings(package))
    return TextDocument(
        package=package,
        media_type=media_type,
        stories=stories,
        pictures=pictures,
        unused=Definitions() if keeps_styles else unused_definitions(package, stories),
        leftovers=leftovers,
    )


def _showings(package: OpcPackage) -> Iterator[tuple[str, str, Showing]]:
    """Yield the position of each use of a picture, its member, and how it is shown."""
    names = style_names(package)
    for member, reference, target in picture_showings(package):
        showing = Showing(
            width_pt=reference.width_pt,
            height_pt=reference.height_pt,
            visible=reference.visible,
            near=words_near(reference.element, names),
            is_tiled=reference.is_tiled,
        )
        yield f"{member}#{reference.place}", target, showing
