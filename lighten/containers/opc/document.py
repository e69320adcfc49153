"""Facts of a package of ECMA-376 that every kind of document reads before weighing."""

import posixpath
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import ClassVar

from lighten.containers.fonts import EmbeddedFont
from lighten.containers.opc.package import CONTENT_TYPES, OpcPackage
from lighten.containers.pictures import MemberPicture
from lighten.containers.weigh_package import Within
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.weights import Part

__all__ = ["OpcDocument", "Titles", "is_film_or_sound", "kind_of_member", "other_parts"]

# What members are by a piece of their content types, the first that fits; titles are for a person.
Titles = Sequence[tuple[str, PartKind, str]]
# Whether a member of that name and content type is nothing but an extra.
IsExtra = Callable[[str, str], bool]

_FILMS = (".mp4", ".m4v", ".mov", ".avi", ".wmv", ".mpg", ".mpeg", ".mkv", ".webm")
_SOUNDS = (".mp3", ".m4a", ".wav", ".wma", ".aac", ".ogg")
_DESCRIPTIONS = ("docProps/core.xml", "docProps/app.xml", "docProps/custom.xml")
_IN_ALL_KINDS: Mapping[ExtraKind, IsExtra] = MappingProxyType(
    {
        ExtraKind.THUMBNAILS: lambda name, _: name.startswith("docProps/thumbnail"),
        ExtraKind.PRINTER_SETTINGS: lambda name, content_type: (
            "printerSettings" in content_type or "/printerSettings" in name
        ),
        ExtraKind.METADATA: lambda name, _: name in _DESCRIPTIONS,
    }
)


@dataclass(frozen=True, kw_only=True)
class OpcDocument:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last. leftovers:
    members nothing leads to. own_extras: whole members that only this kind of document has.
    """

    package: OpcPackage
    media_type: str
    pictures: tuple[MemberPicture, ...]
    leftovers: frozenset[str]
    own_extras: ClassVar[Mapping[ExtraKind, IsExtra]] = MappingProxyType({})

    @property
    def spoken_for(self) -> frozenset[str]:
        """Return the members that belong to an extra."""
        return self.leftovers

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Return the members that hold extras of that kind and nothing else."""
        match extra:
            case ExtraKind.LEFTOVERS:
                return self.leftovers
            case ExtraKind.REPEATS:
                return frozenset(name for picture in self.pictures for name in picture.repeats)
        is_such = self.own_extras.get(extra) or _IN_ALL_KINDS.get(extra)
        if is_such is None:
            return frozenset()
        return frozenset(
            name
            for name in self.package.archive.members.keys() - self.spoken_for
            if is_such(name, self.package.content_type(name))
        )


def other_parts(
    document: OpcDocument,
    extras: Sequence[ExtraKind],
    within: Within,
    kind_of: Callable[[str], tuple[PartKind, str]],
    fonts: Mapping[str, EmbeddedFont] = MappingProxyType({}),
) -> Iterator[Part]:
    """Return a part for each member that is no picture, extra or structure.

    kind_of: what sort of weight a member is, and what a person calls it.
    """
    taken = {picture.member for picture in document.pictures}
    for extra in extras:
        taken |= document.members_of(extra)
    for name, member in document.package.archive.members.items():
        if name in taken or member.is_folder or name.endswith(".rels"):
            continue
        font = fonts.get(name)
        kind, title = (PartKind.FONT, font.title) if font else kind_of(name)
        if kind is not PartKind.STRUCTURE:
            yield Part(
                id=name,
                kind=kind,
                size_bytes=member.weight - sum(within.get(name, {}).values()),
                name=title,
                font=font.facts if font else None,
            )


def kind_of_member(package: OpcPackage, name: str, titles: Titles) -> tuple[PartKind, str]:
    """Return the kind of part that a member is, and its name for people."""
    content_type, base = package.content_type(name), posixpath.basename(name)
    for ending, kind, title in titles:
        if ending in content_type:
            return kind, f"{title} ({base})"
    if "/embeddings/" in name or content_type.endswith("oleObject"):
        return PartKind.EMBEDDED, base
    if is_film_or_sound(package, name):
        return PartKind.MEDIA, base
    if name == CONTENT_TYPES:
        return PartKind.STRUCTURE, ""
    return (PartKind.TEXT if package.is_xml(name) else PartKind.EMBEDDED), base


def is_film_or_sound(package: OpcPackage, name: str) -> bool:
    content_type = package.content_type(name)
    return content_type.startswith(("video/", "audio/")) or name.lower().endswith(
        (*_FILMS, *_SOUNDS)
    )
