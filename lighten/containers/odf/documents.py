"""An OpenDocument opened, with what is known of it before anything is weighed."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from lighten.containers.odf.family import OdfFamily
from lighten.containers.odf.frames import (
    OBJECT_IMAGES,
    Frame,
    is_one_of_several,
    length_pt,
    picture_frames,
)
from lighten.containers.odf.package import MANIFEST, OdfPackage, open_package
from lighten.containers.pictures import (
    MemberPicture,
    Showing,
    group_pictures,
    member_picture,
)
from lighten.containers.pictures.member_file import natural_size_pt
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.source import Source
from lighten.pictures.files import BadPictureError

__all__ = ["STORIES", "OpenDocument", "open_document", "page_size"]

STORIES = ("content.xml", "styles.xml")
_EMPTY_BYTES = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenDocument:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    """

    package: OdfPackage
    media_type: str
    pictures: tuple[MemberPicture, ...]

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Return the members that hold extras of that kind and nothing else."""
        if extra is ExtraKind.REPEATS:
            return frozenset(name for picture in self.pictures for name in picture.repeats)
        return frozenset(
            name
            for name, member in self.package.archive.members.items()
            if _whole_extra(name, member.size_bytes) is extra
        )


def _whole_extra(name: str, size_bytes: int) -> ExtraKind | None:
    """Return the extra that a member is entirely part of, or None."""
    if name.startswith("Thumbnails/"):
        return ExtraKind.THUMBNAILS
    if name.startswith(OBJECT_IMAGES) and not name.endswith("/"):
        return ExtraKind.OBJECT_IMAGES
    is_empty = name.startswith("Configurations2/") and size_bytes <= _EMPTY_BYTES
    if is_empty or name == "layout-cache":
        return ExtraKind.VIEW_SETTINGS
    return ExtraKind.METADATA if name == "meta.xml" else None


def open_document(source: Source, family: OdfFamily) -> OpenDocument:
    """Open a document of one kind. Raises: as `open_package`; UnreadableFileError for others."""
    package = open_package(source)
    media_type = package.media_type
    if media_type not in {kind.media_type for kind in family.kinds}:
        raise UnreadableFileError(
            f"{source.name}: says that it is {media_type[:60]!r}, which is no {family.noun}. "
            "Fetch or save it again, and try that file."
        )
    members = [name for name in package.archive.members if _is_picture(package, name)]
    return OpenDocument(
        package=package,
        media_type=media_type,
        pictures=group_pictures(
            package.archive,
            members,
            _showings(package, family),
            frozenset(_used_otherwise(package, members)),
        ),
    )


def _used_otherwise(package: OdfPackage, members: Collection[str]) -> Iterator[str]:
    """Yield pictures that XML members other than the stories name: charts and other objects."""
    others = [
        package.archive.content(name)
        for name in package.archive.members
        if name.endswith((".xml", ".rdf")) and name not in (*STORIES, MANIFEST)
    ]
    for member in members:
        if any(member.encode() in content for content in others):
            yield member


def _showings(package: OdfPackage, family: OdfFamily) -> Iterator[tuple[str, str, Showing]]:
    """Yield the position of each use of a picture, its member, and how it is shown."""
    page = page_size(package, family)
    for story in STORIES:
        if story in package.archive.members:
            for frame in picture_frames(package.root(story)):
                if frame.target in package.archive.members:
                    yield (
                        f"{story}#{frame.place}",
                        frame.target,
                        _showing(package, frame, page, family),
                    )


def _is_picture(package: OdfPackage, name: str) -> bool:
    """Return whether a member is a picture by its path: those of objects and previews lie
    elsewhere.
    """
    is_declared = package.media_types.get(name, "").startswith("image/")
    return (
        (name.startswith("Pictures/") or is_declared)
        and not name.endswith("/")
        and not (name.startswith(("Thumbnails/", OBJECT_IMAGES)))
    )


def _showing(
    package: OdfPackage, frame: Frame, page: tuple[float, float], family: OdfFamily
) -> Showing:
    width, height = frame.width_pt, frame.height_pt
    holder = frame.element.getparent()
    relative = next(
        (value for key, value in holder.attrib.items() if key.endswith("}rel-width")), ""
    )
    if width is None and height is None and relative.endswith("%"):
        width = page[0]
    visible = (0.0, 0.0, 1.0, 1.0)
    if frame.clip is not None and (size := _natural_size(package, frame.clipped_by)) is not None:
        top, right, bottom, left = frame.clip
        visible = (left / size[0], top / size[1], 1 - right / size[0], 1 - bottom / size[1])
        across, down = visible[2] - visible[0], visible[3] - visible[1]
        if min(across, down) > 0:
            width, height = width and width / across, height and height / down
        if min(across, down) <= 0 or is_one_of_several(frame):
            visible = (0.0, 0.0, 1.0, 1.0)
    return Showing(
        width_pt=width,
        height_pt=height,
        visible=visible,
        near=family.words_near(frame.element),
        is_tiled=frame.is_tiled,
    )


def _natural_size(package: OdfPackage, member: str) -> tuple[float, float] | None:
    try:
        file = member_picture(package.archive.content(member))
    except BadPictureError:
        return None
    return natural_size_pt(file) if file is not None else None


def page_size(package: OdfPackage, family: OdfFamily) -> tuple[float, float]:
    """Return width and height of the first page between its margins, in points."""
    if "styles.xml" not in package.archive.members:
        return family.page_pt
    layout = next(package.root("styles.xml").iter("{*}page-layout-properties"), None)
    if layout is None:
        return family.page_pt
    attributes = {key.rpartition("}")[2]: value for key, value in layout.attrib.items()}
    width, height = (length_pt(attributes.get(name, "")) for name in ("page-width", "page-height"))
    if width is None or height is None:
        return family.page_pt
    left, right, top, bottom = (
        length_pt(attributes.get(f"margin-{side}", attributes.get("margin", ""))) or 0.0
        for side in ("left", "right", "top", "bottom")
    )
    inner = (width - left - right, height - top - bottom)
    return inner if min(inner) > 0 else family.page_pt
