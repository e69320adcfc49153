"""An OpenDocument text opened, with what is known of it before anything is weighed."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from lighten.containers.odf import Frame, OdfPackage, open_package, picture_frames
from lighten.containers.odf.frames import is_one_of_several, length_pt
from lighten.containers.pictures import (
    MemberPicture,
    Showing,
    group_pictures,
    member_picture,
)
from lighten.containers.pictures.member_file import natural_size_pt
from lighten.containers.xml_parts import local_name
from lighten.errors import UnreadableFileError
from lighten.formats.odt.clean_story import unused_styles
from lighten.formats.odt.kinds import KINDS, TEMPLATE
from lighten.pictures.files import BadPictureError
from lighten.source import Source
from lighten.weights import ExtraKind

__all__ = ["STORIES", "OpenText", "open_text", "page_size"]

STORIES = ("content.xml", "styles.xml")
_PAGE_PT = (482.0, 728.0)  # what the margins usual on A4 leave
_LOOKED_BACK = 400  # paragraphs and tables
_EMPTY_BYTES = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenText:
    """A package and what is known of it before anything is weighed.

    pictures: in the order of their first showing, those that nothing shows last.
    unused: families and names of styles.
    """

    package: OdfPackage
    media_type: str
    pictures: tuple[MemberPicture, ...]
    unused: frozenset[tuple[str, str]]

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
        if extra is ExtraKind.REPEATS:
            return frozenset(name for picture in self.pictures for name in picture.repeats)
        return frozenset(
            name
            for name, member in self.package.archive.members.items()
            if _whole_extra(name, member.size_bytes) is extra
        )


def _whole_extra(name: str, size_bytes: int) -> ExtraKind | None:
    """What a member is where it is nothing but an extra."""
    if name.startswith("Thumbnails/"):
        return ExtraKind.THUMBNAILS
    if name.startswith("ObjectReplacements/") and not name.endswith("/"):
        return ExtraKind.OBJECT_IMAGES
    is_empty = name.startswith("Configurations2/") and size_bytes <= _EMPTY_BYTES
    if is_empty or name == "layout-cache":
        return ExtraKind.VIEW_SETTINGS
    return ExtraKind.METADATA if name == "meta.xml" else None


def open_text(source: Source) -> OpenText:
    """Raises: as `open_package`."""
    package = open_package(source)
    media_type = package.archive.content("mimetype").decode("ascii", "replace").strip()
    if media_type not in {kind.media_type for kind in KINDS}:
        raise UnreadableFileError(
            f"{source.name}: says that it is {media_type[:60]!r}, which is no text. Fetch or save "
            "it again, and try that file."
        )
    keeps_styles = media_type == TEMPLATE or any(
        name.startswith(("Basic/", "Scripts/")) for name in package.archive.members
    )
    members = [name for name in package.archive.members if _is_picture(package, name)]
    roots = [package.root(name) for name in STORIES if name in package.archive.members]
    return OpenText(
        package=package,
        media_type=media_type,
        pictures=group_pictures(package.archive, members, _showings(package)),
        unused=frozenset() if keeps_styles else unused_styles(roots),
    )


def _showings(package: OdfPackage) -> Iterator[tuple[str, str, Showing]]:
    """The place of each showing of a picture, the member shown there, and how."""
    page = page_size(package)
    for story in STORIES:
        if story in package.archive.members:
            for frame in picture_frames(package.root(story)):
                if frame.target in package.archive.members:
                    yield f"{story}#{frame.place}", frame.target, _showing(package, frame, page)


def _is_picture(package: OdfPackage, name: str) -> bool:
    """By its place: pictures of objects and previews lie elsewhere."""
    is_told = package.media_types.get(name, "").startswith("image/")
    return (
        (name.startswith("Pictures/") or is_told)
        and not name.endswith("/")
        and not (name.startswith(("Thumbnails/", "ObjectReplacements/")))
    )


def _showing(package: OdfPackage, frame: Frame, page: tuple[float, float]) -> Showing:
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
        near=_words_near(frame.element),
        is_tiled=frame.is_tiled,
    )


def _natural_size(package: OdfPackage, member: str) -> tuple[float, float] | None:
    try:
        file = member_picture(package.archive.content(member))
    except BadPictureError:
        return None
    return natural_size_pt(file) if file is not None else None


def _words_near(element: Any) -> str:
    """The nearest heading before an element of the text, or else what stands by it."""
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


def page_size(package: OdfPackage) -> tuple[float, float]:
    """Width and height of the first page between its margins, in points."""
    if "styles.xml" not in package.archive.members:
        return _PAGE_PT
    layout = next(package.root("styles.xml").iter("{*}page-layout-properties"), None)
    if layout is None:
        return _PAGE_PT
    told = {key.rpartition("}")[2]: value for key, value in layout.attrib.items()}
    width, height = (length_pt(told.get(name, "")) for name in ("page-width", "page-height"))
    if width is None or height is None:
        return _PAGE_PT
    left, right, top, bottom = (
        length_pt(told.get(f"margin-{side}", told.get("margin", ""))) or 0.0
        for side in ("left", "right", "top", "bottom")
    )
    inner = (width - left - right, height - top - bottom)
    return inner if min(inner) > 0 else _PAGE_PT
