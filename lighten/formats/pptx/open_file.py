"""A presentation opened, with what is known of it before anything is weighed."""

from collections.abc import Iterator
from dataclasses import dataclass
from types import MappingProxyType

from lighten.containers.opc import open_package
from lighten.containers.opc.document import OpcDocument, is_film_or_sound
from lighten.containers.opc.drawings import Reference
from lighten.containers.opc.pictures import picture_showings, pictures_and_leftovers
from lighten.containers.pictures import MemberPicture, Showing
from lighten.formats.pptx.deck import Deck
from lighten.formats.pptx.kinds import KIND_BY_MAIN_TYPE, is_template
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.source import Source

__all__ = ["Presentation", "open_presentation"]

_STORIES = ("slide", "slideLayout", "slideMaster", "notesSlide", "notesMaster", "handoutMaster")
_STORY_TYPES = tuple(f"presentationml.{name}+xml" for name in _STORIES)
_NOTES_TYPE = "presentationml.notesSlide+xml"


@dataclass(frozen=True, kw_only=True)
class Presentation(OpcDocument):
    """unused_layouts: members, with all that only they lead to. removed_with: by member, the extra
    that nothing else needs it for, of members that are weighed by themselves.
    """

    deck: Deck
    unused_layouts: frozenset[str]
    removed_with: dict[str, ExtraKind]
    own_extras = MappingProxyType(
        {
            ExtraKind.VIEW_SETTINGS: lambda _, content_type: content_type.endswith(
                "presentationml.viewProps+xml"
            ),
            ExtraKind.EDITING_TRACES: lambda name, content_type: (
                "revisioninfo" in content_type.lower()
                or "changesinfo" in content_type.lower()
                or "/changesInfos/" in name
            ),
            ExtraKind.NOTES: lambda name, content_type: (
                "comment" in content_type.lower()
                or name == "ppt/authors.xml"
                or content_type.endswith("authors+xml")
            ),
            ExtraKind.SPEAKER_NOTES: lambda _, content_type: content_type.endswith(_NOTES_TYPE),
        }
    )

    @property
    def stories(self) -> tuple[str, ...]:
        """Return XML members with drawings and words of people."""
        return tuple(
            name
            for name in self.package.archive.members
            if self.package.content_type(name).endswith(_STORY_TYPES)
        )

    @property
    def spoken_for(self) -> frozenset[str]:
        return self.leftovers | self.unused_layouts

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        if extra is ExtraKind.UNUSED_LAYOUTS:
            return self.unused_layouts - self.removed_with.keys()
        return super().members_of(extra)


def open_presentation(source: Source) -> Presentation:
    """Open a presentation. Raises: as `open_package`."""
    package = open_package(source)
    kind = KIND_BY_MAIN_TYPE.get(package.content_type(package.main))
    if kind is None:
        raise UnreadableFileError(
            f"{source.name}: does not say that it is a presentation. Open it in the program it "
            "came from and save it again, and try that file."
        )
    deck = Deck(package)
    keeps_layouts = is_template(kind.media_type) or package.has_macros
    unused = frozenset() if keeps_layouts else deck.only_by_way_of(deck.unused_layouts)
    pictures, leftovers = pictures_and_leftovers(package, _showings(deck))
    return Presentation(
        package=package,
        deck=deck,
        media_type=kind.media_type,
        pictures=pictures,
        unused_layouts=unused,
        removed_with=dict(_removed_with(deck, pictures, unused)),
        leftovers=leftovers,
    )


def _removed_with(
    deck: Deck, pictures: tuple[MemberPicture, ...], unused_layouts: frozenset[str]
) -> Iterator[tuple[str, ExtraKind]]:
    """Return members that are weighed by themselves but removed together with an extra."""
    package = deck.package
    notes = frozenset(
        name for name in package.archive.members if package.content_type(name).endswith(_NOTES_TYPE)
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


def _showings(deck: Deck) -> Iterator[tuple[str, str, Showing]]:
    """Yield the position of each use of a picture, its member, and how it is shown."""
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
    """Return the shown size of the whole picture; None where nothing declares it."""
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
