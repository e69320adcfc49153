"""A presentation opened, with what is known of it before anything is weighed."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from lighten.containers.opc import OpcPackage, open_package
from lighten.containers.opc.drawings import Reference
from lighten.containers.opc.pictures import leftover_members, picture_members, picture_showings
from lighten.containers.pictures import MemberPicture, Showing, group_pictures
from lighten.errors import UnreadableFileError
from lighten.formats.pptx.deck import Deck
from lighten.formats.pptx.kinds import KIND_BY_MAIN_TYPE, is_template
from lighten.source import Source
from lighten.weights import ExtraKind

__all__ = ["Presentation", "is_film_or_sound", "open_presentation"]

_STORIES = ("slide", "slideLayout", "slideMaster", "notesSlide", "notesMaster", "handoutMaster")
_STORY_TYPES = tuple(f"presentationml.{name}+xml" for name in _STORIES)
_FILM_ENDINGS = (".mp4", ".m4v", ".mov", ".avi", ".wmv", ".mpg", ".mpeg", ".mkv", ".webm")
_SOUND_ENDINGS = (".mp3", ".m4a", ".wav", ".wma", ".aac", ".ogg")


@dataclass(frozen=True, slots=True, kw_only=True)
class Presentation:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    unused_layouts: members, with all that only they lead to. goes_with: by member, the extra that
    nothing else needs it for, of members that are weighed by themselves.
    """

    package: OpcPackage
    deck: Deck
    media_type: str
    pictures: tuple[MemberPicture, ...]
    unused_layouts: frozenset[str]
    goes_with: dict[str, ExtraKind]
    leftovers: frozenset[str]

    @property
    def stories(self) -> tuple[str, ...]:
        """XML members that hold what people drew and wrote."""
        return tuple(
            name
            for name in self.package.archive.members
            if self.package.content_type(name).endswith(_STORY_TYPES)
        )

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
        match extra:
            case ExtraKind.LEFTOVERS:
                return self.leftovers
            case ExtraKind.REPEATS:
                return frozenset(name for picture in self.pictures for name in picture.repeats)
            case ExtraKind.UNUSED_LAYOUTS:
                return self.unused_layouts - self.goes_with.keys()
        is_such = _WHOLE_EXTRAS.get(extra)
        if is_such is None:
            return frozenset()
        return frozenset(
            name
            for name in self.package.archive.members
            if is_such(name, self.package.content_type(name))
            and name not in self.leftovers
            and name not in self.unused_layouts
        )


_WHOLE_EXTRAS: dict[ExtraKind, Callable[[str, str], bool]] = {
    ExtraKind.THUMBNAILS: lambda name, _: name.startswith("docProps/thumbnail"),
    ExtraKind.PRINTER_SETTINGS: lambda name, told: (
        "printerSettings" in told or "/printerSettings" in name
    ),
    ExtraKind.VIEW_SETTINGS: lambda _, told: told.endswith("presentationml.viewProps+xml"),
    ExtraKind.EDITING_TRACES: lambda name, told: (
        "revisioninfo" in told.lower() or "changesinfo" in told.lower() or "/changesInfos/" in name
    ),
    ExtraKind.METADATA: lambda name, _: (
        name in ("docProps/core.xml", "docProps/app.xml", "docProps/custom.xml")
    ),
    ExtraKind.NOTES: lambda name, told: (
        "comment" in told.lower() or name == "ppt/authors.xml" or told.endswith("authors+xml")
    ),
    ExtraKind.SPEAKER_NOTES: lambda _, told: told.endswith("presentationml.notesSlide+xml"),
}


def open_presentation(source: Source) -> Presentation:
    """Raises: as `open_package`."""
    package = open_package(source)
    kind = KIND_BY_MAIN_TYPE.get(package.content_type(package.main))
    if kind is None:
        raise UnreadableFileError(
            f"{source.name}: does not say that it is a presentation. Open it in the program it "
            "came from and save it again, and try that file."
        )
    deck = Deck(package)
    keeps_layouts = is_template(kind.media_type) or any(
        name.endswith("vbaProject.bin") for name in package.archive.members
    )
    unused = frozenset() if keeps_layouts else deck.only_by_way_of(deck.unused_layouts)
    pictures = group_pictures(package.archive, picture_members(package), _showings(deck))
    members = {name for picture in pictures for name in (picture.member, *picture.repeats)}
    return Presentation(
        package=package,
        deck=deck,
        media_type=kind.media_type,
        pictures=pictures,
        unused_layouts=unused,
        goes_with=dict(_goes_with(deck, pictures, unused)),
        leftovers=frozenset(leftover_members(package) - members),
    )


def _goes_with(
    deck: Deck, pictures: tuple[MemberPicture, ...], unused_layouts: frozenset[str]
) -> Iterator[tuple[str, ExtraKind]]:
    """Members that are weighed by themselves, and go with an extra all the same."""
    package = deck.package
    notes = frozenset(
        name
        for name in package.archive.members
        if package.content_type(name).endswith("presentationml.notesSlide+xml")
    )
    in_notes = deck.only_by_way_of(notes)
    for name in package.archive.members:
        if is_film_or_sound(package, name):
            yield name, ExtraKind.MEDIA
    for picture in pictures:
        for kind, gone in (
            (ExtraKind.UNUSED_LAYOUTS, unused_layouts),
            (ExtraKind.SPEAKER_NOTES, in_notes),
        ):
            if gone.issuperset((picture.member, *picture.repeats)):
                yield from ((name, kind) for name in (picture.member, *picture.repeats))


def is_film_or_sound(package: OpcPackage, name: str) -> bool:
    told = package.content_type(name)
    return told.startswith(("video/", "audio/")) or name.lower().endswith(
        (*_FILM_ENDINGS, *_SOUND_ENDINGS)
    )


def _showings(deck: Deck) -> Iterator[tuple[str, str, Showing]]:
    """The place of each showing of a picture, the member shown there, and how."""
    order = {name: number for number, name in enumerate(deck.slides)}
    shown = sorted(
        picture_showings(deck.package), key=lambda showing: order.get(showing[0], len(order))
    )
    for member, reference, target in shown:
        size = _size_of(deck, member, reference)
        showing = Showing(
            width_pt=size[0] if size else None,
            height_pt=size[1] if size else None,
            visible=reference.visible,
            near=deck.where(member),
            is_tiled=reference.is_tiled,
        )
        yield f"{member}#{reference.place}", target, showing


def _size_of(deck: Deck, member: str, reference: Reference) -> tuple[float, float] | None:
    """Of the whole picture as shown; None where nothing says so."""
    if reference.width_pt and reference.height_pt:
        return reference.width_pt, reference.height_pt
    element = reference.element
    if next(element.iterancestors("{*}bg"), None) is not None:
        frame: tuple[float, float] | None = deck.size_pt
    else:
        frame = deck.inherited_size(member, element)
    left, top, right, bottom = reference.crop
    if frame is None or left + right >= 1 or top + bottom >= 1:
        return None
    return frame[0] / (1 - left - right), frame[1] / (1 - top - bottom)
