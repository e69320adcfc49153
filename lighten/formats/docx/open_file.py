"""A text document opened, with what is known of it before anything is weighed."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from lighten.containers.opc import OpcPackage, open_package
from lighten.containers.opc.pictures import leftover_members, picture_members, picture_showings
from lighten.containers.pictures import MemberPicture, Showing, group_pictures
from lighten.formats.docx.definitions import Definitions, unused_definitions
from lighten.formats.docx.kinds import KIND_BY_MAIN_TYPE, is_template
from lighten.formats.docx.stories import story_members, style_names, words_near
from lighten.source import Source
from lighten.weights import ExtraKind

__all__ = ["TextDocument", "open_text_document"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TextDocument:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    """

    package: OpcPackage
    media_type: str
    stories: tuple[str, ...]
    pictures: tuple[MemberPicture, ...]
    unused: Definitions
    leftovers: frozenset[str]

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
        match extra:
            case ExtraKind.LEFTOVERS:
                return self.leftovers
            case ExtraKind.REPEATS:
                return frozenset(name for picture in self.pictures for name in picture.repeats)
        is_such = _WHOLE_EXTRAS.get(extra)
        if is_such is None:
            return frozenset()
        return frozenset(
            name
            for name in self.package.archive.members
            if is_such(name, self.package.content_type(name)) and name not in self.leftovers
        )


_WHOLE_EXTRAS: dict[ExtraKind, Callable[[str, str], bool]] = {
    ExtraKind.THUMBNAILS: lambda name, _: name.startswith("docProps/thumbnail"),
    ExtraKind.PRINTER_SETTINGS: lambda name, told: (
        "printerSettings" in told or "/printerSettings" in name
    ),
    ExtraKind.METADATA: lambda name, _: (
        name in ("docProps/core.xml", "docProps/app.xml", "docProps/custom.xml")
    ),
    ExtraKind.NOTES: lambda name, told: "comments" in told.lower(),
}


def open_text_document(source: Source) -> TextDocument:
    """Raises: as `open_package`."""
    package = open_package(source)
    stories = tuple(story_members(package))
    media_type = KIND_BY_MAIN_TYPE.get(
        package.content_type(package.main), next(iter(KIND_BY_MAIN_TYPE.values()))
    ).media_type
    # Macros may ask for styles by name, and building blocks have styles of their own by like names.
    keeps_styles = is_template(media_type) or any(
        name.endswith("vbaProject.bin") or "/glossary/" in name for name in package.archive.members
    )
    pictures = group_pictures(package.archive, picture_members(package), _showings(package))
    members = {name for one in pictures for name in (one.member, *one.repeats)}
    return TextDocument(
        package=package,
        media_type=media_type,
        stories=stories,
        pictures=pictures,
        unused=Definitions() if keeps_styles else unused_definitions(package, stories),
        leftovers=frozenset(leftover_members(package) - members),
    )


def _showings(package: OpcPackage) -> Iterator[tuple[str, str, Showing]]:
    """The place of each showing of a picture, the member shown there, and how."""
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
